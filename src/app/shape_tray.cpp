#include "app/shape_tray.h"
#include "app/theme.h"
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>

namespace mirolux::app {

static constexpr int columns = 5, tileHeight = 58, gap = 3;

void paint_mesh(QPainter& p, const QRectF& in, const Primitive& mesh, const QColor& dark, const QColor& light) {
    const glm::vec3 toEye = glm::normalize(glm::vec3(0.55f, 0.5f, 1.0f)),
                    right = glm::normalize(glm::cross(glm::vec3(0, 1, 0), toEye)), up = glm::cross(toEye, right),
                    lamp = glm::normalize(glm::vec3(-0.5f, 1.0f, 0.7f));
    struct Face {
        QPolygonF corners;
        float depth, shade;
    };
    std::vector<Face> faces;
    QRectF reach;
    const std::vector<Vertex>& v = mesh.vertices;
    const std::vector<std::uint32_t>& at = mesh.indices;
    for (std::size_t t = 0; t + 2 < at.size(); t += 3) {
        Face f{{}, 0, 0};
        const glm::vec3 a = v[at[t]].position, b = v[at[t + 1]].position, c = v[at[t + 2]].position;
        const glm::vec3 n = glm::cross(b - a, c - a);
        if (glm::dot(n, toEye) <= 0) continue;
        for (const glm::vec3& q : {a, b, c}) {
            f.corners << QPointF(glm::dot(q, right), -glm::dot(q, up));
            f.depth += glm::dot(q, toEye);
        }
        f.shade = std::clamp(0.25f + 0.75f * glm::dot(glm::normalize(n), lamp), 0.0f, 1.0f);
        reach = faces.empty() ? f.corners.boundingRect() : reach.united(f.corners.boundingRect());
        faces.push_back(std::move(f));
    }
    std::sort(faces.begin(), faces.end(), [](const Face& a, const Face& b) { return a.depth < b.depth; });
    const double scale =
        std::min(in.width() / std::max(reach.width(), 1e-6), in.height() / std::max(reach.height(), 1e-6));
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(in.center());
    p.scale(scale, scale);
    p.translate(-reach.center());
    const auto mix = [](int a, int b, float s) { return static_cast<int>(a + (b - a) * s); };
    for (const Face& f : faces) {
        const QColor colour(mix(dark.red(), light.red(), f.shade), mix(dark.green(), light.green(), f.shade),
                            mix(dark.blue(), light.blue(), f.shade));
        p.setBrush(colour);
        p.setPen(QPen(colour, 0.6 / scale)); // no seams between neighbours
        p.drawPolygon(f.corners);
    }
    p.restore();
}

ShapeTray::ShapeTray(QWidget* parent) : QWidget(parent) {
    setObjectName("shape tray");
    setAccessibleName(tr("Shapes to build with"));
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    QSizePolicy policy(QSizePolicy::Expanding, QSizePolicy::Preferred);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
    setMinimumHeight(heightForWidth(0));
}

int ShapeTray::heightForWidth(int) const {
    const int rows = (model_tile + columns) / columns;
    return rows * tileHeight + (rows - 1) * gap;
}
QSize ShapeTray::sizeHint() const {
    return {columns * 56, heightForWidth(0)};
}

QRect ShapeTray::tile(int i) const {
    const int column = i % columns, row = i / columns;
    const int left = column * (width() + gap) / columns, right = (column + 1) * (width() + gap) / columns - gap;
    return {left, row * (tileHeight + gap), right - left, tileHeight};
}

int ShapeTray::at(const QPoint& p) const {
    for (int i = 0; i <= model_tile; ++i)
        if (tile(i).contains(p)) return i;
    return -1;
}

QString ShapeTray::name_of(int i) const {
    return i == model_tile ? tr("model\u2026") : QString::fromUtf8(word(all_shapes[i]));
}

void ShapeTray::set_taken(std::optional<int> tile) {
    taken_ = tile;
    update();
}

void ShapeTray::press(int i) {
    if (i < 0) return;
    focus_ = i;
    if (taken_ == i)
        emit laid_down();
    else
        emit wanted(i);
    update();
}

void ShapeTray::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton) press(at(e->pos()));
}
void ShapeTray::mouseMoveEvent(QMouseEvent* e) {
    under_ = at(e->pos());
    update();
}
void ShapeTray::leaveEvent(QEvent*) {
    under_ = -1;
    update();
}

void ShapeTray::keyPressEvent(QKeyEvent* e) {
    const int step = e->key() == Qt::Key_Right  ? 1
                     : e->key() == Qt::Key_Left ? -1
                     : e->key() == Qt::Key_Down ? columns
                     : e->key() == Qt::Key_Up   ? -columns
                                                : 0;
    if (step != 0)
        focus_ = std::clamp(focus_ + step, 0, model_tile);
    else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter || e->key() == Qt::Key_Space)
        press(focus_);
    else
        return QWidget::keyPressEvent(e);
    update();
}

bool ShapeTray::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip) return QWidget::event(e);
    const auto* help = static_cast<QHelpEvent*>(e);
    const int i = at(help->pos());
    if (i < 0)
        QToolTip::hideText();
    else
        QToolTip::showText(
            help->globalPos(),
            i == model_tile ? tr("Places another glTF file in the scene, with what moves in it; its lights stay out.")
                            : tr("Places a %1: click a surface in the picture and it stands there. Shift places "
                                 "several, Esc none.")
                                  .arg(name_of(i)),
            this);
    return true;
}

void ShapeTray::paintEvent(QPaintEvent*) {
    static const std::vector<Primitive> meshes = [] {
        std::vector<Primitive> out;
        for (const ShapeKind k : all_shapes) {
            Shape s = usual_shape(k);
            if (k == ShapeKind::plane) s.size = {1, 0, 0.8f};
            if (k == ShapeKind::staircase) s.segments = 5;
            out.push_back(make_shape(s));
        }
        return out;
    }();
    QPainter p(this);
    p.setFont(sized(font(), 11));
    const Theme& t = theme();
    for (int i = 0; i <= model_tile; ++i) {
        const QRect r = tile(i);
        const bool lit = taken_ == i;
        p.setPen(Qt::NoPen);
        p.setBrush(lit ? t.lit : i == under_ ? t.line : t.field);
        p.drawRect(r);
        if (hasFocus() && focus_ == i) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(lit ? t.ink : t.quiet, 1, Qt::DotLine));
            p.drawRect(r.adjusted(1, 1, -2, -2));
        }
        const QRectF picture = QRectF(r).adjusted(10, 6, -10, -20);
        const QColor dark = lit ? QColor(70, 69, 66) : QColor(64, 64, 64),
                     light = lit ? QColor(150, 148, 142) : QColor(214, 214, 214);
        if (i < model_tile)
            paint_mesh(p, picture, meshes[static_cast<std::size_t>(i)], dark, light);
        else { // a sheet with a thing on it
            p.setRenderHint(QPainter::Antialiasing);
            const QPointF c = picture.center();
            p.setPen(QPen(lit ? t.ink : t.text, 1.2));
            p.setBrush(Qt::NoBrush);
            p.drawPolygon(QPolygonF({c + QPointF(-10, -15), c + QPointF(4, -15), c + QPointF(10, -9),
                                     c + QPointF(10, 15), c + QPointF(-10, 15)}));
            p.drawPolyline(QPolygonF({c + QPointF(4, -15), c + QPointF(4, -9), c + QPointF(10, -9)}));
            p.drawPolygon(QPolygonF({c + QPointF(-5, 8), c + QPointF(5, 8), c + QPointF(0, -3)}));
            p.setRenderHint(QPainter::Antialiasing, false);
        }
        p.setPen(lit ? t.ink : t.text);
        p.drawText(r.adjusted(0, 0, 0, -3), Qt::AlignHCenter | Qt::AlignBottom, name_of(i));
    }
}

} // namespace mirolux::app
