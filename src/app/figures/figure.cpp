#include "app/figures/figure.h"
#include "app/figures/figure_pages.h"
#include "app/figures/path_figure.h"
#include "app/figures/plan_figure.h"
#include "app/figures/shadow_figure.h"
#include "app/figures/sky_figure.h"

namespace mirolux::app {

Figure::Figure(Document& document, const RenderBridge& bridge, QWidget* parent)
    : QWidget(parent), document_(document), bridge_(bridge) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
}

template <class T>
static Figure* made(Document& document, const RenderBridge& bridge, QWidget* parent) {
    return new T(document, bridge, parent);
}

Figure* make_figure(const QString& station, Document& document, const RenderBridge& bridge, QWidget* parent) {
    struct Entry {
        const char* station;
        Figure* (*make)(Document&, const RenderBridge&, QWidget*);
    };
    static const Entry all[] = {{"Scene", made<PlanFigure>},     {"Path", made<PathFigure>},
                                {"Shadows", made<ShadowFigure>}, {"Ambient", made<AmbientPages>},
                                {"Air", made<SkyFigure>},        {"Finish", made<FinishPages>}};
    for (const Entry& e : all)
        if (station == e.station) return e.make(document, bridge, parent);
    return nullptr;
}

} // namespace mirolux::app
