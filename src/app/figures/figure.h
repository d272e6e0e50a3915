#pragma once
#include "app/document.h"
#include "app/render_bridge.h"
#include <QWidget>
#include <memory>
#include <string>
#include <vector>

namespace mirolux::app {

/// The drawing at the top of a station's bench: shows the present state, answers to the pointer, and can be reached by
/// keys.
class Figure : public QWidget {
    Q_OBJECT
public:
    Figure(Document& document, const RenderBridge& bridge, QWidget* parent);
    /// Settings that are chosen in the figure itself, so that no row repeats them.
    virtual std::vector<std::string> edits() const { return {}; }

signals:
    void pass_wanted(const QString& pass);

protected:
    Document& document_;
    const RenderBridge& bridge_;
};

/// The figure of a station, or none.
Figure* make_figure(const QString& station, Document& document, const RenderBridge& bridge, QWidget* parent);

} // namespace mirolux::app
