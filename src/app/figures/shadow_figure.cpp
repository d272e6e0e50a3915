#include "app/figures/shadow_figure.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace mirolux::app {

namespace {

constexpr double ruler_bottom = 78, words_height = 66;
/// Of cascades from near to far, as the layer of that name shows them.
const QColor slice_hues[] = {QColor(74, 120, 190), QColor(70, 150, 92), QColor(196, 152, 48), QColor(186, 88, 66)};

QString length_text(double metres) {
    if (metres < 0.01) return QString::number(metres * 1000, 'f', 1) + " mm";
    if (metres < 1) return QString::number(metres * 100, 'f', 1) + " cm";
    return QString::number(metres, 'f', metres < 10 ? 1 : 0) + " m";
}

} // namespace

ShadowFigure::ShadowFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("shadow figure");
    setAccessibleName(tr("Slices of the directional light, and the atlas of shadow maps"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(
        tr("Above: depths from the eye, and how wide a texel of the directional light's map is there; drag where "
           "a slice ends. Below: every light's place in the atlas; click one to select its light."));
    connect(&document_, &Document::changed, this, [this] { update(); });
    connect(&document_, &Document::camera_moved, this, [this] { update(); });
    connect(&bridge_, &RenderBridge::costs_changed, this, [this] {
        if (isVisible() && !ages().empty()) update();
    });
}

/// The maps follow the document when they are shown, not with each change.
void ShadowFigure::refresh() {
    const Scene scene = document_.scene();
    View view = document_.project().view;
    draws_ = build_draw_list(scene, document_.project().setup, view);
    set_ = shadow_set(scene, document_.project().setup, view, draws_);
}

/// Frames since each map was drawn, where they are drawn in turn; empty: they are not, or the picture is older.
std::vector<double> ShadowFigure::ages() const {
    const auto& told = bridge_.last_full().told;
    const auto it = told.find("shadowAges");
    const bool inTurn = document_.is_open() && shadow_update(document_.project().setup) == ShadowUpdate::inTurn;
    return inTurn && it != told.end() ? it->second : std::vector<double>{};
}

QRectF ShadowFigure::ruler() const {
    return {10, 30, width() - 20.0, 24};
}

/// Texels of the atlas, and of the cubes' faces in rows over it.
QSize ShadowFigure::texels() const {
    if (set_.cubes == 0) return {set_.width, set_.height};
    const int wide = std::max(set_.width, 6 * set_.cubeSize), inRow = wide / set_.cubeSize;
    return {wide, set_.height + (6 * set_.cubes + inRow - 1) / inRow * set_.cubeSize};
}

QRectF ShadowFigure::atlas() const {
    const QRectF room(10, ruler_bottom + 4, width() - 20.0, height() - ruler_bottom - 8 - words_height);
    const QSize all = texels();
    if (all.width() <= 0) return room;
    const double scale = std::min(room.width() / all.width(), room.height() / all.height());
    return {room.left(), room.top(), all.width() * scale, all.height() * scale};
}

/// Depths by the root: near slices have room, far ones are not lost.
double ShadowFigure::x_of(double metres) const {
    const double most = document_.project().setup.number("cascade.distance");
    return ruler().left() + ruler().width() * std::sqrt(std::clamp(metres / most, 0.0, 1.0));
}

double ShadowFigure::metres_at(double x) const {
    const double share = std::clamp((x - ruler().left()) / ruler().width(), 0.0, 1.0);
    return share * share * document_.project().setup.number("cascade.distance");
}

const ShadowedLight* ShadowFigure::sun() const {
    for (const ShadowedLight& l : set_.lights)
        if (l.kind == MapKind::cascades) return &l;
    return nullptr;
}

QRectF ShadowFigure::place(const ShadowMap& m) const {
    const QRectF r = atlas();
    const int wide = texels().width();
    const double scale = r.width() / wide;
    const int inRow = m.layer < 0 ? 1 : wide / m.size;
    const int x = m.layer < 0 ? m.x : m.layer % inRow * m.size,
              y = m.layer < 0 ? m.y : set_.height + m.layer / inRow * m.size;
    return {r.left() + x * scale, r.bottom() - (y + m.size) * scale, m.size * scale, m.size * scale};
}

int ShadowFigure::map_at(const QPointF& point) const {
    for (std::size_t i = 0; i < set_.maps.size(); ++i)
        if (place(set_.maps[i]).contains(point)) return static_cast<int>(i);
    return -1;
}

QString ShadowFigure::words_at(const QPointF& point) const {
    if (const ShadowedLight* s = sun(); s && ruler().adjusted(0, -24, 0, 24).contains(point)) {
        const double depth = metres_at(point.x());
        for (int i = s->first; i < s->first + s->count; ++i) {
            const ShadowMap& m = set_.maps[static_cast<std::size_t>(i)];
            if (depth < m.cascade.to)
                return tr("%1 from the eye: slice %2, a texel is %3 wide")
                    .arg(length_text(depth))
                    .arg(m.face + 1)
                    .arg(length_text(m.cascade.texel));
        }
        return tr("beyond the distance: no shadow");
    }
    const int at = map_at(point);
    if (at < 0) return {};
    const ShadowMap& m = set_.maps[static_cast<std::size_t>(at)];
    const Light& l = draws_.lights[static_cast<std::size_t>(m.light)];
    const QString what = !m.perspective ? tr("slice %1").arg(m.face + 1)
                         : set_.of(m.light)->kind == MapKind::faces
                             ? tr("face %1").arg(QStringList{"+x", "\u2212x", "+y", "\u2212y", "+z", "\u2212z"}[m.face])
                             : tr("spot");
    const std::vector<double> old = ages();
    const bool aged = old.size() == set_.maps.size() && old[static_cast<std::size_t>(at)] >= 0;
    const QString age =
        aged ? tr(", drawn %1 frames ago").arg(old[static_cast<std::size_t>(at)], 0, 'f', 0) : QString();
    return tr("%1, %2: %3\u00b2, a texel is %4 wide%5\n%L6 triangles of %7 objects%8")
        .arg(QString::fromStdString(l.name), what)
        .arg(m.size)
        .arg(length_text(m.perspective ? m.texel(10) : m.texel(1)), m.perspective ? tr(" at 10 m") : QString())
        .arg(static_cast<qulonglong>(m.triangles))
        .arg(m.casters.size())
        .arg(age);
}

void ShadowFigure::paint_ruler(QPainter& p) const {
    const Theme& t = theme();
    const QRectF r = ruler();
    const ShadowedLight* s = sun();
    if (!s) {
        p.setPen(t.quiet);
        p.drawText(QRectF(r.left(), 4, r.width(), ruler_bottom - 8), Qt::TextWordWrap | Qt::AlignVCenter,
                   tr("No directional light casts in this view: no slices."));
        return;
    }
    p.setPen(t.quiet);
    p.drawText(QRectF(r.left(), 4, r.width(), 14), Qt::AlignLeft,
               QString::fromStdString(draws_.lights[static_cast<std::size_t>(s->light)].name));
    p.drawText(QRectF(r.left(), 4, r.width(), 14), Qt::AlignRight, tr("width of a texel"));
    const CascadeChoices& c = set_.cascades;
    for (int i = s->first; i < s->first + s->count; ++i) {
        const Cascade& k = set_.maps[static_cast<std::size_t>(i)].cascade;
        const QRectF slice(x_of(k.from), r.top(), x_of(k.to) - x_of(k.from), r.height());
        QLinearGradient fill(slice.topLeft(), slice.topRight());
        const QColor hue = slice_hues[i - s->first];
        fill.setColorAt(0, hue);
        if (k.blendFrom < k.to) {
            fill.setColorAt(std::clamp((x_of(k.blendFrom) - slice.left()) / slice.width(), 0.0, 1.0), hue);
            fill.setColorAt(1, slice_hues[std::min(i - s->first + 1, 3)]);
        }
        p.fillRect(slice, fill);
        const QString texel = length_text(k.texel);
        if (p.fontMetrics().horizontalAdvance(texel) < slice.width() - 4) {
            p.setPen(QColor(250, 248, 240));
            p.drawText(slice, Qt::AlignCenter, texel);
        }
    }
    // What fades at the end loses its ground.
    const double fadeFrom = x_of(c.distance * (1 - c.fade));
    QLinearGradient fade(fadeFrom, 0, r.right(), 0);
    QColor ground = t.panel;
    ground.setAlpha(0);
    fade.setColorAt(0, ground);
    ground.setAlpha(230);
    fade.setColorAt(1, ground);
    p.fillRect(QRectF(fadeFrom, r.top(), r.right() - fadeFrom, r.height()), fade);
    double last = -100;
    for (int i = s->first; i < s->first + s->count; ++i) {
        const double to = set_.maps[static_cast<std::size_t>(i)].cascade.to, x = x_of(to);
        const bool movable = i + 1 < s->first + s->count;
        const bool lit = movable && (i - s->first == dragged_ || (hasFocus() && i - s->first == chosen_));
        p.setPen(QPen(lit ? t.text : t.quiet, lit ? 3 : 1.4));
        p.drawLine(QPointF(x, r.top() - 5), QPointF(x, r.bottom() + 5));
        const QString text = length_text(to);
        const double wide = p.fontMetrics().horizontalAdvance(text) + 2,
                     left = std::clamp(x - wide / 2, 0.0, width() - wide);
        if (left < last + 4) continue;
        last = left + wide;
        p.setPen(t.text);
        p.drawText(QRectF(left, r.bottom() + 6, wide, 14), Qt::AlignCenter, text);
    }
}

void ShadowFigure::paint_atlas(QPainter& p) const {
    const Theme& t = theme();
    const QRectF r = atlas();
    p.fillRect(r, t.field);
    const int under = pointer_ ? map_at(*pointer_) : -1;
    const int light = under >= 0 ? set_.maps[static_cast<std::size_t>(under)].light : -1;
    const std::vector<double> old = ages();
    for (std::size_t i = 0; i < set_.maps.size(); ++i) {
        const ShadowMap& m = set_.maps[i];
        const QRectF square = place(m).adjusted(0.5, 0.5, -0.5, -0.5);
        const Light& l = draws_.lights[static_cast<std::size_t>(m.light)];
        QColor fill = m.perspective ? display_color(effective_color(l) * 0.22f) : slice_hues[m.face].darker(170);
        if (m.light == light) fill = fill.lighter(170);
        p.fillRect(square, fill);
        p.setPen(QPen(t.panel, 1));
        p.drawRect(square);
        if (square.width() < 26) continue;
        p.setPen(QColor(250, 248, 240));
        const QString name = m.perspective ? QString::fromStdString(l.name) : tr("slice %1").arg(m.face + 1);
        const QRectF inside = square.adjusted(3, 2, -2, -2);
        const QString size = QString::number(m.size);
        if (square.height() > 30) {
            p.drawText(inside, Qt::AlignLeft | Qt::AlignTop,
                       p.fontMetrics().elidedText(name, Qt::ElideMiddle, int(inside.width())));
            const bool aged = old.size() == set_.maps.size() && old[i] > 0;
            const QString age = aged ? tr("\u2212%1").arg(old[i], 0, 'f', 0) : QString();
            if (!aged || p.fontMetrics().horizontalAdvance(size + age) + 6 < inside.width())
                p.drawText(inside, Qt::AlignRight | Qt::AlignBottom, size);
            p.drawText(inside, Qt::AlignLeft | Qt::AlignBottom, age);
        } else
            p.drawText(inside, Qt::AlignCenter, p.fontMetrics().elidedText(name, Qt::ElideMiddle, int(inside.width())));
    }
}

/// Beside the atlas, where it leaves room: whose maps they are, how many of which size.
void ShadowFigure::paint_names(QPainter& p) const {
    const Theme& t = theme();
    const QRectF r = atlas(), room(r.right() + 10, r.top(), width() - 10 - r.right() - 10, r.height());
    if (room.width() < 70) return;
    std::vector<const ShadowedLight*> order;
    for (const ShadowedLight& l : set_.lights)
        order.push_back(&l);
    std::stable_sort(order.begin(), order.end(),
                     [](const auto* a, const auto* b) { return a->importance > b->importance; });
    const int under = pointer_ ? map_at(*pointer_) : -1;
    const int fit = std::max(1, int(room.height() / 14));
    double y = room.top();
    for (int i = 0; i < int(order.size()); ++i, y += 14) {
        if (i + 1 == fit && int(order.size()) > fit) {
            p.setPen(t.quiet);
            p.drawText(QRectF(room.left(), y, room.width(), 14), Qt::AlignVCenter,
                       tr("and %1 more").arg(int(order.size()) - i));
            return;
        }
        const ShadowedLight& l = *order[static_cast<std::size_t>(i)];
        const Light& light = draws_.lights[static_cast<std::size_t>(l.light)];
        const bool lit = under >= 0 && set_.maps[static_cast<std::size_t>(under)].light == l.light;
        const QString size = (l.count > 1 ? QString("%1\u00d7").arg(l.count) : QString()) +
                             QString::number(set_.maps[static_cast<std::size_t>(l.first)].size);
        const double wide = p.fontMetrics().horizontalAdvance(size) + 4;
        p.setPen(lit ? t.text : t.quiet);
        p.drawText(QRectF(room.left(), y, room.width(), 14), Qt::AlignRight | Qt::AlignVCenter, size);
        p.drawText(
            QRectF(room.left(), y, room.width() - wide, 14), Qt::AlignVCenter,
            p.fontMetrics().elidedText(QString::fromStdString(light.name), Qt::ElideMiddle, int(room.width() - wide)));
    }
}

void ShadowFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    refresh();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(sized(font(), 11));
    const Theme& t = theme();
    if (set_.maps.empty()) {
        p.setPen(t.quiet);
        p.drawText(rect().adjusted(10, 10, -10, -10), Qt::TextWordWrap,
                   document_.project().setup.flag("shadow.maps")
                       ? tr("No light of this view casts.")
                       : tr("Lights shine through everything. Switch shadow maps on below: each light then draws what "
                            "stands in its way."));
        return;
    }
    paint_ruler(p);
    paint_atlas(p);
    paint_names(p);
    QString words = pointer_ ? words_at(*pointer_) : QString();
    if (words.isEmpty()) {
        const double cubes = 24.0 * set_.cubes * set_.cubeSize * set_.cubeSize;
        words =
            tr("%1\u00d7%2 texels%3, %4 MiB: %5 maps of %6 lights")
                .arg(set_.width)
                .arg(set_.height)
                .arg(set_.cubes > 0 ? tr(" and %1 cubes of %2\u00b2").arg(set_.cubes).arg(set_.cubeSize) : QString())
                .arg((double(set_.width) * set_.height * 4 + cubes) / 1048576, 0, 'f', 0)
                .arg(set_.maps.size())
                .arg(set_.lights.size());
        if (const std::string left = unmapped_text(set_, draws_); !left.empty())
            words += "\n" + QString::fromStdString(left);
    }
    p.setPen(t.quiet);
    p.drawText(QRectF(10, height() - words_height + 4, width() - 20.0, words_height - 4), Qt::TextWordWrap, words);
}

int ShadowFigure::end_at(const QPointF& point) const {
    const ShadowedLight* s = sun();
    if (!s || !ruler().adjusted(0, -10, 0, 24).contains(point)) return -1;
    int best = -1;
    double nearest = 8;
    for (int i = 0; i + 1 < s->count; ++i) {
        const double far = std::abs(x_of(set_.maps[static_cast<std::size_t>(s->first + i)].cascade.to) - point.x());
        if (far < nearest) {
            nearest = far;
            best = i;
        }
    }
    return best;
}

/// Takes all ends by hand as they are, and this one as it is put: between its neighbours.
void ShadowFigure::move_end(int end, double metres) {
    const ShadowedLight* s = sun();
    if (!s || end < 0 || end + 1 >= s->count) return;
    std::vector<double> ends;
    for (int i = 0; i + 1 < s->count; ++i)
        ends.push_back(set_.maps[static_cast<std::size_t>(s->first + i)].cascade.to);
    const auto at = static_cast<std::size_t>(end);
    const double low = end > 0 ? ends[at - 1] * 1.05 : document_.project().view.camera.near * 1.5,
                 high = (at + 1 < ends.size() ? ends[at + 1] : set_.cascades.distance) / 1.05;
    if (low >= high) return;
    ends[at] = std::clamp(metres, low, high);
    document_.edit(
        tr("end of slice %1").arg(end + 1),
        [&](Project& p) {
            (void)p.setup.set("cascade.split", std::string("by-hand"));
            for (std::size_t i = 0; i < ends.size(); ++i)
                (void)p.setup.set("cascade.end" + std::to_string(i + 1), std::max(0.1, ends[i]));
        },
        document_.interactive() ? "slice end" : QString());
    refresh();
}

void ShadowFigure::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (!document_.is_open()) return;
    dragged_ = end_at(e->position());
    if (dragged_ >= 0) {
        chosen_ = dragged_;
        document_.set_interactive(true);
    } else if (const int m = map_at(e->position()); m >= 0)
        emit light_wanted(draws_.lights[static_cast<std::size_t>(set_.maps[static_cast<std::size_t>(m)].light)].id);
    update();
}

void ShadowFigure::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    if (dragged_ >= 0) move_end(dragged_, metres_at(e->position().x()));
    setCursor(dragged_ >= 0 || end_at(*pointer_) >= 0 ? Qt::SizeHorCursor
              : map_at(*pointer_) >= 0                ? Qt::PointingHandCursor
                                                      : Qt::ArrowCursor);
    update();
}

void ShadowFigure::mouseReleaseEvent(QMouseEvent*) {
    if (dragged_ >= 0) document_.set_interactive(false);
    dragged_ = -1;
    update();
}

void ShadowFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

bool ShadowFigure::event(QEvent* e) {
    if (e->type() == QEvent::FocusIn || e->type() == QEvent::FocusOut) update();
    return Figure::event(e);
}

/// Up and down choose an end, left and right move it.
void ShadowFigure::keyPressEvent(QKeyEvent* e) {
    const ShadowedLight* s = document_.is_open() ? sun() : nullptr;
    if (!s || s->count < 2) return QWidget::keyPressEvent(e);
    chosen_ = std::clamp(chosen_, 0, s->count - 2);
    const double at = set_.maps[static_cast<std::size_t>(s->first + chosen_)].cascade.to,
                 step = e->modifiers() & Qt::ShiftModifier ? 1.01 : 1.05;
    if (e->key() == Qt::Key_Up)
        chosen_ = std::min(chosen_ + 1, s->count - 2);
    else if (e->key() == Qt::Key_Down)
        chosen_ = std::max(chosen_ - 1, 0);
    else if (e->key() == Qt::Key_Left)
        move_end(chosen_, at / step);
    else if (e->key() == Qt::Key_Right)
        move_end(chosen_, at * step);
    else
        return QWidget::keyPressEvent(e);
    update();
}

} // namespace mirolux::app
