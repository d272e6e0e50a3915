#include "core/visibility/visibility.h"
#include "core/motion/scene_at.h"
#include "core/technique/plan_builder.h"
#include <algorithm>

namespace mirolux {

VisibilityKind visibility_kind(const Setup& setup) {
    const std::string& kind = setup.choice("visibility.kind");
    return kind == "cells"     ? VisibilityKind::cells
           : kind == "portals" ? VisibilityKind::portals
           : kind == "depth"   ? VisibilityKind::depth
           : kind == "queries" ? VisibilityKind::queries
                               : VisibilityKind::frustum;
}

/// Why the device cannot find visibility in such a frame; null: it can.
static const char* hindrance(const Setup& setup, const View& view) {
    if (view.stereo != Stereo::off) return "both eyes are drawn";
    if (setup.choice("edges.kind") == "multisample") return "pixels have several samples";
    return nullptr;
}

static bool asks_device(const Setup& setup) {
    const VisibilityKind kind = visibility_kind(setup);
    return kind == VisibilityKind::depth || kind == VisibilityKind::queries;
}

bool found_on_device(const Setup& setup, const View& view) {
    return setup.stage == Stage::solid && asks_device(setup) && !hindrance(setup, view);
}

Stillness stillness_of(const Scene& scene, const Setup& setup) {
    const std::vector<Object>& objects = scene.objects();
    const std::vector<Moves> moves = movers(scene);
    const auto least = static_cast<float>(setup.number("visibility.occluder"));
    const auto is_leaf = [&](std::size_t i) {
        return std::any_of(scene.doors.begin(), scene.doors.end(), [&](const Door& d) {
            return !d.object.empty() && i < scene.asset->objectNames.size() &&
                   scene.asset->objectNames[i].id == d.object;
        });
    };
    Stillness out{std::vector<bool>(objects.size()), std::vector<bool>(objects.size())};
    for (std::size_t i = 0; i < objects.size(); ++i) {
        const Object& o = objects[i];
        out.still[i] = moves[i] == Moves::still && !is_leaf(i);
        const bool drawn = !o.hidden && !o.proxy && o.casts != Casting::unseen;
        out.hides[i] = out.still[i] && drawn && scene.asset->material_of(o).alphaMode != AlphaMode::blend &&
                       glm::length(o.bounds.size()) >= least;
    }
    return out;
}

std::vector<PyramidLevel> pyramid_levels(int width, int height) {
    std::vector<PyramidLevel> out;
    std::size_t first = 0;
    int w = (width + 3) / 4, h = (height + 3) / 4;
    for (;;) {
        out.push_back({w, h, first});
        first += static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
        if (w == 1 && h == 1) return out;
        w = (w + 1) / 2;
        h = (h + 1) / 2;
    }
}

namespace technique {

static void plan_visibility(const FrameInputs& in, PlanBuilder& b) {
    if (!in.draws.visibilityNote.empty()) b.note(in.draws.visibilityNote);
    if (!asks_device(in.setup)) return;
    if (const char* why = hindrance(in.setup, in.view)) {
        b.note(std::string("Visibility leaves nothing out where ") + why + ".");
        return;
    }
    const bool queries = visibility_kind(in.setup) == VisibilityKind::queries;
    const std::size_t tested = in.draws.opaque.size() + in.draws.blended.size();
    b.resource({.name = occluder_depth_resource, .sampler = "occluderDepth", .format = Format::depth32f});
    b.pass({.name = "occluders",
            .family = "culling",
            .what = "Lays the depth of what was seen in the frame before, where it stands now.",
            .reads = {},
            .writes = {occluder_depth_resource},
            .settings = {"visibility.kind"},
            .expected = work_of(in, in.draws.opaque)});
    if (queries) {
        Work boxes = Work::drawing(tested, 12 * tested);
        boxes.set("objectTests", tested);
        b.pass({.name = "occlusion queries",
                .family = "culling",
                .what =
                    "Asks the device of each object's box whether a pixel of it lies before that depth, waits for the "
                    "answers, and leaves the hidden ones out of all draws that follow.",
                .reads = {occluder_depth_resource},
                .writes = {},
                .settings = {"visibility.kind"},
                .expected = boxes});
        return;
    }
    const std::vector<PyramidLevel> levels = pyramid_levels(in.view.width, in.view.height);
    b.resource({.name = occluder_pyramid_resource,
                .format = Format::words,
                .entries = levels.back().first + 1,
                .formatNote = "farthest depths, float"});
    b.pass({.name = "occluder pyramid",
            .family = "culling",
            .what = "Gathers the farthest depths, from 4x4 pixels up.",
            .reads = {occluder_depth_resource},
            .writes = {occluder_pyramid_resource},
            .settings = {"visibility.kind"}});
    Work tests;
    tests.set("objectTests", tested);
    b.pass(
        {.name = "visible objects",
         .family = "culling",
         .what = "Holds each object's box against the pyramid and leaves the hidden ones out of all draws that follow.",
         .reads = {occluder_pyramid_resource},
         .writes = {},
         .settings = {"visibility.kind"},
         .expected = tests});
}

static void price_visibility(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &visibility()) return;
    if (pass.name == "occluders") {
        t["writeDepth"] = static_cast<double>(w.at("fragments")) * 4;
        t["clear"] = plan.pixels() * 4;
        t["filteredRead"] = static_cast<double>(w.at("textureReads"));
    } else if (pass.name == "occluder pyramid") {
        t["fetch"] = plan.pixels();
        t["operation"] = plan.pixels();
        t["group"] = plan.pixels() / (16 * 64) * 4 / 3;
    } else if (pass.name == "visible objects") {
        const auto tests = static_cast<double>(w.at("objectTests"));
        t["operation"] = tests * 150;
        t["fetch"] = tests * 16;
        t["group"] = tests / 64 + 1;
    }
}

const Technique& visibility() {
    static const Technique technique{
        .name = "visibility",
        .settings =
            {choice_setting(
                 "visibility.kind", "Visibility", "Path", {"frustum", "cells", "portals", "depth", "queries"},
                 "frustum",
                 "What is left out of a frame: what lies outside the frustum; also what was found invisible "
                 "from the eye's cell beforehand; what no chain of open doors shows; or what the depth of the "
                 "objects seen last hides, by a depth pyramid or by occlusion queries."),
             choice_setting("visibility.cover", "Cells", "Path", {"walk", "floor", "box"}, "walk",
                            "Where cells are computed: along the walks and at the cameras, on all floor that can be "
                            "walked to from there, or over the whole scene.")
                 .only_when("visibility.kind", {"cells"}),
             number_setting("visibility.cell", "Cell", "Path", 2.0, 0.5, 20.0, "m",
                            "Edge of a cell. Small cells leave more out and take longer to compute.")
                 .on_ratio()
                 .only_when("visibility.kind", {"cells"}),
             number_setting(
                 "visibility.patch", "Patch", "Path", 0.5, 0.05, 5.0, "deg",
                 "Side of the smallest visible patch that is to be found: half of it takes four times the rays.")
                 .on_ratio()
                 .only_when("visibility.kind", {"cells"}),
             number_setting("visibility.confidence", "Confidence", "Path", 95.0, 50.0, 99.9, "%",
                            "How surely an object that shows such a patch is found.")
                 .only_when("visibility.kind", {"cells"}),
             whole_setting(
                 "visibility.aimed", "Aimed rays", "Path", 256, 0, 65536, "rays",
                 "From each cell to random points of every object that was not found yet: they find what shows "
                 "little of itself.")
                 .only_when("visibility.kind", {"cells"}),
             number_setting("visibility.occluder", "Least occluder", "Path", 0.5, 0.0, 50.0, "m",
                            "Objects smaller than this across hide nothing.")
                 .only_when("visibility.kind", {"cells", "portals"}),
             number_setting(
                 "visibility.roomCell", "Room cell", "Path", 0.25, 0.1, 2.0, "m",
                 "Edge of the cells that fill rooms: small ones follow walls closely and take longer to find.")
                 .on_ratio()
                 .only_when("visibility.kind", {"portals"}),
             number_setting("visibility.gap", "Closed gaps", "Path", 0.0, 0.0, 5.0, "m",
                            "Gaps narrower than this count as closed: what shows through them alone is left out.")
                 .only_when("visibility.kind", {"cells"}),
             whole_setting(
                 "visibility.growth", "Growth", "Path", 1, 0, 4, "cells",
                 "What neighbouring cells see is drawn too, so far away: it makes up for what rays have missed.")
                 .only_when("visibility.kind", {"cells"})},
        .counters = {{"objectTests", "Objects tested", "boxes of objects held against depth"}},
        .layers = {{.name = "occluderDepth",
                    .label = "Occluder depth",
                    .help =
                        "Depth of what was seen in the frame before, where it stands now: what hides in this frame.",
                    .view = LayerView::depth,
                    .resource = occluder_depth_resource,
                    .when = {{"visibility.kind", {"depth", "queries"}}}}},
        .plan = plan_visibility,
        .price = price_visibility,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
