#include "core/flat/flat_stage.h"
#include <algorithm>

namespace mirolux::flat {

Way way_of(const Setup& setup) {
    const std::string& kind = setup.choice("flat.kind");
    return kind == "cut"        ? Way::cut
           : kind == "grade"    ? Way::grade
           : kind == "compute"  ? Way::compute
           : kind == "cascades" ? Way::cascades
                                : Way::mask;
}

Shadow shadow_of(const Setup& setup) {
    const std::string& shadow = setup.choice("flat.shadow");
    const Way way = way_of(setup);
    if (way == Way::cascades) return Shadow::none;
    if (shadow == "polygon") return way == Way::compute ? Shadow::none : Shadow::polygon;
    if (shadow == "quads") return way == Way::compute ? Shadow::none : Shadow::quads;
    return shadow == "polar"   ? Shadow::polar
           : shadow == "field" ? Shadow::field
           : shadow == "march" ? Shadow::march
                               : Shadow::none;
}

Blend blend_of(const Setup& setup) {
    const std::string& blend = setup.choice("mask.blend");
    return blend == "add" ? Blend::add : blend == "screen" ? Blend::screen : Blend::largest;
}

Sheen sheen_of(const Setup& s) {
    if (!s.flag("flat.normals")) return {};
    return {s.number("flat.specular"), s.number("flat.gloss"), s.number("flat.rim")};
}

int mask_scale(const Setup& setup) {
    return way_of(setup) == Way::compute || way_of(setup) == Way::cascades ? 1 : std::stoi(setup.choice("mask.scale"));
}

bool needs_surface(const FrameInputs& in) {
    const World& w = *in.scene.flat;
    if (way_of(in.setup) == Way::cascades)
        return lights_casters(w) ||
               std::any_of(w.layers.begin(), w.layers.end(), [](const Layer& l) { return !l.lit; });
    return in.setup.flag("flat.normals") || (shadow_of(in.setup) != Shadow::none && lights_casters(w)) ||
           std::any_of(w.layers.begin(), w.layers.end(), [](const Layer& l) { return !l.lit; }) ||
           std::any_of(in.draws.lights.begin(), in.draws.lights.end(),
                       [](const Light& l) { return !l.flat.layers.empty(); });
}

bool keeps_shadow(const FrameInputs& in, const Light& l) {
    if (!in.setup.flag("flat.keepShadows") || l.type == LightType::directional) return false;
    const auto stays = [](MotionKind k) {
        return k == MotionKind::pulse || k == MotionKind::flicker || k == MotionKind::blink;
    };
    return std::none_of(in.scene.motions.begin(), in.scene.motions.end(),
                        [&](const Motion& m) { return m.light == l.id && !stays(m.kind); });
}

bool lights_casters(const World& world) {
    return std::any_of(world.sprites.begin(), world.sprites.end(),
                       [](const Sprite& s) { return !s.receives && !s.hidden; });
}

bool has_glow(const World& world) {
    return std::any_of(world.sheets.begin(), world.sheets.end(), [](const Sheet& s) { return s.emission >= 0; });
}

std::vector<std::string> shown_reads(const FrameInputs& in, std::vector<std::string> own) {
    own.insert(own.begin(), "flat scene");
    if (needs_surface(in)) own.push_back("flat surface");
    if (has_glow(*in.scene.flat)) own.push_back("flat glow");
    return own;
}

std::vector<std::string> flat_keys(std::vector<std::string> own) {
    own.insert(own.begin(), "flat.kind");
    return own;
}

ResourceSpec light_target(const FrameInputs& in, const char* name, const char* sampler) {
    const int scale = mask_scale(in.setup);
    const View stage = stage_view(in.setup, in.view);
    return {.name = name,
            .sampler = sampler,
            .format = Format::rgba16f,
            .width = std::max(1, (stage.width + scale - 1) / scale),
            .height = std::max(1, (stage.height + scale - 1) / scale),
            .kept = true};
}

PlannedPass lights_pass(const FrameInputs& in, const char* name, const char* target, std::string what,
                        std::vector<std::string> keys) {
    for (const char* key : {"mask.scale", "mask.area", "flat.shadow", "flat.normals", "flat.pixelScale"})
        keys.push_back(key);
    std::uint64_t draws = 0;
    for (const LightGroup& g : groups_of(in.draws.lights))
        draws += g.most > 0 ? 2 : 1;
    std::vector<std::string> writes = {target};
    const std::size_t edges = shadow_of(in.setup) == Shadow::quads ? edges_of(outlines_of(*in.scene.flat)).size() : 0;
    if (edges > 0) writes.emplace_back("quads' marks");
    return {.name = name,
            .family = "lights",
            .what = std::move(what),
            .reads = needs_surface(in) ? std::vector<std::string>{"flat surface"} : std::vector<std::string>{},
            .writes = std::move(writes),
            .settings = flat_keys(std::move(keys)),
            .expected = Work::drawing(draws + (edges > 0 ? 2 * in.draws.lights.size() : 0), 2 * in.draws.lights.size()),
            .called = {Slot::flatFactor},
            .inLedger = true};
}

PlannedPass shown_pass(const FrameInputs& in, const char* name, std::vector<std::string> reads, std::string what,
                       std::vector<std::string> keys) {
    return {.name = name,
            .family = "transparent",
            .what = std::move(what),
            .reads = shown_reads(in, std::move(reads)),
            .writes = {"scene"},
            .settings = flat_keys(std::move(keys)),
            .expected = screen_work()};
}

/// Pixels that sprites are drawn in.
static double stage_pixels(const FramePlan& plan) {
    const PlannedResource& r = *plan.resource("flat scene");
    return double(r.width) * r.height;
}

void price_lights_pass(const FramePlan& plan, const Work& w, CostTerms& t) {
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["flatLight"] = static_cast<double>(w.at("lightEvaluations"));
    t["blendHalf"] = 8.0 * fragments;
    t["clear"] = 8.0 * stage_pixels(plan) / std::pow(mask_scale(plan.setup), 2);
    if (plan.resource("flat surface")) t["fetch"] = fragments;
}

void price_shown_pass(const FramePlan& plan, const Work& w, double operations, CostTerms& t) {
    const auto fragments = static_cast<double>(w.at("fragments"));
    const double reads = 1.0 + (plan.resource("flat surface") ? 1 : 0) + (plan.resource("flat glow") ? 1 : 0) +
                         (plan.setup.choice("mask.filter") == "smooth" && mask_scale(plan.setup) > 1 ? 4 : 1);
    t["fetch"] = reads * fragments;
    t["operation"] = operations * fragments;
    t["flatShown"] = fragments;
    t[plan.setup.choice("path.targetFormat") == "rgba16f" ? "writeHalf" : "writeFloat"] =
        fragments * (plan.setup.choice("path.targetFormat") == "rgba16f" ? 8 : 16);
}

} // namespace mirolux::flat

namespace mirolux::technique {

using namespace flat;

static void plan_flat_stage(const FrameInputs& in, PlanBuilder& b) {
    const Shadow shadow = shadow_of(in.setup);
    if (has_heights(*in.scene.flat) && shadow != Shadow::none && shadow != Shadow::quads && shadow != Shadow::march)
        b.note("Walls' heights count for shadows by quads and by marching; here walls are without end.");
    const Window w = window_of(in.view);
    b.set("flatWindow", glm::vec4(glm::vec2(w.low), glm::vec2(w.high)));
    const Sheen sheen = sheen_of(in.setup);
    b.set("flatSheen", glm::vec4(static_cast<float>(sheen.specular), static_cast<float>(sheen.gloss),
                                 static_cast<float>(sheen.rim), 0));
    b.set("flatLight", glm::vec4(in.setup.color("flat.ambient"), in.setup.flag("flat.normals") ? 1.0f : 0.0f));
    const View stage = stage_view(in.setup, in.view);
    b.set("flatSize", glm::vec4(stage.width, stage.height, 0, 0));
    if (const int scale = std::stoi(in.setup.choice("flat.pixelScale"));
        in.view.width % scale != 0 || in.view.height % scale != 0)
        b.note("The picture's size is no multiple of " + std::to_string(scale) +
               ": some of the stage's pixels show larger than others.");
    const auto target = [&](const char* name, const char* sampler, Format format) {
        b.resource({.name = name,
                    .sampler = sampler,
                    .format = format,
                    .width = stage.width,
                    .height = stage.height,
                    .kept = true});
    };
    target("flat scene", "flatScene", Format::rgba16f);
    target("flat surface", "flatSurface", Format::rgba8);
    target("flat glow", "flatGlow", Format::rgba16f);
    std::vector<std::string> writes = {"flat scene"};
    if (needs_surface(in)) writes.push_back("flat surface");
    if (has_glow(*in.scene.flat)) writes.push_back("flat glow");
    const Quads quads = quads_of(*in.scene.flat, in.view);
    b.pass({.name = "sprites",
            .family = "opaque",
            .what = "Draws tiles and sprites back to front, unlit.",
            .writes = std::move(writes),
            .settings = {"flat.kind", "flat.normals", "flat.pixelScale"},
            .expected = Work::drawing(quads.runs.size(), 2 * quads.quads.size())});
}

static void price_flat_stage(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &flat_stage()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    const double targets = 1.0 + (plan.resource("flat glow") ? 1 : 0);
    t["fetch"] = fragments * static_cast<double>(pass.writes.size());
    t["blendHalf"] = 8.0 * fragments * targets;
    const PlannedResource& scene = *plan.resource("flat scene");
    t["clear"] = 8.0 * scene.width * scene.height * targets;
}

const Technique& flat_stage() {
    static const Technique technique{
        .name = "flat_stage",
        .stages = Stages::flat,
        .settings =
            {choice_setting("flat.kind", "Way of light", "Path", {"cut", "mask", "compute", "grade", "cascades"},
                            "mask",
                            "cut: a dark layer in which lights make holes; mask: ambient and lights are summed, and "
                            "the scene is multiplied by the sum; compute: the same sum by a kernel; grade: the scene "
                            "is tinted by the time of day, and "
                            "lamps are laid over it; cascades: light travels, bounces and has penumbrae, at one price "
                            "for any number of lights."),
             choice_setting("flat.pixelScale", "Pixel size", "Path", {"1", "2", "3", "4", "6", "8"}, "1",
                            "Pixels of the picture along one of the stage's: sprites and light are drawn so much "
                            "smaller and shown in blocks; cost falls with its square. A target can have its own."),
             color_setting("flat.ambient", "Stage's ambient", "Ambient", glm::vec3(0.16f, 0.18f, 0.26f), 4.0, "",
                           "What lights a place that no light reaches; 1 shows sheets as they are. Costs nothing.")
                 .only_when("flat.kind", {"mask", "compute", "cascades"}),
             choice_setting("flat.shadow", "Walls' shadows", "Shadows",
                            {"none", "polygon", "quads", "polar", "field", "march"}, "polygon",
                            "none: lights shine through walls; polygon: each light over exactly what its place sees, a "
                            "sweep on the CPU; quads: every edge's shadow is marked in a stencil before each light; "
                            "polar: a row of distances round each light; field: each pixel feels its way to the light "
                            "by a distance field, with penumbrae; march: it walks there cell by cell.")
                 .only_when("flat.kind", {"mask", "compute", "cut", "grade"}),
             toggle_setting("flat.normals", "Sheets' normal maps", "Shadows", false,
                            "Light falls by the angle between a sheet's normals and the way to the light, from the "
                            "light's height; costs a read of the surface for each light and pixel.")
                 .only_when("flat.kind", {"mask", "compute", "cut", "grade"}),
             number_setting("flat.specular", "Sheets' highlights", "Shadows", 0.0, 0.0, 4.0, "",
                            "How strong lights mirror in sheets with normals, seen straight on; 0: not at all.")
                 .only_when("flat.normals", {"on"})
                 .only_when("flat.kind", {"mask", "compute", "cut", "grade"}),
             number_setting("flat.gloss", "Highlights' exponent", "Shadows", 24.0, 1.0, 256.0, "",
                            "How narrow highlights are: wet stone has more than cloth.")
                 .on_ratio()
                 .only_when("flat.normals", {"on"})
                 .only_when("flat.kind", {"mask", "compute", "cut", "grade"}),
             number_setting("flat.rim", "Rim light", "Shadows", 0.0, 0.0, 4.0, "",
                            "What steep borders of a sheet's normals catch beside it from lights on their side: a ramp "
                            "from where they lean by half to where they stand upright.")
                 .only_when("flat.normals", {"on"})
                 .only_when("flat.kind", {"mask", "compute", "cut", "grade"})},
        .terms = {{"flatLight",
                   "a light of a flat stage at a pixel that it is drawn to",
                   {{"flat.kind", "mask"}, {"flat.shadow", "none"}},
                   0.05},
                  {"flatShown",
                   "a pixel that a flat stage is shown at under its light",
                   {{"flat.kind", "mask"}, {"flat.shadow", "none"}},
                   0.02}},
        .layers = {{.name = "unlit",
                    .label = "Unlit",
                    .help = "Tiles and sprites as their sheets have them, before any light.",
                    .view = LayerView::color,
                    .resource = "flat scene"},
                   {.name = "glow",
                    .label = "Glow",
                    .help = "What sheets give off themselves, added after the light.",
                    .view = LayerView::color,
                    .resource = "flat glow"}},
        .parameters = {"flatWindow", // xy: units of the picture's lower left corner, zw: of its upper right
                       "flatSize",   // xy: the stage's own pixels
                       "flatLight",  // rgb: ambient, a: 1 with normal maps
                       "flatSheen"}, // x: specular, y: its exponent, z: rim
        .plan = plan_flat_stage,
        .price = price_flat_stage,
    };
    return technique;
}

} // namespace mirolux::technique
