#include "app/benches.h"
#include "core/plan/frame_plan.h"
#include <QLocale>
#include <QPushButton>
#include <QVBoxLayout>

// One pass: times, counters, targets.
namespace mirolux::app {

PassBench::PassBench(Document& document, const RenderBridge& bridge, QWidget* parent)
    : QWidget(parent), document_(document), bridge_(bridge) {
    column_ = bench_column(this, {});
    title_ = new QLabel(this);
    title_->setObjectName("title");
    column_->addWidget(title_);
    what_ = quiet_label({}, this);
    column_->addWidget(what_);
    numbers_ = new QLabel(this);
    numbers_->setTextFormat(Qt::RichText);
    column_->addWidget(numbers_);
    targets_ = quiet_label({}, this);
    column_->addWidget(targets_);
    auto* back = new QPushButton(tr("Back to the station"), this);
    back->setToolTip(tr("Clears the selection of this pass."));
    connect(back, &QPushButton::clicked, this, &PassBench::back_wanted);
    column_->addStretch();
    column_->addWidget(back);
}

void PassBench::set_pass(const QString& name) {
    if (name_ != name) {
        delete rows_;
        rows_ = nullptr;
    }
    name_ = name;
    fill();
}

/// Rows of a table of label and value.
static QString table(const QList<std::pair<QString, QString>>& rows) {
    QString html = "<table cellspacing='0' cellpadding='2'>";
    for (const auto& [label, value] : rows)
        html += "<tr><td style='padding-right:14px'>" + label + "</td><td align='right'>" + value + "</td></tr>";
    return html + "</table>";
}

/// Times of a pass, its counted work, and what follows from both.
static QString pass_numbers(const FrameHistory::PassCost& c, double frameMs, const View& view) {
    QList<std::pair<QString, QString>> rows;
    rows << std::pair(PassBench::tr("Time, median"), QString("<b>%1 ms</b>").arg(c.median, 0, 'f', 2));
    rows << std::pair(PassBench::tr("Middle half"),
                      QString("%1 to %2 ms").arg(c.low, 0, 'f', 2).arg(c.high, 0, 'f', 2));
    if (frameMs > 0)
        rows << std::pair(PassBench::tr("Share of frame"), QString("%1 %").arg(100 * c.median / frameMs, 0, 'f', 1));
    for (const Counter& counter : all_counters())
        if (const std::uint64_t value = c.work.at(counter.name))
            rows << std::pair(QString::fromStdString(counter.label),
                              QLocale().toString(static_cast<qulonglong>(value)));
    if (!c.counted) {
        rows << std::pair(PassBench::tr("Fragments"), PassBench::tr("being counted"));
        return table(rows);
    }
    const double fragments = double(c.work.at("fragments")), evaluations = double(c.work.at("lightEvaluations"));
    if (fragments > 0) {
        rows << std::pair(PassBench::tr("Fragments a pixel"),
                          QString::number(fragments / (double(view.width) * view.height), 'f', 2));
        if (evaluations > 0)
            rows << std::pair(PassBench::tr("Lights a fragment"), QString::number(evaluations / fragments, 'f', 1));
        rows << std::pair(PassBench::tr("Time a fragment"),
                          QString("%1 ns").arg(c.median * 1e6 / fragments, 0, 'f', 0));
    }
    return table(rows);
}

/// What a pass writes and reads, a line each.
static QString pass_targets(const FramePlan& plan, const PlannedPass& pass) {
    QStringList lines;
    for (const std::string& name : pass.writes) {
        const PlannedResource& r = *plan.resource(name);
        const QString megabytes = QString::number(double(r.bytes) / 1e6, 'f', 1);
        lines << (r.spec.entries > 0
                      ? PassBench::tr("writes %1: buffer, %2 MB").arg(QString::fromStdString(name), megabytes)
                      : PassBench::tr("writes %1: %2, %3x%4, %5 bytes a pixel, %6 MB")
                            .arg(QString::fromStdString(name), info_of(r.spec.format).word)
                            .arg(r.width)
                            .arg(r.height)
                            .arg(info_of(r.spec.format).bytes)
                            .arg(megabytes));
    }
    for (const std::string& r : pass.reads)
        lines << PassBench::tr("reads %1").arg(QString::fromStdString(r));
    return lines.join("\n");
}

void PassBench::fill() {
    if (!document_.is_open() || name_.isEmpty()) return;
    const View view = on_target(document_.project().view, document_.target());
    const FramePlan plan = plan_frame(document_.scene(), document_.project().setup, view);
    const PlannedPass* pass = plan.pass(name_.toStdString());
    if (!pass) {
        title_->setText(name_);
        what_->setText(tr("The present setup has no such pass."));
        numbers_->clear();
        targets_->clear();
        delete rows_;
        rows_ = nullptr;
        return;
    }
    title_->setText(tr("Pass: %1").arg(name_));
    what_->setText(QString::fromStdString(pass->what));
    numbers_->clear();
    for (const auto& c : bridge_.history().passes())
        if (c.name == pass->name) numbers_->setText(pass_numbers(c, bridge_.history().frame().median, view));
    targets_->setText(pass_targets(plan, *pass));
    if (!rows_ && !pass->settings.empty()) {
        std::vector<std::string> keys = pass->settings;
        std::erase(keys, "path.kind"); // chosen in its station's figure
        rows_ = new SettingRows(document_, keys, this);
        column_->insertWidget(4, rows_);
    }
}

} // namespace mirolux::app
