#include "core/finish/edges.h"
#include "core/finish/outline.h"
#include "core/finish/render_scale.h"
#include "core/finish/tone_curve.h"
#include "core/light/luminance.h"
#include "core/technique/plan_builder.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace mirolux {

static constexpr const char* no_samples = "Multisampling is left out: ";
static constexpr const char* not_joined = "Frames are not joined: ";

std::string edges_left_out(const FramePlan& plan) {
    for (const std::string& note : plan.notes)
        if (note.starts_with(no_samples) || note.starts_with(not_joined)) return note;
    return {};
}

Edges edges_of(const Setup& setup) {
    static constexpr const char* words[] = {"none", "filter", "multisample", "supersample", "temporal"};
    const std::string& kind = setup.choice("edges.kind");
    return static_cast<Edges>(std::find(std::begin(words), std::end(words), kind) - std::begin(words));
}

int edge_samples(const Setup& setup) {
    return std::stoi(setup.choice("edges.samples"));
}

glm::dvec2 jitter_of(std::uint64_t index, int places) {
    const auto i = static_cast<std::uint32_t>(index % static_cast<std::uint64_t>(places));
    std::uint32_t x = 0, y = 0, sobol = 1u << 31;
    for (std::uint32_t bit = 0; (i >> bit) != 0; ++bit, sobol ^= sobol >> 1)
        if ((i >> bit & 1u) != 0) {
            x ^= 1u << (31 - bit);
            y ^= sobol;
        }
    return glm::dvec2(x, y) / 4294967296.0 + 0.5 / places - 0.5;
}

int jitter_places(const Setup& setup, const View& rendered) {
    const glm::ivec2 shown = shown_size(rendered);
    const double shownOfOne =
        std::max(1.0, double(shown.x) / rendered.width) * std::max(1.0, double(shown.y) / rendered.height);
    int places = edge_samples(setup);
    while (places < 256 && places < edge_samples(setup) * shownOfOne - 0.01)
        places *= 2;
    return places;
}

bool accumulates(const Setup& setup, const View& rendered, bool flat) {
    const bool quick = rendered.wholeWidth > shown_size(rendered).x;
    return edges_of(setup) == Edges::temporal && !flat && !quick;
}

bool averages_toned(const Setup& setup) {
    return setup.choice("edges.resolve") == "after";
}

double sample_bend(const Setup& setup) {
    Setup plain = setup; // of grey: no balance
    (void)plain.set("tone.whiteBalance", 6500.0);
    const auto shown = [&](double exposed) { return toned(glm::dvec3(exposed), plain).y; };
    double low = 1e-3, high = 1e3;
    for (int i = 0; i < 60; ++i) { // by halves of the ratio
        const double middle = std::sqrt(low * high);
        (shown(middle) < 0.5 ? low : high) = middle;
    }
    return 1 / low;
}

glm::dvec3 mapped_sample(const glm::dvec3& v, double scale) {
    return v / (1 + scale * std::max({v.x, v.y, v.z, 0.0}));
}

glm::dvec3 unmapped_sample(const glm::dvec3& v, double scale) {
    return v / std::max(1e-4, 1 - scale * std::max({v.x, v.y, v.z, 0.0}));
}

namespace {

/// One pixel of the edge filter.
class EdgePixel {
public:
    EdgePixel(const FloatImage& image, glm::ivec2 at) : image_(image), at_(at) {}

    double luma(glm::ivec2 p) const {
        const glm::ivec2 last(image_.width - 1, image_.height - 1);
        p = glm::clamp(p, glm::ivec2(0), last);
        const float* v = image_.pixel(p.x, p.y);
        return luminance({v[0], v[1], v[2]});
    }
    /// The neighbour across the edge, and how much of it the pixel takes.
    std::pair<glm::ivec2, double> taken(double threshold, int reach) const {
        const auto l = [&](int x, int y) { return luma(at_ + glm::ivec2(x, y)); };
        const double c = l(0, 0), n = l(0, -1), s = l(0, 1), w = l(-1, 0), e = l(1, 0);
        const double range = std::max({c, n, s, w, e}) - std::min({c, n, s, w, e});
        if (range < threshold) return {at_, 0};
        const double nw = l(-1, -1), ne = l(1, -1), sw = l(-1, 1), se = l(1, 1);
        const double level = std::abs(nw - 2 * w + sw) + 2 * std::abs(n - 2 * c + s) + std::abs(ne - 2 * e + se),
                     upright = std::abs(nw - 2 * n + ne) + 2 * std::abs(w - 2 * c + e) + std::abs(sw - 2 * s + se);
        const bool lies = level >= upright; // the edge runs across the picture
        const glm::ivec2 along = lies ? glm::ivec2(1, 0) : glm::ivec2(0, 1), over(along.y, along.x);
        const double low = lies ? n : w, high = lies ? s : e;
        const glm::ivec2 side = std::abs(high - c) >= std::abs(low - c) ? over : -over;
        const double other = luma(at_ + side), middle = 0.5 * (c + other), step = std::abs(other - c);
        std::array<int, 2> ends{};
        std::array<double, 2> off{};
        for (int way = 0; way < 2; ++way) {
            int i = 1;
            for (; i <= reach; ++i) {
                const glm::ivec2 p = at_ + (way == 0 ? -i : i) * along;
                off[std::size_t(way)] = 0.5 * (luma(p) + luma(p + side)) - middle;
                if (std::abs(off[std::size_t(way)]) >= 0.25 * step) break;
            }
            ends[std::size_t(way)] = i;
        }
        const std::size_t near = ends[1] < ends[0] ? 1 : 0;
        const bool bends = ends[near] <= reach && (off[near] < 0) != (c < middle);
        const double line = bends ? 0.5 - (ends[near] - 0.5) / (ends[0] + ends[1] - 1) : 0;
        // Single pixels and diagonals, whose lines are too short to follow.
        const double mean = (2 * (n + s + w + e) + nw + ne + sw + se) / 12,
                     lone = std::min(1.0, std::abs(mean - c) / range), soft = lone * lone * (3 - 2 * lone);
        return {at_ + side, std::max(line, 0.5 * soft * soft)};
    }

private:
    const FloatImage& image_;
    glm::ivec2 at_;
};

} // namespace

FloatImage edges_filtered(const FloatImage& coded, double threshold, int reach) {
    FloatImage out = coded;
    for (int y = 0; y < coded.height; ++y)
        for (int x = 0; x < coded.width; ++x) {
            auto [from, share] = EdgePixel(coded, {x, y}).taken(threshold, reach);
            from = glm::clamp(from, glm::ivec2(0), glm::ivec2(coded.width - 1, coded.height - 1));
            for (int c = 0; c < coded.channels; ++c)
                out.pixel(x, y)[c] = static_cast<float>(srgb_encode(
                    glm::mix(srgb_decode(coded.pixel(x, y)[c]), srgb_decode(coded.pixel(from.x, from.y)[c]), share)));
        }
    return out;
}

namespace technique {

/// Why the frame so far cannot hold several samples of a pixel; empty: it can.
static std::string why_one_sample(const FrameInputs& in, const PlanBuilder& b) {
    if (in.view.stereo != Stereo::off) return "two eyes share layered targets, which have one sample a pixel";
    if (b.wanted(single_depth)) return "the outline of what is seen needs one depth a pixel";
    const PlannedPass* single = b.single_sampled();
    return single ? "the pass '" + single->name + "' needs one value a pixel" : "";
}

static void plan_edges(const FrameInputs& in, PlanBuilder& b) {
    if (const Edges kind = edges_of(in.setup); kind > Edges::filter && averages_toned(in.setup))
        b.set("sampleBend", glm::vec4(static_cast<float>(sample_bend(in.setup)), 0, 0, 0));
    if (edges_of(in.setup) == Edges::temporal && in.scene.stage() != Stage::solid)
        b.note(std::string(not_joined) + "what moves on this stage cannot be followed. The filter and supersampling go "
                                         "with it.");
    if (edges_of(in.setup) != Edges::multisample) return;
    if (const std::string why = why_one_sample(in, b); !why.empty())
        return b.note(no_samples + why +
                      ". Forward paths without screen-space passes have it; the filter, supersampling and temporal "
                      "accumulation go with all.");
    b.multisample(edge_samples(in.setup));
}

const Technique& edges() {
    static const Technique technique{
        .name = "edges",
        .stages = Stages::all,
        .settings =
            {choice_setting("edges.kind", "Edges", "Finish",
                            {"none", "filter", "multisample", "supersample", "temporal"}, "none",
                            "filter: finds edges in the finished picture and smooths along them; multisample: several "
                            "samples of coverage a pixel, shaded once, on forward paths; supersample: more pixels are "
                            "rendered and averaged; temporal: frames that look past different places of the pixel are "
                            "joined, and moved things followed."),
             choice_setting("edges.samples", "Samples", "Finish", {"2", "4", "8", "16"}, "4",
                            "Of a pixel. multisample: memory and coverage grow with it; supersample: so does all, "
                            "where width and height are not scaled by hand; temporal: as many frames until it settles.")
                 .only_when("edges.kind", {"multisample", "supersample", "temporal"}),
             choice_setting("edges.resolve", "Averaged", "Finish", {"before", "after"}, "after",
                            "before: radiance, so that an edge against a lamp stays hard once the tone curve bends it; "
                            "after: samples weigh as a tone curve shows them, and bright edges are smooth.")
                 .only_when("edges.kind", {"multisample", "supersample", "temporal"})},
        .parameters = {"sampleBend"}, // x: of sample_map.glsl
        .plan = plan_edges,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
