#include "core/finish/render_scale.h"
#include "core/finish/edges.h"
#include "core/finish/exposure.h"
#include "core/technique/plan_builder.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

/// Rendered pixels of a shown one along width and height.
static glm::dvec2 scale_of(const Setup& setup) {
    const glm::dvec2 asked(setup.number("output.scaleX"), setup.number("output.scaleY"));
    if (edges_of(setup) != Edges::supersample || asked != glm::dvec2(1.0)) return asked;
    const int samples = edge_samples(setup), down = samples >= 16 ? 4 : samples >= 4 ? 2 : 1;
    return {samples / down, down};
}

glm::ivec2 whole_pixels(const Setup& setup) {
    if (!setup.flag("output.whole")) return {0, 0};
    const glm::dvec2 scale = scale_of(setup);
    const auto side = [](double s) { return s < 1 ? static_cast<int>(std::lround(1 / s)) : 1; };
    return {side(scale.x), side(scale.y)};
}

View rendered_view(const Setup& setup, const View& shown) {
    if (shown.shownWidth > 0) return shown;
    const glm::dvec2 scale = scale_of(setup);
    const glm::ivec2 whole = whole_pixels(setup);
    const auto along = [](int pixels, double factor, int side) {
        if (side > 1) return (pixels + side - 1) / side;
        return std::max(std::min(pixels, 1), static_cast<int>(std::lround(pixels * factor))); // none stay none
    };
    View out = shown;
    out.width = along(shown.width, scale.x, whole.x);
    out.height = along(shown.height, scale.y, whole.y);
    if (out.width == shown.width && out.height == shown.height) return out;
    out.shownWidth = shown.width;
    out.shownHeight = shown.height;
    return out;
}

Setup plainly_rendered(Setup setup) {
    (void)setup.set("edges.kind", std::string("none"));
    for (const char* scale : {"output.scaleX", "output.scaleY"})
        (void)setup.set(scale, 1.0);
    return setup;
}

double column_weight(double step, int rendered, int column, int at, bool smooth) {
    if (!smooth) return static_cast<int>((at + 0.5) * step) == column ? 1 : 0;
    if (step > 1)
        return std::max(0.0, std::min((at + 1) * step, column + 1.0) - std::max(at * step, double(column))) / step;
    const double middle = std::clamp((at + 0.5) * step, 0.5, rendered - 0.5);
    return std::max(0.0, 1 - std::abs(column + 0.5 - middle));
}

FloatImage resized(const FloatImage& image, int width, int height, bool smooth, glm::ivec2 whole) {
    FloatImage out{width, height, image.channels,
                   std::vector<float>(std::size_t(width) * std::size_t(height) * std::size_t(image.channels))};
    const auto taps = [&](int rendered, int shown, int side, int at) {
        std::vector<std::pair<int, double>> found;
        const double step = side > 1 ? 1.0 / side : double(rendered) / shown;
        const int from = std::max(0, static_cast<int>(at * step) - 1),
                  to = std::min(rendered - 1, static_cast<int>((at + 1) * step) + 1);
        for (int i = from; i <= to; ++i)
            if (const double w = column_weight(step, rendered, i, at, smooth); w > 0) found.emplace_back(i, w);
        return found;
    };
    for (int y = 0; y < height; ++y) {
        const auto rows = taps(image.height, height, whole.y, height - 1 - y); // as on the device, from the bottom
        for (int x = 0; x < width; ++x)
            for (const auto& [i, across] : taps(image.width, width, whole.x, x))
                for (const auto& [j, down] : rows)
                    for (int c = 0; c < image.channels; ++c)
                        out.data[(std::size_t(y) * std::size_t(width) + std::size_t(x)) * std::size_t(image.channels) +
                                 std::size_t(c)] +=
                            static_cast<float>(across * down) * image.pixel(i, image.height - 1 - j)[c];
    }
    return out;
}

namespace technique {

static void plan_render_scale(const FrameInputs& in, PlanBuilder& b) {
    const glm::ivec2 whole = whole_pixels(in.setup);
    const std::string source = b.radiance();
    const glm::ivec2 shown = shown_size(in.view);
    if (b.size_of(source) == shown) return;
    const bool smooth = in.setup.choice("output.filter") == "smooth";
    const bool toned = edges_of(in.setup) == Edges::supersample && averages_toned(in.setup);
    b.set("outputScale", {whole.x, whole.y, smooth ? 1 : 0, toned ? 1 : 0});
    b.resource({.name = resized_resource, .sampler = "resized", .formatOf = "scene", .ofShown = true, .kept = true});
    PlannedPass pass{.name = "resize",
                     .family = "finish",
                     .what = "Brings what was rendered to the size that is shown.",
                     .reads = {source},
                     .writes = {resized_resource},
                     .settings = {"output.scaleX", "output.scaleY", "output.filter", "output.whole", "edges.kind",
                                  "edges.samples", "edges.resolve"},
                     .expected = screen_work()};
    if (toned && meters(in.setup, in.scene.is_flat())) pass.reads.emplace_back(exposure_resource);
    b.pass(pass);
    b.take_radiance(resized_resource);
}

static void price_render_scale(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &render_scale()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    const PlannedResource& from = *plan.resource(pass.reads.front());
    const glm::ivec2 shown = shown_size(plan.view);
    const auto taps = [](int rendered, int to) { return rendered > to ? std::ceil(double(rendered) / to) : 2.0; };
    t["resample"] =
        fragments *
        (plan.setup.choice("output.filter") == "smooth" ? taps(from.width, shown.x) * taps(from.height, shown.y) : 1.0);
    t[plan.resource("scene")->spec.format == Format::rgba16f ? "writeHalf" : "writeFloat"] =
        fragments * info_of(plan.resource("scene")->spec.format).bytes;
}

const Technique& render_scale() {
    static const Technique technique{
        .name = "render_scale",
        .stages = Stages::all,
        .settings = {number_setting("output.scaleX", "Rendered width", "Finish", 1, 0.05, 16, "of shown",
                                    "Pixels that are rendered for each that is shown, along the width: a fraction "
                                    "costs less and is blurred or blocky, more is filtered down.")
                         .on_ratio(),
                     number_setting("output.scaleY", "Rendered height", "Finish", 1, 0.05, 16, "of shown",
                                    "The same along the height; it need not be the width's.")
                         .on_ratio(),
                     choice_setting("output.filter", "To shown size", "Finish", {"smooth", "nearest"}, "smooth",
                                    "smooth: between the rendered pixels, or the mean of those that a shown one "
                                    "covers; nearest: the one that it lies in, as blocks."),
                     toggle_setting("output.whole", "Whole pixels", "Finish", false,
                                    "A fraction is made a whole number of screen pixels to a rendered one, so that all "
                                    "blocks are alike.")},
        .terms = {{"resample",
                   "a pixel read to change the picture's size",
                   {{"output.scaleX", "2"}, {"output.scaleY", "2"}},
                   0.02}},
        .parameters = {"outputScale"}, // xy: screen pixels of a rendered one where they are whole, z: 1 smooth, w: 1
                                       // averaged as a tone curve shows
        .plan = plan_render_scale,
        .price = price_render_scale,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
