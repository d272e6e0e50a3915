#include "app/command_list.h"
#include "app/theme.h"
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

namespace mirolux::app {

CommandList::CommandList(QWidget* parent) : QFrame(parent) {
    setFrameShape(QFrame::StyledPanel);
    setAutoFillBackground(true);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 8);
    line_ = new QLineEdit(this);
    line_->setObjectName("command line");
    line_->setPlaceholderText(tr("Type a part of a command's name"));
    line_->setAccessibleName(tr("Find a command"));
    line_->setToolTip(tr("Shows the commands whose name holds these letters; Return runs the chosen one."));
    list_ = new QListWidget(this);
    list_->setAccessibleName(tr("Commands"));
    list_->setToolTip(tr("Commands with their keys; Up, Down and Return, or a click."));
    column->addWidget(line_);
    column->addWidget(list_);
    line_->installEventFilter(this);
    connect(line_, &QLineEdit::textChanged, this, [this] { fill(); });
    connect(list_, &QListWidget::itemClicked, this, [this] { run(); });
    hide();
}

void CommandList::open(const QList<QAction*>& commands) {
    commands_ = commands;
    line_->clear();
    fill();
    const int width = 460, height = 380;
    setGeometry((parentWidget()->width() - width) / 2, 56, width, height);
    show();
    raise();
    line_->setFocus();
}

void CommandList::fill() {
    list_->clear();
    const QStringList parts = line_->text().split(' ', Qt::SkipEmptyParts);
    for (QAction* a : commands_) {
        bool all = a->isEnabled();
        for (const QString& part : parts)
            all = all && a->text().contains(part, Qt::CaseInsensitive);
        if (!all) continue;
        const QString key = a->shortcut().toString(QKeySequence::NativeText);
        auto* item = new QListWidgetItem(key.isEmpty() ? a->text() : a->text() + "    (" + key + ")", list_);
        item->setData(Qt::UserRole, QVariant::fromValue(static_cast<QObject*>(a)));
        item->setToolTip(a->toolTip());
    }
    list_->setCurrentRow(0);
}

void CommandList::run() {
    QListWidgetItem* item = list_->currentItem();
    hide();
    if (auto* action = item ? qobject_cast<QAction*>(item->data(Qt::UserRole).value<QObject*>()) : nullptr)
        action->trigger();
}

bool CommandList::eventFilter(QObject* object, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Escape) return hide(), true;
        if (key == Qt::Key_Return || key == Qt::Key_Enter) return run(), true;
        if (key == Qt::Key_Down || key == Qt::Key_Up) {
            list_->setCurrentRow(
                std::clamp(list_->currentRow() + (key == Qt::Key_Down ? 1 : -1), 0, list_->count() - 1));
            return true;
        }
    }
    if (event->type() == QEvent::FocusOut && !list_->hasFocus() && isVisible() && !list_->underMouse()) hide();
    return QFrame::eventFilter(object, event);
}

} // namespace mirolux::app
