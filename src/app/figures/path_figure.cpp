#include "app/figures/path_figure.h"
#include "app/deck_page.h"
#include "core/base/text.h"
#include "core/path/path_kind.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace mirolux::app {

static constexpr int rowHeight = 25, passHeight = 21, gap = 44;

/// The state without its path: what a path's cost depends on beside itself.
static Project without_path(const Project& project) {
    Project p = project;
    (void)p.setup.set("path.kind", std::string("forward"));
    p.b.reset();
    p.setups.clear();
    p.name.clear();
    return p;
}

PathFigure::PathFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent),
      paths_(all_settings()[static_cast<std::size_t>(setting_index("path.kind"))].choices) {
    setObjectName("path.kind");
    setAccessibleName(tr("The paths, and the frame as a chain of passes"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    planning_.setSingleShot(true);
    planning_.setInterval(0);
    connect(&planning_, &QTimer::timeout, this, &PathFigure::plan_next);
    connect(&document_, &Document::changed, this, &PathFigure::look);
    connect(&document_, &Document::camera_moved, this, &PathFigure::look);
    connect(&bridge_, &RenderBridge::costs_changed, this, &PathFigure::remember);
    look();
}

void PathFigure::look() {
    if (!document_.is_open()) return;
    Project now = without_path(document_.project());
    if (!(now == of_)) {
        of_ = std::move(now);
        plans_.clear();
        measured_.clear();
        foreseen_.clear();
    }
    if (!document_.interactive()) planning_.start();
    updateGeometry(); // another path has another number of passes
    update();
}

/// One plan each time that the window has nothing else to do.
void PathFigure::plan_next() {
    if (!isVisible() || !document_.is_open() || document_.interactive()) return;
    for (int i = 0; i < static_cast<int>(paths_.size()); ++i) {
        if (plans_.count(i)) continue;
        Setup setup = document_.project().setup;
        if (!setup.set("path.kind", paths_[static_cast<std::size_t>(i)])) continue;
        plans_[i] = plan_frame(document_.scene(), setup, on_target(document_.project().view, document_.target()));
        updateGeometry();
        update();
        planning_.start();
        return;
    }
    std::vector<Consideration> wanted;
    for (int i = 0; i < static_cast<int>(paths_.size()); ++i) {
        Consideration c{QString::fromStdString(paths_[static_cast<std::size_t>(i)]), document_.project().setup,
                        on_target(document_.project().view, document_.target())};
        if (i != current() && c.setup.set("path.kind", paths_[static_cast<std::size_t>(i)]))
            wanted.push_back(std::move(c));
    }
    emit foresight_wanted(wanted);
}

void PathFigure::set_foreseen(const Setup& setup, const Foresight& foresight) {
    Project p = document_.project();
    p.setup = setup;
    if (!(without_path(p) == of_)) return;
    for (int i = 0; i < static_cast<int>(paths_.size()); ++i)
        if (setup.choice("path.kind") == paths_[static_cast<std::size_t>(i)]) foreseen_[i] = foresight;
    update();
}

const Foresight* PathFigure::foreseen(int path) const {
    const auto it = foreseen_.find(path);
    return it == foreseen_.end() ? nullptr : &it->second;
}

void PathFigure::remember() {
    if (bridge_.history().frames() >= 4) measured_.insert_or_assign(current(), bridge_.history());
    update();
}

int PathFigure::current() const {
    const std::string kind = document_.is_open() ? document_.project().setup.choice("path.kind") : paths_.front();
    return static_cast<int>(std::find(paths_.begin(), paths_.end(), kind) - paths_.begin());
}

QRectF PathFigure::row(int path) const {
    return QRectF(0, path * rowHeight, width(), rowHeight);
}

QRectF PathFigure::pass_row(int pass) const {
    return QRectF(0, static_cast<double>(paths_.size()) * rowHeight + gap + pass * passHeight, width(), passHeight);
}

QSize PathFigure::sizeHint() const {
    const auto it = plans_.find(current());
    const int passes = it == plans_.end() ? 5 : static_cast<int>(it->second.passes.size());
    return {280, static_cast<int>(paths_.size()) * rowHeight + gap + passes * passHeight + 8};
}

double PathFigure::measured_ms(int path) const {
    const auto it = measured_.find(path);
    return it == measured_.end() ? 0 : it->second.drawn();
}

QString PathFigure::words(int path) const {
    const auto it = plans_.find(path);
    if (it == plans_.end()) return {};
    const FramePlan& plan = it->second;
    QStringList parts;
    const Foresight* f = foreseen(path);
    parts << (measured_ms(path) > 0 ? tr("measured: %1").arg(ms_text(measured_ms(path)))
              : f                   ? tr("foreseen: %1 to %2 ms")
                        .arg(QString::fromStdString(number_text(f->lowMs, 3)),
                             QString::fromStdString(number_text(f->highMs, 3)))
                  : tr("not measured in this state"));
    if (plan.droppedLights > 0)
        parts << tr("drops %1 lights over %2 objects").arg(plan.droppedLights).arg(plan.droppedObjects);
    else
        parts << tr("drops no light");
    if (plan.resource("albedo")) parts << tr("no multisampling");
    parts << tr("%1 MB of targets").arg(QString::fromStdString(number_text(plan.bytesPeak / 1e6, 3)));
    return parts.join(", ");
}

void PathFigure::paint_chain(QPainter& p, int path, const QRectF& place) const {
    double longest = 0;
    for (const auto& [i, history] : measured_)
        longest = std::max(longest, history.drawn());
    double x = place.left();
    if (const auto it = measured_.find(path); it != measured_.end()) { // to scale with the others
        for (const auto& pass : it->second.passes()) {
            const double w = pass.median / longest * place.width();
            p.fillRect(QRectF(x, place.top(), std::max(1.0, w - 1), place.height()), family_color(pass.family));
            x += w;
        }
        return;
    }
    const auto plan = plans_.find(path);
    if (plan == plans_.end()) return;
    for (const PlannedPass& pass : plan->second.passes) { // its passes only: hollow, all of one size
        p.setPen(QPen(family_color(pass.family), 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(x + 0.5, place.top() + 0.5, 9, place.height() - 1));
        x += 12;
    }
}

/// The present frame: each pass in order, what it reads and writes, its time.
void PathFigure::paint_passes(QPainter& p) const {
    const Theme& t = theme();
    const auto plan = plans_.find(current());
    if (plan == plans_.end()) return;
    p.setPen(QPen(t.line, 1));
    const int n = static_cast<int>(plan->second.passes.size());
    p.drawLine(QPointF(5, pass_row(0).center().y()), QPointF(5, pass_row(n - 1).center().y()));
    for (int i = 0; i < n; ++i) {
        const PlannedPass& pass = plan->second.passes[static_cast<std::size_t>(i)];
        const QRectF r = pass_row(i);
        if (i == passUnder_) p.fillRect(r.adjusted(14, 0, 0, 0), t.field);
        p.setPen(Qt::NoPen);
        p.setBrush(family_color(pass.family));
        p.drawRect(QRectF(0, r.center().y() - 5, 10, 10));
        QString time;
        for (const auto& cost : bridge_.history().passes())
            if (cost.name == pass.name && bridge_.history().frames() > 0) time = ms_text(cost.median);
        p.setFont(sized(font(), 12));
        p.setPen(t.text);
        const QString name = QString::fromStdString(pass.name);
        const double nameWidth = p.fontMetrics().horizontalAdvance(name);
        const double timeWidth = p.fontMetrics().horizontalAdvance(time);
        p.drawText(r.adjusted(18, 0, 0, 0), Qt::AlignVCenter, name);
        p.drawText(r, Qt::AlignVCenter | Qt::AlignRight, time);
        p.setFont(sized(font(), 11));
        p.setPen(t.quiet);
        const QString flow = (pass.reads.empty() ? QString() : QString::fromStdString(joined(pass.reads, ", ")) + " ") +
                             "\u2192 " + QString::fromStdString(joined(pass.writes, ", "));
        const QRectF room = r.adjusted(18 + nameWidth + 10, 0, -timeWidth - 10, 0);
        p.drawText(room, Qt::AlignVCenter,
                   p.fontMetrics().elidedText(flow, Qt::ElideMiddle, static_cast<int>(room.width())));
    }
}

void PathFigure::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    if (!document_.is_open()) return;
    for (int i = 0; i < static_cast<int>(paths_.size()); ++i) {
        const QRectF r = row(i).adjusted(0, 1, 0, -1);
        const bool lit = i == current();
        p.setPen(Qt::NoPen);
        p.setBrush(lit ? t.lit : i == under_ ? t.field : Qt::transparent);
        p.drawRoundedRect(r, 2, 2);
        p.setFont(sized(font(), 12, lit ? QFont::DemiBold : QFont::Normal));
        p.setPen(lit ? t.ink : t.text);
        p.drawText(r.adjusted(6, 0, 0, 0), Qt::AlignVCenter,
                   QString::fromStdString(paths_[static_cast<std::size_t>(i)]));
        const double ms = measured_ms(i);
        p.setFont(sized(font(), 12));
        p.setPen(lit ? t.ink : t.quiet);
        p.drawText(r.adjusted(0, 0, -6, 0), Qt::AlignVCenter | Qt::AlignRight,
                   ms > 0        ? QString::number(ms, 'f', ms < 10 ? 2 : 1)
                   : foreseen(i) ? "\u2248 " + QString::number(foreseen(i)->ms, 'f', 0)
                                 : QString("\u2013"));
        paint_chain(p, i, QRectF(128, r.center().y() - 5, std::max(20.0, width() - 128.0 - 56), 10));
    }
    const QRectF line(0, static_cast<double>(paths_.size()) * rowHeight + 4, width(), 34);
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    const int about = under_ >= 0 ? under_ : current();
    p.drawText(line, Qt::TextWordWrap | Qt::AlignTop,
               QString::fromStdString(paths_[static_cast<std::size_t>(about)]) + ": " + words(about));
    paint_passes(p);
}

void PathFigure::choose(int path) {
    if (path < 0 || path >= static_cast<int>(paths_.size()) || path == current()) return;
    (void)document_.set("path.kind", paths_[static_cast<std::size_t>(path)]);
}

void PathFigure::mousePressEvent(QMouseEvent* e) {
    setFocus();
    for (int i = 0; i < static_cast<int>(paths_.size()); ++i)
        if (row(i).contains(e->position())) return choose(i);
    if (const auto plan = plans_.find(current()); plan != plans_.end())
        for (std::size_t i = 0; i < plan->second.passes.size(); ++i)
            if (pass_row(static_cast<int>(i)).contains(e->position()))
                return emit pass_wanted(QString::fromStdString(plan->second.passes[i].name));
}

void PathFigure::mouseMoveEvent(QMouseEvent* e) {
    const int before = std::exchange(under_, -1);
    passUnder_ = -1;
    QString tip;
    for (int i = 0; i < static_cast<int>(paths_.size()); ++i)
        if (row(i).contains(e->position())) {
            under_ = i;
            tip = words(i);
        }
    if (const auto plan = plans_.find(current()); plan != plans_.end())
        for (std::size_t i = 0; i < plan->second.passes.size(); ++i)
            if (pass_row(static_cast<int>(i)).contains(e->position())) {
                passUnder_ = static_cast<int>(i);
                tip = QString::fromStdString(plan->second.passes[i].what) + tr("\nClick for its bench.");
            }
    if (under_ != before) {
        if (under_ >= 0)
            document_.consider("path.kind", paths_[static_cast<std::size_t>(under_)]);
        else
            document_.consider_nothing();
    }
    setToolTip(tip);
    setCursor(under_ >= 0 || passUnder_ >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    update();
}

void PathFigure::leaveEvent(QEvent*) {
    document_.consider_nothing();
    under_ = passUnder_ = -1;
    update();
}

void PathFigure::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Up)
        choose(current() - 1);
    else if (e->key() == Qt::Key_Down)
        choose(current() + 1);
    else
        QWidget::keyPressEvent(e);
}

} // namespace mirolux::app
