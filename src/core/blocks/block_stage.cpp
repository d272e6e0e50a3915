#include "core/blocks/block_stage.h"
#include "core/sky/sky_model.h"
#include <glm/gtc/matrix_transform.hpp>

namespace mirolux::blocks {

Way way_of(const Setup& setup) {
    const std::string& kind = setup.choice("blocks.light");
    return kind == "faces"          ? Way::faces
           : kind == "cast"         ? Way::cast
           : kind == "flood-origin" ? Way::floodOrigin
                                    : Way::flood;
}

FloodOptions flood_options(const Setup& setup) {
    return {setup.whole("flood.loss"), way_of(setup) == Way::floodOrigin && setup.flag("flood.mix")};
}

CastOptions cast_options(const Setup& s) {
    return {s.whole("cast.reach"),  s.whole("cast.clamp"), s.number("cast.shade"),
            s.number("cast.power"), s.number("cast.hue"),  s.whole("cast.headings")};
}

Sun sun_of(const std::vector<Light>& lights) {
    for (const Light& l : lights)
        if (l.enabled && l.type == LightType::directional && l.intensity > 0)
            return {-glm::normalize(glm::dvec3(l.direction)), effective_color(l) * l.intensity};
    return {};
}

std::vector<double> turns_of(const World& world, double seconds) {
    std::vector<double> out;
    for (const Prop& p : world.props)
        out.push_back(turn_at(p, seconds));
    return out;
}

glm::mat4 prop_matrix(const World& world, const Prop& prop, double turn) {
    glm::mat4 m = glm::scale(glm::mat4(1.0f), glm::vec3(world.edge));
    m = glm::translate(m, prop.place);
    m = glm::rotate(m, static_cast<float>(turn), glm::vec3(0, 1, 0));
    return glm::translate(m, -prop.pivot);
}

DrawList draw_list(const Scene& scene, const Setup& setup, const View& view) {
    DrawList out;
    for (const Light& l : lights_of(scene, setup, view)) {
        if (!l.enabled) continue;
        ++out.lightsInScene;
        if (l.type != LightType::directional || l.intensity <= 0) continue; // cells are lit by cells
        out.lights.push_back(l);
        out.reach.push_back(0);
        out.fade.push_back(1);
        ++out.directional;
    }
    return out;
}

namespace {

/// Faces of a chunk whose planes an eye may lie before; the eye in the part's own cells, `apart` from it at most.
bool looks_toward(int face, const glm::ivec3& corner, const glm::vec3& eye, float apart) {
    const int axis = face / 2;
    return face % 2 == 0 ? eye[axis] + apart > static_cast<float>(corner[axis])
                         : eye[axis] - apart < static_cast<float>(corner[axis] + chunk_edge);
}

void add(std::vector<SeenRun>& out, int part, const MeshedWorld::Run& run) {
    if (run.count == 0) return;
    if (!out.empty() && out.back().part == part && out.back().run.first + out.back().run.count == run.first)
        out.back().run.count += run.count;
    else
        out.push_back({part, run});
}

} // namespace

std::vector<SeenRun> seen_runs(const FrameInputs& in, bool clear) {
    const World& world = *in.scene.blocks;
    const std::shared_ptr<const MeshedWorld> mesh = meshed(in.scene.blocks);
    const auto planes = frustum_planes(enclosing_camera(in.view), aspect_of(in.view));
    const float apart = in.view.stereo == Stereo::off ? 0.0f : in.view.eyeDistance / world.edge; // of the eyes
    std::vector<SeenRun> out;
    const auto gather = [&](const MeshedWorld::Part& part, int number, const glm::mat4& toWorld) {
        const glm::vec3 eye(glm::inverse(toWorld) * glm::vec4(in.view.camera.eye, 1));
        for (std::size_t chunk = 0; chunk < part.chunks.size(); ++chunk) {
            const glm::ivec3 low = part.corners[chunk], high = glm::min(low + chunk_edge, part.size);
            Box box;
            for (int i = 0; i < 8; ++i)
                box.add(glm::vec3(
                    toWorld * glm::vec4(i & 1 ? high.x : low.x, i & 2 ? high.y : low.y, i & 4 ? high.z : low.z, 1)));
            if (!intersects(planes, box)) continue;
            if (clear)
                add(out, number, part.chunks[chunk][6]);
            else
                for (int face = 0; face < 6; ++face)
                    if (looks_toward(face, low, eye, apart))
                        add(out, number, part.chunks[chunk][static_cast<std::size_t>(face)]);
        }
    };
    gather(mesh->still, -1, glm::scale(glm::mat4(1.0f), glm::vec3(world.edge)));
    const std::vector<double> turns = turns_of(world, in.view.seconds);
    for (std::size_t i = 0; i < world.props.size(); ++i)
        gather(mesh->props[i], static_cast<int>(i), prop_matrix(world, world.props[i], turns[i]));
    return out;
}

Work work_of(const std::vector<SeenRun>& runs) {
    std::uint64_t quads = 0;
    for (const SeenRun& r : runs)
        quads += r.run.count;
    return Work::drawing(runs.size(), 2 * quads);
}

PlannedPass light_pass(const char* what, std::vector<std::string> keys) {
    for (const char* key : {"blocks.light", "blocks.top", "blocks.side", "blocks.bottom"})
        keys.emplace_back(key);
    return {.name = "block light",
            .family = "lights",
            .what = what,
            .reads = {"block surface", "depth"},
            .writes = {"scene"},
            .settings = std::move(keys),
            .expected = screen_work()};
}

void price_light_pass(const FramePlan& plan, const Work& w, double reads, double operations, CostTerms& t) {
    const auto fragments = static_cast<double>(w.at("fragments"));
    const int bytes = info_of(plan.resource("scene")->spec.format).bytes;
    t["fetch"] = (2 + reads) * fragments;
    t["operation"] = operations * fragments;
    t[bytes == 8 ? "writeHalf" : "writeFloat"] = fragments * bytes;
}

} // namespace mirolux::blocks

namespace mirolux::technique {

using namespace blocks;

static void plan_block_stage(const FrameInputs& in, PlanBuilder& b) {
    const World& world = *in.scene.blocks;
    b.resource({.name = "depth", .sampler = "depthTexture", .format = Format::depth32f, .kept = true});
    b.resource({.name = "block surface",
                .sampler = "blockSurface",
                .format = Format::rgba8,
                .kept = true,
                .formatNote = "material, face, prop"});
    const auto set = [&](const char* name, const glm::vec3& v, float w = 0) { b.set(name, glm::vec4(v, w)); };
    const Sun sun = sun_of(in.draws.lights);
    set("blockWorld", glm::vec3(world.still.size()), world.edge);
    set("blockSun", glm::vec3(sun.toward));
    set("blockSunLux", sun.lux);
    set("blockTop", in.setup.color("blocks.top"));
    set("blockSide", in.setup.color("blocks.side"));
    set("blockBottom", in.setup.color("blocks.bottom"));
    set("blockHorizon", in.scene.sky.horizon);
    set("blockZenith", in.scene.sky.zenith);
    const glm::ivec3 chunks = world.still.chunks();
    set("blockChunks", glm::vec3(chunks));
}

const Technique& block_stage() {
    static const Technique technique{
        .name = "block_stage",
        .stages = Stages::blocks,
        .settings = {choice_setting("blocks.light", "Way of light", "Path", {"faces", "cast", "flood", "flood-origin"},
                                    "flood",
                                    "faces: the sun by each face's direction, and ambient light; cast: rays from each "
                                    "cell toward the sun and away from it count what they meet; flood: levels that "
                                    "lose a step from cell to cell; flood-origin: each cell knows where its strongest "
                                    "light came from, so that metal glints toward its lamp."),
                     choice_setting("blocks.draw", "Cells drawn as", "Path", {"mesh", "rays"}, "mesh",
                                    "mesh: faces merged into rectangles, drawn as triangles; rays: each pixel's ray "
                                    "steps through a sparse tree of cells. The same picture: what it costs depends on "
                                    "how much there is and how large the picture is."),
                     color_setting("blocks.top", "Sky light from above", "Ambient", glm::vec3(0.055f, 0.070f, 0.110f),
                                   10000.0, "cd/m2", "What faces that look up get where the sky is open."),
                     color_setting("blocks.side", "Sky light from beside", "Ambient", glm::vec3(0.038f, 0.046f, 0.070f),
                                   10000.0, "cd/m2", "What faces that look sideways get where the sky is open."),
                     color_setting("blocks.bottom", "Light from below", "Ambient", glm::vec3(0.016f, 0.018f, 0.024f),
                                   10000.0, "cd/m2", "What faces that look down get where the sky is open.")},
        .layers = {{.name = "blockNormal",
                    .label = "Normals",
                    .help = "Which way each face looks.",
                    .view = LayerView::vector,
                    .file = "blocks/field_layers.glsl"},
                   {.name = "blockChunks",
                    .label = "Chunks",
                    .help = "Chunks of 32 cells, in which the world is kept, meshed and lit, and where they meet.",
                    .view = LayerView::plain,
                    .file = "blocks/field_layers.glsl"}},
        .parameters = {"blockWorld",  // xyz: cells, w: metres of one
                       "blockChunks", // along each axis
                       "blockSun",    // toward it
                       "blockSunLux", "blockTop", "blockSide", "blockBottom", "blockHorizon", "blockZenith"},
        .plan = plan_block_stage,
    };
    return technique;
}

} // namespace mirolux::technique
