#include "app/figures/space_figure.h"
#include "app/plots/plot.h"
#include "app/theme.h"
#include "core/finish/histogram.h"
#include "core/finish/working_space.h"
#include <QPainter>
#include <QPushButton>
#include <cmath>

namespace mirolux::app {

static constexpr double albedo = 0.5;

/// Value sent to the display over metres from a lamp that lights white fully at one metre.
class SpaceFigure::FallOff final : public Plot {
public:
    explicit FallOff(SpaceFigure* figure) : Plot(figure), figure_(*figure) {
        setObjectName("fall-off plot");
        setAccessibleName(SpaceFigure::tr("A lamp's fall-off, right and wrong"));
        set_room(34, 8, 12, 20);
        right_ = addGraph();
        wrong_ = addGraph();
        xAxis->setTicker(unit_ticker(" m", 5));
        refill();
    }
    void refill() {
        right_->data()->clear();
        wrong_->data()->clear();
        for (int i = 0; i <= 180; ++i) {
            const double d = 1 + 5.0 * i / 180;
            right_->addData(d, 255 * figure_.sent(1 / (d * d), true));
            wrong_->addData(d, 255 * figure_.sent(1 / (d * d), false));
        }
        set_bounds({1, 6}, {0, 255}, 0.2);
        show_whole();
        restyle();
    }

protected:
    void restyle() override {
        Plot::restyle();
        if (!right_ || !wrong_) return;
        right_->setPen(QPen(theme().a, 1.8));
        wrong_->setPen(QPen(theme().b, 1.8, Qt::DashLine));
        redraw();
    }
    void paint_over(QPainter& p) override {
        p.setFont(sized(font(), 11));
        for (const bool linear : {true, false}) {
            p.setPen(linear ? theme().a : theme().b);
            p.drawText(QRectF(area().right() - 126, area().top() + (linear ? 2 : 17), 120, 15), Qt::AlignRight,
                       linear ? SpaceFigure::tr("linear, right") : SpaceFigure::tr("coded, wrong"));
        }
    }

private:
    const SpaceFigure& figure_;
    QCPGraph *right_ = nullptr, *wrong_ = nullptr;
};

SpaceFigure::SpaceFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent) {
    setObjectName("space figure");
    setAccessibleName(tr("What the working space does to a ball and a fall-off"));
    setFocusPolicy(Qt::NoFocus);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setToolTip(tr("The same grey ball under the same lamp, and the lamp's fall-off: summed in linear values, and in "
                  "values as a display is sent them."));
    plot_ = new FallOff(this);
    plot_->setGeometry(0, 138, 280, 132);
    auto* pair = new QPushButton(tr("A right, B wrong"), this);
    pair->setObjectName("space pair");
    pair->setToolTip(tr("Shows the picture summed in linear values as A and in gamma-coded ones as B (Shift+G)."));
    pair->setGeometry(4, 276, 140, 26);
    connect(pair, &QPushButton::clicked, &document_, &Document::compare_spaces);
    connect(&document_, &Document::changed, this, &SpaceFigure::refresh);
}

void SpaceFigure::refresh() {
    if (!document_.is_open() || !isVisible()) return;
    linear_ = coded_ = document_.project().setup;
    (void)linear_.set("output.space", std::string("linear"));
    (void)coded_.set("output.space", std::string("gamma"));
    plot_->refill();
    update();
}

double SpaceFigure::sent(double irradiance, bool linear) const {
    return displayed(irradiance * (linear ? albedo : coded(glm::dvec3(albedo)).x), linear ? linear_ : coded_);
}

void SpaceFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_open()) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    p.setFont(sized(font(), 11));
    std::array<std::array<double, 257>, 2> table; // by the cosine to the lamp
    for (int i = 0; i <= 256; ++i)
        for (const int s : {0, 1})
            table[static_cast<std::size_t>(s)][static_cast<std::size_t>(i)] = sent(i / 256.0, s == 0);
    const glm::dvec3 toLamp = glm::normalize(glm::dvec3(-0.85, 0.35, 0.25));
    for (const int s : {0, 1}) {
        const QRectF ball(24 + 128.0 * s, 4, 104, 104);
        QImage image(208, 208, QImage::Format_ARGB32_Premultiplied);
        image.fill(Qt::transparent);
        for (int y = 0; y < 208; ++y)
            for (int x = 0; x < 208; ++x) {
                const double u = (x + 0.5) / 104 - 1, v = 1 - (y + 0.5) / 104, c2 = 1 - u * u - v * v;
                if (c2 <= 0) continue;
                const double lit = std::max(0.0, glm::dot(glm::dvec3(u, v, std::sqrt(c2)), toLamp));
                const int grey = int(std::lround(
                    255 * table[static_cast<std::size_t>(s)][static_cast<std::size_t>(std::lround(256 * lit))]));
                image.setPixelColor(x, y, QColor(grey, grey, grey));
            }
        p.drawImage(ball, image);
        p.setPen(s == 0 ? t.a : t.b);
        p.drawText(QRectF(ball.left(), ball.bottom() + 3, ball.width(), 15), Qt::AlignCenter,
                   s == 0 ? tr("linear, right") : tr("coded, wrong"));
    }
}

} // namespace mirolux::app
