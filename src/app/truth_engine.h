#pragma once
#include "app/picture_pair.h"
#include "core/truth/truth_picture.h"
#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <thread>

namespace mirolux::app {

/// What is asked for.
struct TruthQuestion {
    Scene scene;
    Setup setup; // of the tracing, and of how its picture is shown
    View view;
    truth::Options options;
};

/// How far it has come.
struct TruthState {
    truth::Layer layer = truth::Layer::final;
    FloatImage values; // cd/m2, or shares
    ByteImage picture; // as the frame's finish shows them
    std::uint32_t samples = 0;
    double error = 0, share = 0, secondsLeft = 0;
    bool done = false;
    // Against the frame, where its values were given in the same size.
    std::optional<truth::Distance> distance;
    std::shared_ptr<const PairDifference> maps;
};

/// Traces truth beside the window: one question at a time, the newest; what has come is kept on disk by its digest, so
/// that coming back to a question goes on where it was left. Stands still while it is told to.
class TruthEngine : public QObject {
    Q_OBJECT
public:
    explicit TruthEngine(QObject* parent = nullptr);
    ~TruthEngine() override;
    /// None: nothing is traced any more.
    void ask(std::optional<TruthQuestion> question);
    /// The frame that it is held against.
    void set_frame(std::shared_ptr<const FloatImage> values, const ByteImage& picture);
    /// While the person drags or the device measures.
    void pause(bool on);
    bool paused() const { return paused_; }
    /// Nothing is traced, and nothing will be written until the next question.
    bool at_rest() const { return !tracing_; }
    static constexpr std::uint32_t mostSamples = 1024;

signals:
    void refined(const std::shared_ptr<const TruthState>& state);
    void troubled(const QString& words); // what was kept could not be used, or cannot be kept

private:
    struct Tracing {
        truth::SampleOf sample;
        std::string digest;
        std::function<FloatImage(FloatImage)> picture; // of the samples' mean
    };
    void work();
    Tracing tracing_of(const TruthQuestion& question);
    Scene with_pictures(const Scene& scene);
    void trace(const TruthQuestion& question, std::uint64_t number);
    void tell(const truth::Picture& picture, const TruthQuestion& question, const Tracing& tracing, double share,
              bool done, std::uint64_t number);
    bool goes_on(std::uint64_t number);

    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<TruthQuestion> question_;
    std::shared_ptr<const FloatImage> frameValues_;
    ByteImage framePicture_;
    std::uint64_t number_ = 0; // of the newest question
    bool ending_ = false;
    std::atomic<bool> paused_ = false, tracing_ = false;
    std::shared_ptr<const SceneAsset> whole_; // with its pictures: the thread's own
    std::shared_ptr<RayScene> rays_;          // of the last question: the thread's own
    std::vector<std::string> remarks_;        // of the last question: the thread's own
    std::thread thread_;
};

} // namespace mirolux::app
