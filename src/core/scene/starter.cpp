#include "core/scene/starter.h"
#include "core/base/text.h"
#include "core/light/luminance.h"
#include "core/light/tone.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

static constexpr float keyLux = 10.0f;

Starter starter_of(const OpenProject& open) {
    if (!open.project.path.empty()) return {};
    return {open.project.lights.empty(), true};
}

const char* depth_layer(Stage stage) {
    return stage == Stage::solid ? "depth" : stage == Stage::blocks ? "blockDepth" : "";
}

std::string words_of(const Starter& starter) {
    std::vector<std::string> parts;
    if (starter.light) parts = {"a key light", "a gradient ambient", "a sky"};
    if (starter.exposure) parts.push_back("a metered exposure");
    return joined(parts);
}

void add_starter_light(Project& p) {
    const Camera& camera = p.view.camera;
    const glm::vec3 ahead = glm::normalize(camera.aim - camera.eye);
    const glm::vec3 side = glm::length(glm::cross(ahead, glm::vec3(0, 1, 0))) > 1e-3f
                               ? glm::normalize(glm::cross(ahead, glm::vec3(0, 1, 0)))
                               : glm::vec3(1, 0, 0);
    const glm::vec3 level = glm::normalize(glm::cross(glm::vec3(0, 1, 0), side));
    Light key;
    key.id = 1000000; // far from the scene's node numbers
    for (const Light& l : p.lights)
        key.id = std::max(key.id, l.id + 1);
    key.name = "key light";
    key.type = LightType::directional;
    key.unit = IntensityUnit::lux;
    key.intensity = keyLux;
    key.kelvin = 5500;
    key.direction = glm::normalize(0.6f * side - glm::vec3(0, 0.9f, 0) + 0.55f * level); // from the left, above, behind
    p.lights.push_back(key);
    const float level0 = 0.2f * keyLux / 3.14159265f; // radiance of a white surface under a fifth of the key
    (void)p.setup.set("ambient.kind", std::string("gradient"));
    (void)p.setup.set("ambient.top", glm::vec3(1.2f, 1.25f, 1.35f) * level0);
    (void)p.setup.set("ambient.side", glm::vec3(0.9f) * level0);
    (void)p.setup.set("ambient.bottom", glm::vec3(0.55f, 0.52f, 0.5f) * level0);
}

void expose_starter(Project& p, double ev100, bool sky) {
    (void)p.setup.set("exposure.ev100", ev100);
    if (!sky || !(p.sky == Sky{})) return;
    const auto white = static_cast<float>(1.0 / tone::exposure_scale(ev100));
    p.sky = {glm::vec3(0.30f, 0.31f, 0.33f) * white, glm::vec3(0.07f, 0.09f, 0.13f) * white};
}

std::optional<double> metered_ev100(const FloatImage& radiance, const FloatImage& depth) {
    std::vector<double> seen;
    const std::size_t pixels = std::size_t(radiance.width) * static_cast<std::size_t>(radiance.height);
    for (std::size_t i = 0; i < pixels && i < depth.data.size(); ++i) {
        if (!(depth.data[i] > 0)) continue;
        const float* c = radiance.data.data() + i * static_cast<std::size_t>(radiance.channels);
        const double y = luminance(glm::dvec3(c[0], c[1], c[2]));
        if (std::isfinite(y)) seen.push_back(std::max(y, 0.0));
    }
    if (seen.empty()) return std::nullopt;
    std::vector<double> sorted = seen;
    std::sort(sorted.begin(), sorted.end());
    const double least = sorted[(sorted.size() - 1) * 99 / 100] / 1000;
    if (!(least > 0)) return std::nullopt;
    double sum = 0;
    for (const double y : seen)
        sum += std::log(std::max(y, least));
    const double average = std::exp(sum / static_cast<double>(seen.size()));
    // exposure_scale halves with each step: find the step at which the average stands at 0.18.
    const double ev = std::log2(average * tone::exposure_scale(0.0) / 0.18);
    return std::clamp(std::round(ev * 10) / 10, -8.0, 20.0);
}

} // namespace mirolux
