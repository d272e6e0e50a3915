#pragma once
#include <QAction>
#include <QFrame>

class QLineEdit;
class QListWidget;

namespace mirolux::app {

/// Every command with its key, found by typing a part of its name.
class CommandList : public QFrame {
    Q_OBJECT
public:
    explicit CommandList(QWidget* parent);
    void open(const QList<QAction*>& commands);

protected:
    bool eventFilter(QObject*, QEvent*) override;

private:
    void fill();
    void run();
    QList<QAction*> commands_;
    QLineEdit* line_;
    QListWidget* list_;
};

} // namespace mirolux::app
