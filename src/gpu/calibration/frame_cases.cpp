#include "gpu/calibration/frame_cases.h"
#include "core/ambient/probe_capture.h"
#include "core/bake/baked_light.h"
#include "core/bake/space_probes.h"
#include "core/light/cheap_lights.h"
#include "core/surface/optics.h"
#include "core/technique/technique.h"
#include "gpu/calibration/abstract_scene.h"
#include <set>

namespace mirolux::gpu {

namespace {

using Values = std::vector<std::pair<std::string, std::string>>;

/// The abstract scenes and lights that frames are made of, and the frames so far.
class Cases {
public:
    void plain_and_textured();
    void models_and_lights();
    void crowds();
    void of_techniques();
    void of_flat_stage(const Values& values);
    std::vector<FrameCase> out;

private:
    void add(const AbstractScene& a, int width, int height, const std::vector<Light>& lights,
             const std::string& lightsName, const Values& values) {
        FrameCase c;
        c.scene = a.scene;
        c.scene.lights = lights;
        c.view.camera = a.camera;
        c.view.width = width;
        c.view.height = height;
        c.name = a.name + ", " + lightsName;
        for (const auto& [key, value] : values) {
            (void)c.setup.set_text(key, value);
            c.name += ", " + value;
        }
        out.push_back(std::move(c));
    }
    /// Where lights of the crowd are strewn: near the ground.
    Box low() const {
        Box box = many.scene.asset->bounds;
        box.high.y = 3;
        return box;
    }

    const AbstractScene plain = wall(0), textured = wall(3), many = crowd(700), fine = mesh(60000), coarse = mesh(4000),
                        glass = panes(5);
    const std::vector<Light> none, all4 = strewn_lights(4, plain.scene.asset->bounds, 60, 21),
                                   idle48 = strewn_lights(48, plain.scene.asset->bounds, 1.1f, 22);
    const std::vector<Light> spread48 = strewn_lights(48, low(), 7, 23), spread200 = strewn_lights(200, low(), 4, 24);
};

void Cases::plain_and_textured() {
    for (const int width : {320, 800}) {
        const int height = width * 9 / 16;
        add(plain, width, height, none, "no lights", {{"path.kind", "forward"}});
        add(textured, width, height, none, "no lights", {{"path.kind", "deferred"}});
        add(fine, width, height, none, "no lights", {{"path.kind", "forward"}});
        add(many, width, height, spread48, "48 lights", {{"path.kind", "tiled-deferred"}});
        add(many, width, height, spread48, "48 lights", {{"path.kind", "forward"}});
        add(many, width, height, spread200, "200 lights", {{"path.kind", "clustered-deferred"}});
    }
}

void Cases::models_and_lights() {
    for (const char* model : {"lambert", "phong", "blinn-phong", "ggx"}) {
        add(plain, 512, 288, all4, "4 lights", {{"path.kind", "forward"}, {"shading.model", model}});
        add(plain, 512, 288, all4, "4 lights", {{"path.kind", "deferred"}, {"shading.model", model}});
    }
    add(plain, 320, 180, idle48, "48 small lights", {{"path.kind", "deferred"}});
    add(plain, 320, 180, idle48, "48 small lights", {{"path.kind", "forward"}, {"path.maxLights", "64"}});
    add(plain, 320, 180, strewn_lights(24, plain.scene.asset->bounds, 9, 27), "24 middling lights",
        {{"path.kind", "forward"}, {"path.maxLights", "64"}});
    add(plain, 320, 180, strewn_lights(24, plain.scene.asset->bounds, 9, 27), "24 middling lights",
        {{"path.kind", "tiled-deferred"}});
    add(plain, 320, 180, strewn_lights(24, plain.scene.asset->bounds, 60, 27), "24 large lights",
        {{"path.kind", "tiled-forward"}, {"shading.model", "lambert"}});
    add(textured, 512, 288, all4, "4 lights", {{"path.kind", "additive"}});
    add(textured, 512, 288, none, "no lights",
        {{"path.kind", "deferred"}, {"gbuffer.packing", "full"}, {"path.targetFormat", "rgba32f"}});
    add(textured, 512, 288, all4, "4 lights", {{"path.kind", "forward"}, {"path.targetFormat", "rgba32f"}});
    add(coarse, 512, 288, none, "no lights", {{"path.kind", "forward"}, {"path.depthPrepass", "on"}});
    add(glass, 512, 288, all4, "4 lights", {{"path.kind", "forward"}});
    add(glass, 512, 288, all4, "4 lights", {{"path.kind", "forward"}, {"transparency.kind", "peeled"}});
    add(glass, 512, 288, all4, "4 lights", {{"path.kind", "tiled-deferred"}});
}

void Cases::crowds() {
    add(many, 400, 225, spread48, "48 lights", {{"path.kind", "additive"}});
    add(many, 400, 225, spread48, "48 lights", {{"path.kind", "deferred"}});
    add(many, 400, 225, spread48, "48 lights", {{"path.kind", "volumes"}});
    add(many, 400, 225, spread48, "48 lights", {{"path.kind", "volumes"}, {"volumes.form", "one-step"}});
    add(many, 400, 225, spread200, "200 lights", {{"path.kind", "forward"}, {"path.maxLights", "32"}});
    for (const auto& [count, range] : {std::pair(60, 14.0f), std::pair(120, 9.0f), std::pair(500, 2.5f)})
        for (const char* path : {"tiled-deferred", "clustered-forward"})
            for (const char* tile : {"8", "16"})
                add(many, 480, 270, strewn_lights(count, low(), range, 25), (std::to_string(count) + " lights"),
                    {{"path.kind", path}, {"culling.tile", tile}});
    for (const char* tile : {"8", "16", "32"}) {
        add(many, 640, 360, spread200, "200 lights", {{"path.kind", "tiled-deferred"}, {"culling.tile", tile}});
        add(many, 640, 360, spread200, "200 lights", {{"path.kind", "clustered-forward"}, {"culling.tile", tile}});
    }
    add(many, 640, 360, spread200, "200 lights",
        {{"path.kind", "tiled-forward"}, {"culling.depthBounds", "off"}, {"culling.coneTest", "off"}});
    add(many, 640, 360, spread200, "200 lights",
        {{"path.kind", "tiled-forward"}, {"culling.depthBounds", "min-max"}, {"shading.model", "lambert"}});
    add(many, 640, 360, spread200, "200 lights",
        {{"path.kind", "clustered-deferred"}, {"culling.depthBounds", "off"}, {"cluster.slices", "12"}});
}

static bool asks(const Values& values, const char* key) {
    return std::any_of(values.begin(), values.end(), [&](const auto& v) { return v.first == key; });
}

/// Three probes, of which two give light to what the camera looks at; their captures are of plain grey.
static std::vector<Probe> probes_about(const Camera& camera) {
    const std::filesystem::path file = std::filesystem::temp_directory_path() / "mirolux-calibration-probe.exr";
    constexpr int size = 16;
    if (!write_probe(file, {size, 6 * size, 3, std::vector<float>(std::size_t(18) * size * size, 0.5f)})) return {};
    std::vector<Probe> out(3);
    for (std::size_t i = 0; i < out.size(); ++i) {
        Probe& p = out[i];
        p.id = static_cast<int>(i);
        p.file = file.string();
        p.position = p.center = i == 2 ? camera.eye + glm::vec3(0, 500, 0) : camera.aim;
        p.size = glm::vec3(200.0f + 20.0f * static_cast<float>(i));
        p.weight = 0.5f;
    }
    return out;
}

/// To its end, beside the scene; false: it could not be.
template <class Begun>
static bool baked_whole(Begun bake) {
    if (!bake) return false;
    while (!(*bake)->work(1000)) {
    }
    return (*bake)->keep().has_value();
}

/// What a scene needs beforehand: a coarse map, masks or occlusion, or a few probes, of one path each.
static std::string bakes_of(const Scene& scene, const Setup& setup) {
    Scene lit = scene;
    lit.bakes = (std::filesystem::temp_directory_path() / "mirolux-calibration-bakes").string();
    const glm::vec3 size = scene.asset->bounds.size();
    const float most = std::max({size.x, size.y, size.z, 1e-3f}), density = 128 / most;
    const bool done = uses_light_map(setup) ? baked_whole(LightMapBake::begin(lit, setup, {density, 1, 0}))
                      : uses_masks(setup)   ? baked_whole(MaskBake::begin(lit, setup, {density, 4}))
                      : uses_baked_occlusion(setup)
                          ? baked_whole(OcclusionBake::begin(lit, setup, {density, 4, 1, false}))
                          : baked_whole(ProbeGridBake::begin(lit, setup, {most / 4, 16, 0}));
    return done ? lit.bakes : std::string();
}

void Cases::of_techniques() {
    std::set<Values> done; // terms that one frame exercises share it
    for (const CostTerm& term : all_terms()) {
        if (term.exercise.empty() || !done.insert(term.exercise).second) continue;
        if (term.exercise.front().first.starts_with("flat.")) {
            of_flat_stage(term.exercise);
            continue;
        }
        std::vector<Light> lights = all4;
        if (term.exercise.front().first.starts_with("shafts.")) { // a sun in the picture
            lights.push_back({.id = 1000, .name = "sun", .type = LightType::directional});
            lights.back().direction = -glm::normalize(plain.camera.aim - plain.camera.eye);
        }
        for (const auto& [path, width] : {std::pair("forward", 320), {"forward", 800}, {"deferred", 320}}) {
            Values values = {{"path.kind", path}};
            const bool solid = term.exercise.front().first == "solidLights.kind";
            values.insert(values.end(), term.exercise.begin(), term.exercise.end());
            add(plain, width, width * 9 / 16, lights, "4 lights", values);
            if (asks(term.exercise, "shading.optics") || asks(term.exercise, "subsurface.kind")) {
                brdf::Optics o;
                if (asks(term.exercise, "shading.optics"))
                    o.coat = 0.8f;
                else {
                    o.scatterDistance = {0.2f, 0.1f, 0.05f};
                    o.thickness = 0.05f;
                    for (std::size_t i = 0; i < lights.size(); i += 2) // behind the wall, half of them
                        out.back().scene.lights[i].position.z *= -1;
                }
                Scene& scene = out.back().scene;
                scene.asset = with_optics(*scene.asset, o);
            }
            if (asks(term.exercise, "probe.kind")) out.back().scene.probes = probes_about(plain.camera);
            if (asks(term.exercise, "indirect.kind") || asks(term.exercise, "shadow.baked") ||
                asks(term.exercise, "occlusion.baked"))
                out.back().scene.bakes = bakes_of(out.back().scene, out.back().setup);
            if (!solid && term.exercise.front().first != "viewLights.kind") continue;
            for (int i = 0; i < 3; ++i) // over most of the picture, one on the other
                out.back().scene.cheapLights.push_back(
                    starter(solid ? CheapStart::ball : CheapStart::sky, 1, plain.camera.aim));
            for (CheapLight& l : out.back().scene.cheapLights)
                l.reach = 0.5f * glm::length(plain.camera.aim - plain.camera.eye);
        }
        if (!term.exercise.front().first.starts_with("sky.")) continue;
        Values seen = {{"path.kind", "tiled-deferred"}}; // the wall hides the sky, the crowd does not
        seen.insert(seen.end(), term.exercise.begin(), term.exercise.end());
        add(many, 480, 270, spread48, "48 lights", seen);
    }
}

/// A few walls and many, few lights and many, near and far.
void Cases::of_flat_stage(const Values& values) {
    for (const auto& [walls, lights, range, width] :
         {std::tuple(8, 2, 90.0f, 640), {60, 12, 60.0f, 480}, {24, 48, 24.0f, 640}, {60, 6, 140.0f, 320}}) {
        const AbstractScene a = board(walls);
        FrameCase c;
        c.scene = a.scene;
        strew_on_board(c.scene, lights, range, 33);
        c.setup.stage = mirolux::Stage::flat;
        c.view.camera = a.camera;
        c.view.width = width;
        c.view.height = width * 9 / 16;
        c.name = a.name + ", " + std::to_string(lights) + " lights";
        for (const auto& [key, value] : values) {
            (void)c.setup.set_text(key, value);
            c.name += ", " + value;
        }
        out.push_back(std::move(c));
    }
}

} // namespace

std::vector<FrameCase> frame_cases() {
    Cases cases;
    cases.plain_and_textured();
    cases.models_and_lights();
    cases.crowds();
    cases.of_techniques();
    return std::move(cases.out);
}

} // namespace mirolux::gpu
