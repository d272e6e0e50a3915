#include "app/logbook_panel.h"
#include "app/theme.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QProgressBar>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

void Narrowing::add(const Interval& interval) {
    if (interval.median > 0) rounds_.push_back(interval);
    update();
}

void Narrowing::clear() {
    rounds_.clear();
    update();
}

void Narrowing::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    if (rounds_.size() < 2) return;
    const std::size_t first = rounds_.size() > 60 ? rounds_.size() - 60 : 0;
    double low = 1e300, high = -1e300;
    for (std::size_t i = first; i < rounds_.size(); ++i) {
        low = std::min(low, rounds_[i].low);
        high = std::max(high, rounds_[i].high);
    }
    if (!(high > low)) return;
    const auto y = [&](double ms) { return 3 + (height() - 6.0) * (high - ms) / (high - low); };
    const double step = std::min(12.0, (width() - 4.0) / static_cast<double>(rounds_.size() - first));
    for (std::size_t i = first; i < rounds_.size(); ++i) {
        const double x = 4 + step * static_cast<double>(i - first);
        p.setPen(QPen(i + 1 == rounds_.size() ? t.text : t.quiet, 2));
        p.drawLine(QPointF(x, y(rounds_[i].low)), QPointF(x, y(rounds_[i].high)));
        p.setPen(QPen(t.text, 3));
        p.drawPoint(QPointF(x, y(rounds_[i].median)));
    }
}

LogbookPanel::LogbookPanel(QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 8, 0, 0);
    column->setSpacing(4);
    auto* title = new QLabel(tr("Logbook"), this);
    title->setObjectName("title");
    auto* head = new QHBoxLayout;
    head->setContentsMargins(10, 0, 6, 0);
    auto* journal = new QPushButton(tr("Journal"), this);
    journal->setObjectName("open journal");
    journal->setToolTip(tr("All entries on one axis of time against the budget (J)."));
    head->addWidget(title);
    head->addStretch(1);
    head->addWidget(journal);
    column->addLayout(head);
    connect(journal, &QPushButton::clicked, this, &LogbookPanel::journal_wanted);
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
    progressText_->setWordWrap(true);
    narrowing_ = new Narrowing(progress_);
    narrowing_->setFixedHeight(44);
    narrowing_->setToolTip(tr("The median and its 95 % interval after each round: it narrows as rounds come in."));
    p->addWidget(progressText_);
    p->addWidget(narrowing_);
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
    empty_ = new QLabel(tr("Nothing is logged yet.\n\nLog it (L) measures the state that you see and keeps it here. "
                           "Change one thing, log again, and read what it gained."),
                        this);
    empty_->setObjectName("quiet");
    empty_->setWordWrap(true);
    empty_->setContentsMargins(10, 6, 10, 0);
    column->addWidget(empty_);
    list_ = new EntryList(this);
    list_->hide();
    column->addWidget(list_, 1);
    connect(list_, &EntryList::restore_wanted, this, &LogbookPanel::restore_wanted);
    connect(list_, &EntryList::delete_wanted, this, &LogbookPanel::delete_wanted);
    connect(list_, &EntryList::annotated, this, &LogbookPanel::annotated);
    rest_ = new QWidget(this); // holds the panel's foot when there is no list
    column->addWidget(rest_, 1);
    connect(stop, &QPushButton::clicked, this, &LogbookPanel::stop_wanted);
}

void LogbookPanel::show_entries(std::vector<EntryPoint> points,
                                std::function<std::vector<Entry>(const std::vector<std::int64_t>&)> fetch) {
    const bool none = points.empty();
    list_->show_entries(std::move(points), std::move(fetch));
    empty_->setVisible(none);
    list_->setVisible(!none);
    rest_->setVisible(none);
}

void LogbookPanel::show_progress(const MeasureProgress& progress) {
    trouble_->hide();
    if (progress.round == 0)
        narrowing_->clear();
    else
        narrowing_->add(progress.frame);
    progress_->show();
    bar_->setRange(0, progress.rounds);
    bar_->setValue(progress.round);
    QString text =
        progress.round == 0 ? tr("Warming up") : tr("Round %1 of %2").arg(progress.round).arg(progress.rounds);
    if (progress.estimateMs > 0 && progress.frame.median > 0)
        text += tr(": %1 ms (%2 to %3)")
                    .arg(progress.frame.median, 0, 'f', 1)
                    .arg(progress.frame.low, 0, 'f', 1)
                    .arg(progress.frame.high, 0, 'f', 1);
    progressText_->setText(text);
}

QString LogbookPanel::progress_text() const {
    return progressText_->text();
}

void LogbookPanel::show_rest() {
    progress_->hide();
}

void LogbookPanel::show_trouble(const QString& text) {
    trouble_->setText(text);
    trouble_->setVisible(!text.isEmpty());
}

} // namespace mirolux::app
