#pragma once
#include "app/document.h"
#include "app/newest_task.h"
#include "app/plots/patch_plot.h"
#include "app/shown_shot.h"

class QLabel;
class QPushButton;

namespace mirolux::app {

/// Patches at work: they shoot beside the window, one shot at a time or until little light is left, while the picture
/// takes the light so far and shows the patch that shot. At the Ambient station, where light maps are computed so.
class PatchBench : public QWidget {
    Q_OBJECT
public:
    explicit PatchBench(Document& document, QWidget* parent = nullptr);
    ~PatchBench() override;
    /// True where the setup asks for it.
    bool wanted() const;
    void shoot();    // or stop
    void one_shot(); // the next patch alone
    void look();     // moves the camera to where the patch that shot is seen well; at once, or when the shot is over
    bool working() const { return working_; }
    const ShownShot& last() const { return last_; }

signals:
    void shot(); // last() is another
    void kept(); // the map on the disk has the light so far
    void rested();

private:
    void take();
    void show_state();
    void run(bool once);
    void ended(const QString& words);

    Document& document_;
    QPushButton *shoot_, *one_, *look_;
    QLabel* state_;
    PatchPlot* plot_;
    bool working_ = false, looks_ = false; // looks_: when the shot is over
    std::atomic<bool> stop_ = false;
    QString found_; // what the last run said
    std::size_t patches_ = 0;
    ShownShot last_;
    std::string digest_;                      // of the bake that the words and the plot are of
    std::unique_ptr<PatchBake> bake_;         // the thread's own
    std::shared_ptr<const SceneAsset> whole_; // with its pictures: the thread's own
    NewestTask task_;                         // last: its thread uses the others
};

} // namespace mirolux::app
