#include "app/figures/size_figure.h"
#include "app/plots/plot.h"
#include "app/theme.h"
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <algorithm>
#include <cmath>

namespace mirolux::app {

/// Milliseconds over the rendered share of the shown width, with intervals, the budget as a line and the present size
/// as a mark.
class SizeFigure::Curve final : public Plot {
public:
    Curve(SizeFigure* figure, Document& document) : Plot(figure), figure_(*figure), document_(document) {
        setObjectName("size plot");
        setAccessibleName(SizeFigure::tr("Frame time over rendered size"));
        set_room(46, 8, 12, 20);
        line_ = addGraph();
        xAxis->setTicker(unit_ticker("", 5));
        yAxis->setTicker(unit_ticker(" ms", 4));
        refill();
    }
    void refill() {
        line_->data()->clear();
        double most = document_.is_open() ? budget_ms(document_.target()) : 1;
        for (const SizeCost& c : figure_.costs()) {
            line_->addData(c.scale, c.frame.median);
            most = std::max(most, c.frame.high);
        }
        set_bounds({0, 2.1}, {0, 1.08 * most}, 0.05);
        show_whole();
        restyle();
    }

protected:
    void restyle() override {
        Plot::restyle();
        if (!line_) return;
        line_->setPen(QPen(theme().text, 1.6));
        line_->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, theme().text, 5));
        redraw();
    }
    void paint_over(QPainter& p) override {
        const Theme& t = theme();
        p.setRenderHint(QPainter::Antialiasing);
        for (const SizeCost& c : figure_.costs()) {
            p.setPen(QPen(t.quiet, 1.2));
            p.drawLine(place(c.scale, c.frame.low), place(c.scale, c.frame.high));
        }
        if (!document_.is_open()) return;
        p.setFont(sized(font(), 11));
        const double budget = budget_ms(document_.target());
        const QPointF at = place(0, budget);
        p.setPen(QPen(t.text, 1, Qt::DashLine));
        p.drawLine(QPointF(area().left(), at.y()), QPointF(area().right(), at.y()));
        p.drawText(QRectF(area().left() + 4, at.y() - 15, 120, 14), Qt::AlignVCenter, SizeFigure::tr("budget"));
        const double now = document_.project().setup.number("output.scaleX");
        p.setPen(QPen(t.lit, 2));
        if (now <= 2.1) p.drawLine(place(now, 0), place(now, 0) - QPointF(0, 10));
    }
    QString empty_words() const override {
        return figure_.costs().empty() ? SizeFigure::tr("Not measured yet for this setup.") : QString();
    }
    void mouseReleaseEvent(QMouseEvent* e) override {
        Plot::mouseReleaseEvent(e);
        if (!clicked() || figure_.costs().empty() || !document_.is_open()) return;
        const double wanted = xAxis->pixelToCoord(e->position().x());
        const auto& costs = figure_.costs();
        const auto nearest = std::min_element(costs.begin(), costs.end(), [&](const SizeCost& a, const SizeCost& b) {
            return std::abs(a.scale - wanted) < std::abs(b.scale - wanted);
        });
        const Setup setup = at_scale(document_.project().setup, nearest->scale);
        document_.edit(SizeFigure::tr("Rendered size"), [&](Project& project) { project.setup = setup; });
    }

private:
    const SizeFigure& figure_;
    Document& document_;
    QCPGraph* line_ = nullptr;
};

SizeFigure::SizeFigure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent), plot_(new Curve(this, document)), measure_(new QPushButton(this)) {
    setObjectName("size figure");
    setAccessibleName(tr("What a frame costs over the size that it is rendered at"));
    setFocusPolicy(Qt::NoFocus);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    measure_->setObjectName("measure sizes");
    measure_->setText(tr("Measure sizes"));
    measure_->setToolTip(tr("Measures this setup at a quarter to twice the shown width and height, in rounds, beside "
                            "the window (Shift+Z)."));
    connect(measure_, &QPushButton::clicked, this, &SizeFigure::sizes_wanted);
    connect(&document_, &Document::changed, this, [this] {
        if (!document_.is_open() || (!costs_.empty() && at_scale(document_.project().setup, 1) != of_)) {
            costs_.clear(); // of another setup
            words_.clear();
        }
        plot_->refill();
        update();
    });
}

void SizeFigure::show_costs(const std::vector<SizeCost>& costs) {
    costs_ = costs;
    of_ = at_scale(document_.project().setup, 1);
    words_ = costs.empty() ? QString() : tr("A click takes the size; whiskers: 95 %.");
    plot_->refill();
    update();
}

void SizeFigure::say(const QString& words) {
    words_ = words;
    update();
}

QPointF SizeFigure::place_of(double scale) const {
    return plot_->pos() + plot_->place(scale, 0);
}

void SizeFigure::resizeEvent(QResizeEvent*) {
    plot_->setGeometry(0, 18, width(), 164);
    measure_->setGeometry(4, 200, 120, 26);
}

void SizeFigure::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setFont(sized(font(), 11));
    p.setPen(theme().quiet);
    p.drawText(QRectF(4, 0, width() - 8, 16), Qt::AlignVCenter,
               p.fontMetrics().elidedText(tr("Frame time over rendered width and height, of shown"), Qt::ElideRight,
                                          width() - 8));
    p.drawText(QRectF(4, 182, width() - 8, 16), Qt::AlignVCenter,
               p.fontMetrics().elidedText(words_, Qt::ElideRight, width() - 8));
}

} // namespace mirolux::app
