#include "core/finish/outline.h"
#include "core/path/surface_pass.h"
#include "core/scene/object_edit.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

std::vector<int> outlined_objects(const Scene& scene, const Setup& setup) {
    return objects_named(scene, setup.choice("outline.objects"));
}

Setup outlining(const Scene& scene, Setup setup, const std::vector<int>& objects) {
    std::string names;
    for (const int o : objects)
        names += (names.empty() ? "" : ", ") + object_name(scene, o).id;
    (void)setup.set("outline.objects", names);
    if (setup.choice("outline.kind") == "none") (void)setup.set("outline.kind", std::string("seen"));
    return setup;
}

FloatImage grown_mask(const FloatImage& mask, int radius) {
    const auto along = [&](const FloatImage& from, glm::ivec2 axis) {
        FloatImage out{from.width, from.height, 1, {}};
        for (int y = 0; y < from.height; ++y)
            for (int x = 0; x < from.width; ++x) {
                float most = 0;
                for (int i = -radius; i <= radius; ++i) {
                    const int u = std::clamp(x + i * axis.x, 0, from.width - 1),
                              v = std::clamp(y + i * axis.y, 0, from.height - 1);
                    most = std::max(most, from.pixel(u, v)[0] -
                                              static_cast<float>(i * i) / static_cast<float>(radius * radius));
                }
                out.data.push_back(most);
            }
        return out;
    };
    return along(along(mask, {1, 0}), {0, 1});
}

FloatImage rim_of(const FloatImage& grown, int radius) {
    // Within a pixel of the rim the grown mask falls by 1 - ((r - 1) / r)^2 = (2 r - 1) / r^2.
    const double slope = double(radius * radius) / (2 * radius - 1);
    FloatImage out{grown.width, grown.height, 1, {}};
    const auto at = [&](int x, int y) {
        x = std::clamp(x, 0, grown.width - 1);
        y = std::clamp(y, 0, grown.height - 1);
        return std::clamp(grown.pixel(x, y)[0] * slope, 0.0, 1.0);
    };
    for (int y = 0; y < grown.height; ++y)
        for (int x = 0; x < grown.width; ++x) {
            const double gx = at(x + 1, y - 1) + 2 * at(x + 1, y) + at(x + 1, y + 1) - at(x - 1, y - 1) -
                              2 * at(x - 1, y) - at(x - 1, y + 1),
                         gy = at(x - 1, y + 1) + 2 * at(x, y + 1) + at(x + 1, y + 1) - at(x - 1, y - 1) -
                              2 * at(x, y - 1) - at(x + 1, y - 1);
            out.data.push_back(static_cast<float>(std::min(1.0, std::hypot(gx, gy) / 4)));
        }
    return out;
}

namespace technique {

static bool outlines(const FrameInputs& in) {
    return in.setup.choice("outline.kind") != "none" && in.scene.stage() == Stage::solid;
}

static std::vector<std::string> wants_of_outline(const FrameInputs& in) {
    return outlines(in) && in.setup.choice("outline.kind") == "seen" ? std::vector<std::string>{single_depth}
                                                                     : std::vector<std::string>{};
}

static void plan_outline(const FrameInputs& in, PlanBuilder& b) {
    if (!outlines(in)) return;
    const Setup& s = in.setup;
    const std::vector<int> objects = outlined_objects(in.scene, s);
    if (objects.empty())
        return b.note(s.choice("outline.objects").empty()
                          ? "No object is named for the outline (outline.objects)."
                          : "No object of the scene has a name in outline.objects: nothing is outlined.");
    std::vector<Draw> drawn;
    for (const auto* draws : {&in.draws.opaque, &in.draws.blended})
        for (const Draw& d : *draws)
            if (std::binary_search(objects.begin(), objects.end(), d.object)) drawn.push_back(d);
    const bool seen = s.choice("outline.kind") == "seen";
    const glm::vec3 color = s.color("outline.color");
    const glm::dvec2 ratio = glm::dvec2(in.view.width, in.view.height) / glm::dvec2(shown_size(in.view));
    b.set("outline", {s.whole("outline.width"), s.number("outline.strength"), ratio});
    b.set("outlineColor", glm::vec4(color, 0));
    const auto target = [&](const char* name, const char* sampler) {
        b.resource({.name = name, .sampler = sampler, .format = Format::rg8, .kept = true});
    };
    target(outline_mask_resource, "outlineMask");
    b.resource({.name = "grown across", .sampler = "grownAcross", .format = Format::rg16});
    b.resource({.name = outline_grown_resource, .sampler = "grownMask", .format = Format::rg16, .kept = true});
    target(outline_resource, "outlineRim");
    const std::vector<std::string> keys = {"outline.kind", "outline.objects", "outline.width"};
    b.pass({.name = "outline mask",
            .family = "finish",
            .what = seen ? "Draws the chosen objects where nothing is before them." : "Draws the chosen objects.",
            .reads = seen ? std::vector<std::string>{"depth"} : std::vector<std::string>{},
            .writes = {outline_mask_resource},
            .settings = keys,
            .expected = work_of(in, drawn)});
    const auto screen = [&](const char* name, const char* what, const char* reads, const char* writes) {
        b.pass({.name = name,
                .family = "finish",
                .what = what,
                .reads = {reads},
                .writes = {writes},
                .settings = keys,
                .expected = screen_work()});
    };
    screen("grow across", "Grows the mask along the width.", outline_mask_resource, "grown across");
    screen("grow down", "Grows it along the height: a disc in all.", "grown across", outline_grown_resource);
    screen("rim", "Finds the rim of what is grown by Sobel's operator.", outline_grown_resource, outline_resource);
    b.feed(Slot::post, "outline/feed.glsl", "withOutline", {outline_resource});
}

static void price_outline(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    const auto fragments = static_cast<double>(w.at("fragments"));
    if (plan.feeds_slot(&outline(), pass)) t["fetch"] += fragments;
    if (pass.technique != &outline()) return;
    const double reads = pass.name == "rim" ? 8 : 2.0 * plan.setup.whole("outline.width") + 1;
    if (pass.name != "outline mask") t["fetch"] = fragments * reads;
    t["writeUnorm"] = fragments * (pass.name.starts_with("grow") ? 4 : 2);
    if (pass.name == "outline mask") t["clear"] = plan.pixels() * 2;
}

const Technique& outline() {
    const auto on = [](Setting s) { return std::move(s).only_when("outline.kind", {"seen", "through"}); };
    const std::vector<Condition> shown = {{"outline.kind", {"seen", "through"}}};
    static const Technique technique{
        .name = "outline",
        .settings = {choice_setting("outline.kind", "Outline", "Finish", {"none", "seen", "through"}, "none",
                                    "A line about chosen objects. seen: about what is seen of them; through: whole, "
                                    "through what stands before them."),
                     on(text_setting("outline.objects", "Outlined", "Finish", "",
                                     "The objects' names, separated by commas; those that are selected are named by "
                                     "'outline the selection'.")),
                     on(whole_setting("outline.width", "Outline at", "Finish", 3, 1, 32, "pixels",
                                      "How far from the objects the line runs; time follows.")
                            .on_ratio()),
                     on(color_setting("outline.color", "Outline colour", "Finish", {1.0f, 0.82f, 0.42f}, 1, "",
                                      "As the picture shows it, before the tone curve.")),
                     on(number_setting("outline.strength", "Outline strength", "Finish", 0.9, 0, 1, "",
                                       "How much the line covers of the picture."))},
        .layers = {{.name = "outlineMask",
                    .label = "Chosen",
                    .help = "The objects that are outlined.",
                    .view = LayerView::grey,
                    .resource = outline_mask_resource,
                    .when = shown},
                   {.name = "grownMask",
                    .label = "Grown",
                    .help = "Their mask, grown to the line's distance.",
                    .view = LayerView::grey,
                    .resource = outline_grown_resource,
                    .when = shown},
                   {.name = "outline",
                    .label = "Outline",
                    .help = "The rim of what is grown: the line, before it is laid over the picture.",
                    .view = LayerView::grey,
                    .resource = outline_resource,
                    .role = "laid over the sum",
                    .when = shown}},
        .parameters = {"outline",       // x: pixels, y: strength, zw: rendered pixels of a shown one
                       "outlineColor"}, // exposed
        .mayFeed = {Slot::post},
        .wants = wants_of_outline,
        .plan = plan_outline,
        .price = price_outline,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
