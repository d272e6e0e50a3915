#pragma once
#include "app/bake_task.h"
#include <QWidget>

class QLabel;
class QPushButton;

namespace mirolux::app {

/// What a row bakes.
struct BakeSubject {
    QString name;    // of the button, for scripts and tests
    QString caption; // on it
    QString tip;
    std::function<bool(const Setup&)> wanted;                    // the row is there
    std::function<QString(const Scene&, const Setup&)> standing; // what there is by now
    BakeTask::Beginning begins;
};

/// A button that bakes beside the window, and words on what there is.
class BakeRow : public QWidget {
    Q_OBJECT
public:
    BakeRow(Document& document, BakeSubject subject, QWidget* parent = nullptr);
    bool wanted() const;
    void bake(); // or stop
    bool working() const { return task_.working(); }

signals:
    void baked(); // or stopped, or failed

private:
    void take();

    Document& document_;
    BakeSubject subject_;
    QPushButton* button_;
    QLabel* state_;
    QString found_; // the last answer
    BakeTask task_;
};

/// Masks of shadows, for the Shadows station; occlusion, for the Ambient one.
BakeSubject mask_subject();
BakeSubject occlusion_subject();

} // namespace mirolux::app
