#include "app/air_row.h"
#include "app/cloud_row.h"
#include "app/main_window.h"

// Air in the window.
namespace mirolux::app {

void MainWindow::connect_air() {
    auto* row = new AirRow(document_, *bridge_, this);
    settingsBenches_["Air"]->add_row(row);
    settingsBenches_["Air"]->add_row(new CloudRow(document_, *selection_, this));
    connect(row, &AirRow::against_wanted, this, [this](const Setup& b) { set_b(b); });
    connect(viewport_, &Viewport::way_pointed, row,
            [row](const std::optional<glm::vec3>& way) { row->figure().set_way(way); });
}

} // namespace mirolux::app
