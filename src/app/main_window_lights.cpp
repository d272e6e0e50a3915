#include "app/main_window.h"
#include "core/plan/camera_motion.h"

// Lights (and, of a flat stage, pieces) that are added, copied and taken away.
namespace mirolux::app {

/// In the picture's middle, as large as a quarter of what is seen.
void MainWindow::add_flat_light(LightType type) {
    const Camera& c = document_.project().view.camera;
    Light l;
    l.type = type;
    l.color = {1.0f, 0.78f, 0.5f};
    l.position = {c.eye.x, c.eye.y, 0.1f * c.span};
    l.range = 0.25f * c.span;
    l.name = type == LightType::point ? "point light" : type == LightType::spot ? "spot light" : "directional light";
    if (type == LightType::spot) {
        l.range = 0.5f * c.span;
        l.innerConeAngle = glm::radians(12.0f);
        l.outerConeAngle = glm::radians(26.0f);
    } else if (type == LightType::directional) {
        l.intensity = 0.25f;
        l.range = 0;
        l.unit = IntensityUnit::lux;
        l.direction = glm::normalize(glm::vec3(0.4f, -0.7f, -0.6f));
    }
    select_light(document_.add_light(l));
}

void MainWindow::add_light(LightType type) {
    if (!document_.is_open()) return;
    if (document_.is_flat()) return add_flat_light(type);
    const View view = document_.project().view;
    const Ray ray = ray_through(view, view.width * 0.5, view.height * 0.5);
    const RayHit hit = document_.rays().nearest(ray);
    const float distance = hit.object >= 0 ? std::min(hit.distance, 30.0f) : 8.0f;
    const glm::vec3 surface = ray.origin + ray.direction * distance;
    Light l;
    l.type = type;
    l.kelvin = 3500;
    l.position = surface + (hit.object >= 0 ? hit.normal * 1.2f : glm::vec3(0)) + glm::vec3(0, 1.2f, 0);
    l.direction = glm::vec3(0, -1, 0);
    l.range = std::clamp(distance, 4.0f, 20.0f);
    l.intensity = 120;
    l.name = type == LightType::point ? "point light" : type == LightType::spot ? "spot light" : "directional light";
    if (type == LightType::spot) {
        l.intensity = 400;
        l.innerConeAngle = glm::radians(20.0f);
        l.outerConeAngle = glm::radians(35.0f);
    } else if (type == LightType::directional) {
        l.intensity = 0.3f;
        l.range = 0;
        l.unit = IntensityUnit::lux;
        l.direction = glm::normalize(glm::vec3(0.4f, -1, -0.3f));
    }
    select_light(document_.add_light(l));
}

void MainWindow::duplicate_light() {
    if (!selection_->piece().none()) return stageBench_->duplicate_piece();
    if (selected_proxies().size() > 0) return duplicate_proxies();
    if (!selection_->objects().empty()) return duplicate_objects();
    const Light* l = document_.light(selection_->light());
    if (!l) return;
    Light copy = *l;
    copy.name += " copy";
    copy.position.x += document_.is_flat() ? 12.0f : 0.5f;
    select_light(document_.add_light(copy));
}

void MainWindow::delete_lights() {
    const std::vector<int> ids = selection_->lights();
    if (!selection_->piece().none()) return stageBench_->erase_piece();
    if (ids.empty() && !selected_things().empty()) return delete_objects();
    if (ids.empty()) return delete_proxies();
    selection_->clear();
    const QString label = ids.size() == 1 ? tr("delete light") : tr("delete %1 lights").arg(ids.size());
    document_.edit(label, [&ids](Project& p) {
        std::erase_if(p.lights, [&](const Light& l) { return std::find(ids.begin(), ids.end(), l.id) != ids.end(); });
    });
}

} // namespace mirolux::app
