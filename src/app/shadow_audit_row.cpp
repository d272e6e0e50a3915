#include "app/shadow_audit_row.h"
#include "app/benches.h"
#include "core/base/text.h"
#include <QGridLayout>

namespace mirolux::app {

ShadowAuditRow::ShadowAuditRow(QWidget* parent) : QWidget(parent) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 6, 0, 0);
    grid->setSpacing(4);
    const auto button = [&](const QString& text, const QString& name, const QString& help) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(name);
        b->setToolTip(help);
        return b;
    };
    audit_ =
        button(tr("Hold against rays"), "audit shadows",
               tr("Traces the shadow of every light with a map and tells what the frame misses and what it shadows "
                  "falsely, beside the window."));
    marks_ =
        button(tr("Marks"), "shadow marks",
               tr("Where rays disagree, in the picture: acne, shadows that have come off what casts them, and light "
                  "that leaks."));
    marks_->setCheckable(true);
    marks_->setEnabled(false);
    grid->addWidget(audit_, 0, 0, 1, 2);
    grid->addWidget(marks_, 0, 2);
    facts_ = quiet_label({}, this);
    facts_->setObjectName("audit facts");
    facts_->setTextFormat(Qt::RichText);
    grid->addWidget(facts_, 1, 0, 1, 3);
    search_ = button(tr("Find the least bias"), "find bias",
                     tr("Tries bias, bias by slope and normal offset until what is false stays under the bound and as "
                        "little as possible is missed."));
    grid->addWidget(search_, 2, 0, 1, 2);
    bound_ = new NumberField({0.001, 10, 0.02, 3, true}, "%", this);
    bound_->setObjectName("false bound");
    bound_->setAccessibleName(tr("False under"));
    bound_->setToolTip(tr("Most of the pairs of pixel and light that may be shadowed falsely."));
    bound_->set_value(0.2);
    bound_->set_default(0.2);
    connect(bound_, &NumberField::edited, this, [this](double v) { bound_->set_value(v); });
    grid->addWidget(bound_, 2, 2);
    plot_ = new BiasPlot(this);
    plot_->setToolTip(tr("What each tried set shadows falsely against what it misses."));
    plot_->hide();
    grid->addWidget(plot_, 3, 0, 1, 3);
    offer_ = quiet_label({}, this);
    offer_->setObjectName("bias offer");
    offer_->hide();
    grid->addWidget(offer_, 4, 0, 1, 2);
    take_ = button(tr("Take it"), "take bias", tr("These biases become the setup's."));
    take_->hide();
    grid->addWidget(take_, 4, 2);
    connect(audit_, &QPushButton::clicked, this, [this] { running_ ? emit stop_wanted() : emit audit_wanted(); });
    connect(search_, &QPushButton::clicked, this, &ShadowAuditRow::search_wanted);
    connect(marks_, &QPushButton::toggled, this, &ShadowAuditRow::marks_wanted);
    connect(take_, &QPushButton::clicked, this, [this] {
        if (plot_->solution()) emit take_wanted(plot_->solution()->best.set);
    });
}

void ShadowAuditRow::set_possible(bool on) {
    possible_ = on;
    audit_->setEnabled(on || running_);
    search_->setEnabled(on && !running_);
}

void ShadowAuditRow::show_progress(const QString& what, double share) {
    running_ = true;
    audit_->setText(tr("Stop"));
    search_->setEnabled(false);
    facts_->setText(tr("%1: %2 %").arg(what).arg(100 * share, 0, 'f', 0));
}

void ShadowAuditRow::show_rest() {
    running_ = false;
    audit_->setText(tr("Hold against rays"));
    set_possible(possible_);
    if (facts_->text().endsWith('%')) facts_->setText(facts());
}

QString ShadowAuditRow::facts() {
    if (!report_) return {};
    const auto percent = [](double v) { return QString::fromStdString(number_text(100 * v, 3)) + " %"; };
    const ShadowErrors& e = report_->all;
    QString text = tr("<b>%1</b> missed, <b>%2</b> false, penumbrae off by %3; %4 of %L5 pairs lie on an edge.")
                       .arg(percent(e.missed()), percent(e.falsely()), percent(e.penumbra_error()),
                            percent(e.pairs ? double(e.edge) / double(e.pairs) : 0))
                       .arg(static_cast<qulonglong>(e.pairs));
    const ShadowReport::OfLight* worst = nullptr;
    for (const ShadowReport::OfLight& l : report_->lights)
        if (!worst || l.errors.missedSum + l.errors.falseSum > worst->errors.missedSum + worst->errors.falseSum)
            worst = &l;
    if (worst && worst->errors.missedSum + worst->errors.falseSum > 0)
        text += tr(" Most of it: %1.").arg(QString::fromStdString(worst->name).toHtmlEscaped());
    if (!report_->why.empty()) text += " " + QString::fromStdString(report_->why).toHtmlEscaped();
    return text;
}

void ShadowAuditRow::show_report(std::shared_ptr<const ShadowReport> report) {
    report_ = std::move(report);
    facts_->setText(facts());
    facts_->setEnabled(true);
    marks_->setEnabled(report_ != nullptr);
    marks_->setChecked(report_ != nullptr);
    emit marks_wanted(marks_->isChecked());
}

void ShadowAuditRow::show_solution(std::shared_ptr<const BiasSolution> solution, double bound) {
    const BiasSolution& s = *solution;
    offer_->setText(
        (s.under ? tr("Least: %1.") : tr("No set stays under the bound; nearest: %1.")).arg(words_of(s.best)));
    plot_->show_solution(std::move(solution), bound);
    for (QWidget* w : std::initializer_list<QWidget*>{plot_, offer_, take_})
        w->show();
    take_->setEnabled(true);
    facts_->setText(facts());
    reveal(take_);
}

void ShadowAuditRow::show_trouble(const QString& words) {
    facts_->setText(words.toHtmlEscaped());
}

void ShadowAuditRow::set_stale() {
    take_->setEnabled(false); // what was found, was found for another state
    if (!report_) return;
    report_.reset();
    facts_->setText(tr("Something has changed since it was held against rays."));
    marks_->setChecked(false);
    marks_->setEnabled(false);
}

} // namespace mirolux::app
