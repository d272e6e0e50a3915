#include "app/logbook_panel.h"
#include "app/theme.h"
#include <QDateTime>
#include <QLabel>
#include <QLineEdit>
#include <QPixmap>
#include <QProgressBar>
#include <QPushButton>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

namespace mirolux::app {

EntryCard::EntryCard(const Entry& e, const Entry* before, QWidget* parent) : QFrame(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 6);
    column->setSpacing(3);
    QPixmap picture;
    picture.loadFromData(e.thumbnail.data(), static_cast<uint>(e.thumbnail.size()), "PNG");
    if (!picture.isNull()) {
        auto* thumbnail = new QLabel(this);
        thumbnail->setPixmap(picture.scaledToWidth(170, Qt::SmoothTransformation));
        column->addWidget(thumbnail);
    }
    auto* time = new QLabel(QString("<b>%1 ms</b>  <span style='color:%2'>%3 to %4</span>")
                                .arg(e.frame.median, 0, 'f', 1)
                                .arg(theme().quiet.name())
                                .arg(e.frame.low, 0, 'f', 1)
                                .arg(e.frame.high, 0, 'f', 1),
                            this);
    time->setToolTip(tr("Median of %1 rounds with its 95 % interval; %2 clock, %3x%4, %5. Budget %6 ms.")
                         .arg(e.rounds)
                         .arg(QString::fromStdString(e.clock))
                         .arg(e.width)
                         .arg(e.height)
                         .arg(QString::fromStdString(e.device))
                         .arg(e.budgetMs, 0, 'f', 2));
    column->addWidget(time);
    if (before && before->width == e.width && before->height == e.height && before->frame.median > 0) {
        // Two entries were measured one after the other, not in pairs: the intervals must be apart before a word is said.
        const double percent = 100 * (e.frame.median / before->frame.median - 1);
        const bool apart = e.frame.low > before->frame.high || e.frame.high < before->frame.low;
        auto* delta = new QLabel(apart ? tr("%1%2 % to the one before").arg(percent > 0 ? "+" : "").arg(percent, 0, 'f', 0) : tr("no difference shown"), this);
        delta->setStyleSheet(QString("color:%1;font-size:11px").arg(!apart ? theme().quiet.name() : percent > 0 ? theme().alarm.name() : theme().a.name()));
        delta->setToolTip(tr("Said only where the two intervals are apart. For a small difference measure both in paired rounds: mirolux-cli measure --against."));
        column->addWidget(delta);
    }
    QStringList changes;
    for (const std::string& c : e.changes)
        changes << QString::fromStdString(c);
    if (changes.isEmpty()) changes << tr("nothing changed");
    auto* what = new QLabel(changes.mid(0, 4).join("\n") + (changes.size() > 4 ? tr("\nand %1 more").arg(changes.size() - 4) : QString()), this);
    what->setWordWrap(true);
    what->setObjectName("quiet");
    what->setToolTip(changes.join("\n"));
    column->addWidget(what);
    auto* note = new QLineEdit(QString::fromStdString(e.note), this);
    note->setPlaceholderText(tr("note"));
    note->setFrame(false);
    note->setToolTip(tr("Your own words about this state; Enter keeps them."));
    column->addWidget(note);
    auto* row = new QHBoxLayout;
    row->setSpacing(2);
    row->setContentsMargins(0, 0, 0, 0);
    auto* when = new QLabel(QDateTime::fromString(QString::fromStdString(e.created), Qt::ISODate).toLocalTime().toString("d MMM HH:mm"), this);
    when->setObjectName("quiet");
    auto* restore = new QToolButton(this);
    restore->setText(tr("Restore"));
    restore->setToolTip(tr("Brings setup, lights and view back to this state; undo takes you back."));
    auto* remove = new QToolButton(this);
    remove->setText(tr("Delete"));
    remove->setToolTip(tr("Takes the entry out of the logbook; undo brings it back."));
    column->insertWidget(0, when);
    row->addStretch(1);
    row->addWidget(restore);
    row->addWidget(remove);
    column->addLayout(row);
    const qint64 id = e.id;
    connect(restore, &QToolButton::clicked, this, [this, id] { emit restore_wanted(id); });
    connect(remove, &QToolButton::clicked, this, [this, id] { emit delete_wanted(id); });
    connect(note, &QLineEdit::editingFinished, this, [this, id, note] {
        if (!note->isModified()) return;
        note->setModified(false);
        emit annotated(id, note->text());
    });
    setStyleSheet(QString("EntryCard{border-bottom:1px solid %1}").arg(theme().line.name()));
}

LogbookPanel::LogbookPanel(QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 8, 0, 0);
    column->setSpacing(4);
    auto* title = new QLabel(tr("Logbook"), this);
    title->setObjectName("title");
    title->setContentsMargins(10, 0, 0, 0);
    column->addWidget(title);
    progress_ = new QWidget(this);
    auto* p = new QVBoxLayout(progress_);
    p->setContentsMargins(10, 2, 10, 4);
    progressText_ = new QLabel(progress_);
    bar_ = new QProgressBar(progress_);
    bar_->setTextVisible(false);
    bar_->setFixedHeight(6);
    auto* stop = new QPushButton(tr("Stop"), progress_);
    stop->setObjectName("stop measuring");
    stop->setToolTip(tr("Stops the measurement and keeps the rounds that were taken."));
    p->addWidget(progressText_);
    p->addWidget(bar_);
    p->addWidget(stop);
    column->addWidget(progress_);
    progress_->hide();
    trouble_ = new QLabel(this);
    trouble_->setObjectName("alarm");
    trouble_->setWordWrap(true);
    trouble_->setContentsMargins(10, 2, 10, 2);
    trouble_->hide();
    column->addWidget(trouble_);
    empty_ = new QLabel(tr("Nothing is logged yet.\n\nLog it (L) measures the state that you see and keeps it here. Change one thing, log again, and read what it gained."), this);
    empty_->setObjectName("quiet");
    empty_->setWordWrap(true);
    empty_->setContentsMargins(10, 6, 10, 0);
    column->addWidget(empty_);
    scroll_ = new QScrollArea(this);
    scroll_->setFrameShape(QFrame::NoFrame);
    scroll_->setWidgetResizable(true);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_ = new QWidget(scroll_);
    column_ = new QVBoxLayout(list_);
    column_->setContentsMargins(0, 0, 0, 0);
    column_->setSpacing(0);
    column_->addStretch();
    scroll_->setWidget(list_);
    scroll_->hide();
    column->addWidget(scroll_, 1);
    rest_ = new QWidget(this); // holds the panel's foot when there is no list
    column->addWidget(rest_, 1);
    connect(stop, &QPushButton::clicked, this, &LogbookPanel::stop_wanted);
}

void LogbookPanel::show_entries(const std::vector<Entry>& entries) {
    while (column_->count() > 1) {
        QLayoutItem* item = column_->takeAt(0);
        delete item->widget();
        delete item;
    }
    // The newest two hundred are enough to read; all of them stay in the file.
    for (std::size_t i = 0; i < entries.size() && i < 200; ++i) {
        auto* card = new EntryCard(entries[i], i + 1 < entries.size() ? &entries[i + 1] : nullptr, list_);
        connect(card, &EntryCard::restore_wanted, this, &LogbookPanel::restore_wanted);
        connect(card, &EntryCard::delete_wanted, this, &LogbookPanel::delete_wanted);
        connect(card, &EntryCard::annotated, this, &LogbookPanel::annotated);
        column_->insertWidget(static_cast<int>(i), card);
    }
    empty_->setVisible(entries.empty());
    scroll_->setVisible(!entries.empty());
    rest_->setVisible(entries.empty());
}

void LogbookPanel::show_progress(int round, int rounds, double estimateMs) {
    trouble_->hide();
    progress_->show();
    bar_->setRange(0, rounds);
    bar_->setValue(round);
    progressText_->setText(round == 0 ? tr("Warming up") : tr("Round %1 of %2: %3 ms").arg(round).arg(rounds).arg(estimateMs, 0, 'f', 1));
}

void LogbookPanel::show_rest() { progress_->hide(); }

void LogbookPanel::show_trouble(const QString& text) {
    trouble_->setText(text);
    trouble_->setVisible(!text.isEmpty());
}

} // namespace mirolux::app
