#include "app/figures/furnace_figure.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/base/text.h"
#include "core/surface/surface_model.h"
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace mirolux::app {

static constexpr double around = 0.42; // what radiance 1 is shown as, so that a gain shows too

FurnaceFigure::FurnaceFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("furnace figure");
    setAccessibleName(tr("White balls in even light: energy lost or gained"));
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(tr("White balls of the shading model, before the even light that falls on them from all around. What "
                  "keeps its energy cannot be seen."));
    connect(&document_, &Document::changed, this, &FurnaceFigure::refresh);
}

void FurnaceFigure::refresh() {
    if (!document_.is_open() || !isVisible()) return;
    const Setup& setup = document_.project().setup;
    const std::string of = setup.choice("shading.model") + (setup.flag("shading.normalised") ? " normalised" : "") +
                           (furnace_compensated(setup) ? " compensated" : "");
    if (of == of_) return;
    of_ = of;
    rows_ = {furnace_row(setup, 0)};
    if (shading_model(setup) != brdf::Model::lambert) rows_.push_back(furnace_row(setup, 1));
    update();
}

QRectF FurnaceFigure::ball(int row, int which) const {
    const double size = 38;
    return {8 + 44.0 * which, 10 + 76.0 * row, size, size};
}

void FurnaceFigure::paintEvent(QPaintEvent*) {
    if (rows_.empty()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    p.setFont(sized(font(), 11));
    const bool ggx = shading_model(document_.project().setup) == brdf::Model::ggx;
    for (int r = 0; r < int(rows_.size()); ++r) {
        const auto& row = rows_[static_cast<std::size_t>(r)];
        const QRectF band(4, ball(r, 0).top() - 5, std::min(width() - 8.0, 272.0), 48);
        p.fillRect(band, display_color(glm::vec3(float(around))));
        for (int i = 0; i < int(row.size()); ++i) {
            const FurnaceBall& b = row[static_cast<std::size_t>(i)];
            const QRectF place = ball(r, i);
            QImage image(place.size().toSize() * 2, QImage::Format_ARGB32_Premultiplied);
            image.fill(Qt::transparent);
            for (int y = 0; y < image.height(); ++y)
                for (int x = 0; x < image.width(); ++x) {
                    const double u = (x + 0.5) / image.width() * 2 - 1, v = (y + 0.5) / image.height() * 2 - 1,
                                 c2 = 1 - u * u - v * v;
                    if (c2 > 0)
                        image.setPixelColor(x, y, display_color(glm::vec3(float(around * b.at(std::sqrt(c2))))));
                }
            p.drawImage(place, image);
            p.setPen(t.text);
            const double percent = 100 * (b.mean() - 1);
            p.drawText(QRectF(place.left() - 6, band.bottom() + 1, place.width() + 12, 14), Qt::AlignCenter,
                       std::abs(percent) < 0.05 ? QString("0 %")
                                                : QString::asprintf("%+.*f %%", std::abs(percent) < 10 ? 1 : 0, percent)
                                                      .replace('-', QChar(0x2212)));
        }
    }
    p.setPen(t.quiet);
    const QRectF words(4, ball(int(rows_.size()) - 1, 0).bottom() + 24, width() - 8.0, 34);
    const QString said = pointer_ ? words_at(*pointer_) : QString();
    p.drawText(words, Qt::TextWordWrap,
               !said.isEmpty() ? said
               : ggx           ? tr("Roughness 0.045 to 1; above matt, below metal. %1")
                           .arg(furnace_compensated(document_.project().setup) ? tr("Multiple scattering given back.")
                                                                               : tr("One bounce."))
               : rows_.size() > 1 ? tr("Exponents 1 to 128; above matt, below metal.")
                                  : tr("Lambert: nothing lost, nothing gained."));
}

QString FurnaceFigure::words_at(const QPointF& point) const {
    for (int r = 0; r < int(rows_.size()); ++r)
        for (int i = 0; i < int(rows_[static_cast<std::size_t>(r)].size()); ++i) {
            const QRectF b = ball(r, i);
            const double u = (point.x() - b.center().x()) / (b.width() / 2),
                         v = (point.y() - b.center().y()) / (b.height() / 2), c2 = 1 - u * u - v * v;
            if (c2 <= 0) continue;
            const FurnaceBall& f = rows_[static_cast<std::size_t>(r)][static_cast<std::size_t>(i)];
            const auto number = [](double x) { return QString::fromStdString(number_text(x, 3)); };
            return tr("%1 %2: sends back %3 of what arrives, seen from %4\u00b0 off its normal.")
                .arg(shading_model(document_.project().setup) == brdf::Model::ggx ? tr("Roughness") : tr("Exponent"),
                     number(f.width), number(f.at(std::sqrt(c2))), number(std::acos(std::sqrt(c2)) * 57.29578));
        }
    return {};
}

void FurnaceFigure::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    update();
}

void FurnaceFigure::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

} // namespace mirolux::app
