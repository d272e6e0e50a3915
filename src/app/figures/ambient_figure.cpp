#include "app/figures/ambient_figure.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/ambient/ambient_light.h"
#include "core/base/text.h"
#include "core/light/tone.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace mirolux::app {

AmbientFigure::AmbientFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent), sky_(nullptr) {
    setObjectName("ambient figure");
    setAccessibleName(tr("A ball lit by the ambient light"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(tr("A white ball that only ambient light reaches, seen as the camera looks. Move over it to read what "
                  "arrives there."));
    connect(&document_, &Document::changed, this, &AmbientFigure::ask);
    connect(&document_, &Document::camera_moved, this, &AmbientFigure::ask);
    connect(&sky_, &SkyAside::ready, this, qOverload<>(&QWidget::update));
}

QRectF AmbientFigure::ball() const {
    return {4, 5, 140, 140};
}

std::optional<glm::dvec3> AmbientFigure::normal_at(const QPointF& point) const {
    const QRectF b = ball();
    const double x = (point.x() - b.center().x()) / (b.width() / 2),
                 y = (b.center().y() - point.y()) / (b.height() / 2), r2 = x * x + y * y;
    if (r2 > 1) return {};
    const glm::dmat3 toWorld = glm::dmat3(glm::transpose(glm::mat3(view_matrix(document_.project().view.camera))));
    return toWorld * glm::dvec3(x, y, std::sqrt(1 - r2));
}

AmbientLight AmbientFigure::present() const {
    const Setup& setup = document_.project().setup;
    AmbientLight ambient = ambient_light(setup);
    if (setup.choice("ambient.kind") == "sky") ambient.sky = sky_.model();
    return ambient;
}

void AmbientFigure::ask() {
    update();
    if (!document_.is_open() || !isVisible() || document_.project().setup.choice("ambient.kind") != "sky") return;
    const Project& p = document_.project();
    sky_.ask(sky_settings(document_.scene(), p.setup, p.view));
}

QString AmbientFigure::words_at(const QPointF& point) const {
    const auto n = document_.is_open() ? normal_at(point) : std::nullopt;
    if (!n) return {};
    const glm::dvec3 l = ambient_radiance(present(), *n);
    const auto number = [](double v) { return QString::fromStdString(number_text(v, 3)); };
    return tr("facing %1, %2, %3\n%4\u00b0 above level\n%5  %6  %7 cd/m\u00b2")
        .arg(number(n->x), number(n->y), number(n->z), number(std::asin(std::clamp(n->y, -1.0, 1.0)) * 57.29578),
             number(l.x), number(l.y), number(l.z));
}

void AmbientFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF b = ball();
    const AmbientLight ambient = present();
    const double scale = tone::exposure_scale(document_.project().setup.number("exposure.ev100"));
    QImage image(b.size().toSize(), QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    double most = 0;
    std::vector<glm::vec3> colors = {ambient.top, ambient.side, ambient.bottom};
    if (ambient.sky)
        for (const glm::dvec3& n : {glm::dvec3(0, 1, 0), glm::dvec3(1, 0, 0), glm::dvec3(0, 0, 1), glm::dvec3(-1, 0, 0),
                                    glm::dvec3(0, 0, -1)})
            colors.emplace_back(ambient_radiance(ambient, n));
    for (const glm::vec3& c : colors)
        most = std::max({most, double(c.r), double(c.g), double(c.b)});
    const double lift = most * scale > 0 ? 0.75 / (most * scale) : 0; // the brightest direction near white
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x)
            if (const auto n = normal_at(b.topLeft() + QPointF(x + 0.5, y + 0.5)))
                image.setPixelColor(x, y, display_color(glm::vec3(ambient_radiance(ambient, *n) * scale * lift)));
    p.drawImage(b.topLeft(), image);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.line, 1));
    p.drawEllipse(b);
    p.setFont(sized(font(), 11));
    p.setPen(t.quiet);
    const QRectF beside(b.right() + 14, b.top() + 4, width() - b.right() - 16, b.height());
    const double stops = lift > 0 ? std::log2(lift) : 0;
    p.drawText(beside, Qt::TextWordWrap,
               most > 0 ? tr("A white ball under ambient light alone, %1 %2 stops for reading.")
                              .arg(stops >= 0 ? tr("lifted") : tr("lowered"))
                              .arg(std::abs(stops), 0, 'f', 1)
               : sky_.busy() ? tr("The sky's light is being summed.")
                             : tr("No ambient light: what no lamp reaches is black."));
    if (!pointer_ || words_at(*pointer_).isEmpty()) return;
    p.setPen(t.text);
    p.drawText(beside.adjusted(0, 66, 0, 0), Qt::TextWordWrap, words_at(*pointer_));
    for (const QPen& pen : {QPen(QColor(0, 0, 0, 180), 3), QPen(QColor(246, 242, 232), 1.2)}) {
        p.setPen(pen);
        p.drawEllipse(*pointer_, 5, 5);
    }
}

void AmbientFigure::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    update();
}

void AmbientFigure::leaveEvent(QEvent*) {
    if (!hasFocus()) pointer_.reset();
    update();
}

/// Arrow keys move the place that is read.
void AmbientFigure::keyPressEvent(QKeyEvent* e) {
    QPointF at = pointer_.value_or(ball().center());
    const std::pair<int, QPointF> steps[] = {
        {Qt::Key_Left, {-6, 0}}, {Qt::Key_Right, {6, 0}}, {Qt::Key_Up, {0, -6}}, {Qt::Key_Down, {0, 6}}};
    for (const auto& [key, step] : steps)
        if (e->key() == key) {
            pointer_ = normal_at(at + step) ? at + step : at;
            return update();
        }
    QWidget::keyPressEvent(e);
}

} // namespace mirolux::app
