#include "core/bake/light_map.h"
#include "core/bake/texel_work.h"
#include "core/base/recent.h"
#include "core/base/text.h"
#include "core/io/wire.h"
#include "core/motion/scene_at.h"
#include "core/sky/sky_model.h"
#include "core/visibility/visibility.h"
#include <algorithm>
#include <cmath>

// What a light map depends on.
namespace mirolux {

using nlohmann::json;

namespace {

/// What mobility depends on: hardly ever another from one question to the next.
struct LightsAndMotions {
    std::vector<Light> lights;
    std::vector<Motion> motions;
    std::vector<ClipPlay> clips;
    std::shared_ptr<const SceneAsset> asset;
    bool operator==(const LightsAndMotions&) const = default;
};

std::vector<Mobility> find_mobilities(const Scene& scene) {
    struct Change {
        bool place = false, strength = false;
    };
    std::vector<Change> changes(scene.lights.size());
    const auto place_of = [&](int id) {
        return static_cast<std::size_t>(
            std::find_if(scene.lights.begin(), scene.lights.end(), [&](const Light& l) { return l.id == id; }) -
            scene.lights.begin());
    };
    for (const Motion& m : scene.motions) {
        const std::size_t i = place_of(m.light);
        if (i == changes.size()) continue;
        const bool strength =
            m.kind == MotionKind::blink || m.kind == MotionKind::pulse || m.kind == MotionKind::flicker;
        (strength ? changes[i].strength : changes[i].place) = true;
    }
    if (scene.asset && scene.asset->rig && scene.asset->rig->moves()) {
        Scene plain = scene;
        plain.motions.clear();
        double longest = 0;
        for (const Clip& clip : scene.asset->rig->clips)
            longest = std::max(longest, clip.seconds);
        for (int t = 0; t < 9; ++t) { // places of a clip where keys are hardly ever all as at rest
            const std::vector<Light> then = lights_at(plain, longest * (t + 0.37) / 9);
            for (std::size_t i = 0; i < then.size() && i < changes.size(); ++i) {
                Light shines = scene.lights[i];
                shines.color = then[i].color;
                shines.kelvin = then[i].kelvin;
                shines.intensity = then[i].intensity;
                changes[i].strength = changes[i].strength || shines != scene.lights[i];
                changes[i].place = changes[i].place || shines != then[i];
            }
        }
    }
    std::vector<Mobility> out;
    for (std::size_t i = 0; i < changes.size(); ++i) {
        const Mobility marked = scene.lights[i].mobility;
        out.push_back(changes[i].place || (changes[i].strength && marked != Mobility::switched) ? Mobility::moving
                                                                                                : marked);
    }
    return out;
}

/// What of a light its share of a map depends on.
json of_light(const Light& l, Mobility mobility) {
    json j = {{"id", l.id},
              {"mobility", word(mobility)},
              {"type", word(l.type)},
              {"range", l.range},
              {"position", to_array(l.position)},
              {"direction", to_array(l.direction)},
              {"cone", {l.innerConeAngle, l.outerConeAngle}},
              {"size", l.sourceSize},
              {"shares", {l.diffuseShare, l.specularShare, l.indirectShare}}};
    if (mobility == Mobility::switched) return j;
    j["color"] = to_array(effective_color(l));
    j["intensity"] = l.enabled ? l.intensity : 0.0f;
    return j;
}

} // namespace

LightMapOptions light_map_options(const Setup& setup) {
    const bool patches = setup.choice("lightmap.source") == "patches";
    return {static_cast<float>(setup.number("lightmap.density")),
            setup.whole(patches ? "patches.rays" : "lightmap.paths"), patches ? -1 : setup.whole("lightmap.bounces"),
            patches};
}

std::shared_ptr<const std::vector<Mobility>> mobilities_of(const Scene& scene) {
    static Recent<LightsAndMotions, std::vector<Mobility>> kept(4);
    return kept.of({scene.lights, scene.motions, scene.clips, scene.asset},
                   [&](const LightsAndMotions&) { return find_mobilities(scene); });
}

Scene only_still(const Scene& scene, const Setup& setup) {
    const Stillness stillness = stillness_of(scene, setup);
    std::vector<ObjectEdit> edits = scene.placed ? scene.placed->edits.list() : std::vector<ObjectEdit>(), hidden;
    for (std::size_t i = 0; i < scene.asset->objects.size() && i < scene.asset->objectNames.size(); ++i)
        if (!stillness.still[i]) {
            hidden.push_back(edit_of(edits, *scene.asset, static_cast<int>(i)));
            hidden.back().hidden = true;
        }
    if (hidden.empty()) return scene;
    take_edits(edits, hidden);
    Scene out = scene;
    out.placed = place_objects(*scene.asset, std::move(edits));
    return out;
}

std::string still_light_digest(const Scene& scene, const Setup& setup, bool laidOut) {
    Digest d;
    const auto text = [&](const std::string& s) { d.add(s.data(), s.size()); };
    text(surfaces_digest(scene, setup, {laidOut, true}));
    static Recent<LightsAndMotions, std::string> kept(4);
    text(*kept.of({scene.lights, scene.motions, scene.clips, scene.asset}, [&](const LightsAndMotions&) {
        std::string all;
        const auto mobilities = mobilities_of(scene);
        for (std::size_t i = 0; i < scene.lights.size(); ++i)
            if ((*mobilities)[i] != Mobility::moving) all += of_light(scene.lights[i], (*mobilities)[i]).dump();
        return all;
    }));
    for (const Setting& s : all_settings())
        if (s.key.starts_with("sky.") || s.key.starts_with("sun.") || s.key.starts_with("moon.") ||
            s.key.starts_with("ambient.") || s.key.starts_with("environment.") || s.key == "light.window" ||
            s.key == "light.threshold")
            text(s.key + "=" + to_text(setup.get(s.key)));
    text(json{{"horizon", to_array(scene.sky.horizon)}, {"zenith", to_array(scene.sky.zenith)}}.dump());
    return d.hex();
}

std::string light_map_scene_digest(const Scene& scene, const Setup& setup) {
    return still_light_digest(scene, setup, true);
}

std::string light_map_digest(const Scene& scene, const Setup& setup, const LightMapOptions& options) {
    Digest d;
    const std::string text =
        light_map_scene_digest(scene, setup) +
        json{{"density", options.density}, {"samples", options.samples}, {"bounces", options.bounces}}.dump() +
        (options.patches ? " patches" : "");
    d.add(text.data(), text.size());
    return d.hex();
}

LightMapFiles light_map_files(const std::filesystem::path& bakes, const std::string& digest, int light) {
    const std::string name = "lightmap-" + digest, of = name + (light < 0 ? "" : ".light-" + std::to_string(light));
    return {bakes / (name + ".json"),
            bakes / (of + ".direct.exr"),
            bakes / (of + ".indirect.exr"),
            {bakes / (of + ".toward-red.exr"), bakes / (of + ".toward-green.exr"), bakes / (of + ".toward-blue.exr")}};
}

} // namespace mirolux
