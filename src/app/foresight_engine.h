#pragma once
#include "app/document.h"
#include "app/render_bridge.h"
#include "core/cost/foresight.h"
#include <memory>

namespace mirolux::app {

/// Foresees what a choice would cost while the pointer rests on it: counts its work in a worker of its own, which runs
/// only where nothing else wants the processor and stands still while anything of the picture is under way or measured.
class ForesightEngine : public QObject {
    Q_OBJECT
public:
    ForesightEngine(Document& document, const RenderBridge& bridge, WorkerOptions options, QObject* parent = nullptr);
    ~ForesightEngine() override;

    void consider(const std::optional<Consideration>& choice);
    /// Choices that someone shows beside each other: each is counted when there is nothing else to do, and foreseen.
    void prepare(std::vector<Consideration> choices);
    /// Measures the device's rates once, beside the window; the profile is kept for this user.
    void calibrate();
    /// Work is counted with the shaders that the picture is drawn with.
    void use_shader_folder(const QString& folder);
    bool calibrating() const { return calibrator_ != nullptr; }
    bool calibrated() const { return profile_.has_value(); }
    /// The worker that counts stands still.
    bool paused() const { return paused_; }
    int worker_pid() const { return counter_ ? counter_->worker_pid() : 0; }
    /// Counts that were made, not taken from what was known.
    int counts() const { return counts_; }

signals:
    void foreseen(const QString& words, const Foresight& foresight);
    void said(const QString& words, bool asksConsent); // in place of a foresight: why there is none yet
    void nothing();
    void prepared(const Consideration& choice, const Foresight& foresight);
    void calibrated_now(const QString& trouble); // why there is no profile, or why it is not kept; empty: it is
    void
    missed(const QString& words); // a choice was foreseen, taken and measured, and lies outside; empty: it does not

private:
    void rested();
    void show_known(const CountedFrame& next);
    bool take_profile();
    void count(const Consideration& choice);
    void go_on();
    void pause(bool on);
    void check_taken();
    const CountedFrame* known(const Consideration& choice) const;
    const CountedFrame* now();
    PassTimes times() const;
    void forget_other_scenes();
    std::unique_ptr<AsyncRenderer> started(WorkerOptions options);

    struct Known {
        Setup setup;
        View view;
        CountedFrame frame;
    };
    struct Taken {
        Setup setup;
        View view;
        Foresight foresight;
    };
    Document& document_;
    const RenderBridge& bridge_;
    WorkerOptions options_;
    QTimer rest_, lingering_;
    bool asksConsent_ = false;
    std::optional<Consideration> choice_;
    std::vector<Consideration> prepared_;
    std::optional<DeviceProfile> profile_;
    Scene scene_;              // that what is known is of
    std::optional<Known> now_; // the present frame, once it is counted
    std::vector<Known> known_;
    std::optional<Taken> last_; // the newest foresight, until its choice is taken and measured
    std::uint64_t newest_ = 0;
    std::map<std::uint64_t, Known> asked_;
    int counts_ = 0;
    bool paused_ = false;
    std::unique_ptr<AsyncRenderer> counter_, calibrator_;
};

} // namespace mirolux::app
