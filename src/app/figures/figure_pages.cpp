#include "app/figures/figure_pages.h"
#include "app/choice_row.h"
#include "app/figures/ambient_figure.h"
#include "app/figures/furnace_figure.h"
#include "app/figures/occlusion_figure.h"
#include "app/figures/size_figure.h"
#include "app/figures/space_figure.h"
#include "app/figures/subsurface_figure.h"
#include "app/figures/tone_figure.h"
#include "core/path/path_kind.h"
#include "core/surface/subsurface.h"
#include <QVBoxLayout>

namespace mirolux::app {

FigurePages::FigurePages(const QStringList& words, const std::vector<Figure*>& pages, Document& document,
                         const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent), choice_(new ChoiceRow(words, this)), pages_(pages) {
    setFocusPolicy(Qt::NoFocus);
    choice_->setObjectName("figure page");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addWidget(choice_);
    for (Figure* page : pages_) {
        column->addWidget(page);
        connect(page, &Figure::pass_wanted, this, &Figure::pass_wanted);
    }
    connect(choice_, &ChoiceRow::chosen, this, &FigurePages::show_page);
    show_page(0);
}

void FigurePages::show_page(int page) {
    choice_->set_current(page);
    for (int i = 0; i < int(pages_.size()); ++i)
        pages_[static_cast<std::size_t>(i)]->setVisible(i == page);
}

int FigurePages::page() const {
    return choice_->current();
}

std::vector<std::string> FigurePages::edits() const {
    std::vector<std::string> all;
    for (const Figure* page : pages_)
        for (std::string& key : page->edits())
            all.push_back(std::move(key));
    return all;
}

AmbientPages::AmbientPages(Document& document, const RenderBridge& bridge, QWidget* parent)
    : FigurePages({tr("light"), tr("occlusion"), tr("furnace"), tr("beneath")},
                  {new AmbientFigure(document, bridge), new OcclusionFigure(document, bridge),
                   new FurnaceFigure(document, bridge), new SubsurfaceFigure(document, bridge)},
                  document, bridge, parent) {
    choice_->setToolTip(
        tr("What is drawn below: the ambient light on balls, what occlusion leaves of it before a wall, "
           "the energy that the shading model keeps, or what light does beneath the surface."));
    connect(&document_, &Document::changed, this, [this] {
        const bool now = document_.is_open() && occludes_ambient(document_.project().setup);
        if (now && !occluded_) show_page(occlusion);
        if (!now && occluded_ && page() == occlusion) show_page(light);
        occluded_ = now;
        const bool spread = document_.is_open() && document_.is_solid() &&
                            subsurface_kind(document_.project().setup, *document_.asset()) != Subsurface::none;
        if (spread && !spread_) show_page(beneath);
        if (!spread && spread_ && page() == beneath) show_page(light);
        spread_ = spread;
    });
}

FinishPages::FinishPages(Document& document, const RenderBridge& bridge, QWidget* parent)
    : FigurePages(
          {tr("tone curve"), tr("space"), tr("size")},
          {new ToneFigure(document, bridge), new SpaceFigure(document, bridge), new SizeFigure(document, bridge)},
          document, bridge, parent) {
    choice_->setToolTip(tr("What is drawn below: the tone curve over the picture's luminances, what sums of coded "
                           "values do to a ball and to a lamp's fall-off, or what sizes of rendering cost."));
    connect(&document_, &Document::changed, this, [this] {
        const bool flat = document_.is_open() && !document_.is_solid();
        choice_->setVisible(!flat);
        if (flat && page() != curve) show_page(curve);
    });
}

} // namespace mirolux::app
