#pragma once
#include "app/figures/figure.h"

namespace mirolux::app {

class ChoiceRow;

/// Several figures of one station, one at a time, chosen by a row of words above.
class FigurePages : public Figure {
    Q_OBJECT
public:
    /// A word for each page.
    FigurePages(const QStringList& words, const std::vector<Figure*>& pages, Document& document,
                const RenderBridge& bridge, QWidget* parent);
    void show_page(int page);
    int page() const;
    std::vector<std::string> edits() const override;

protected:
    ChoiceRow* choice_;

private:
    std::vector<Figure*> pages_;
};

/// Of the Ambient station: the light itself, occlusion, the furnace, and what lies beneath surfaces. What is switched
/// on is looked at.
class AmbientPages final : public FigurePages {
    Q_OBJECT
public:
    AmbientPages(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    enum Page { light, occlusion, furnace, beneath };

private:
    bool occluded_ = false, spread_ = false;
};

/// Of the Finish station: the tone curve, what the working space does, and what sizes of rendering cost. A flat stage
/// has the curve alone.
class FinishPages final : public FigurePages {
    Q_OBJECT
public:
    FinishPages(Document& document, const RenderBridge& bridge, QWidget* parent = nullptr);
    enum Page { curve, space, size };
};

} // namespace mirolux::app
