#include "core/finish/bloom.h"
#include "core/finish/exposure.h"
#include "core/light/luminance.h"
#include "core/technique/plan_builder.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

namespace {

constexpr double most_half = 65504;

/// A picture in double, rows from the bottom, as the device has them; reads beyond its edge give the edge.
struct Plane {
    int width = 0, height = 0;
    std::vector<glm::dvec3> texels;
    Plane(int w, int h) : width(w), height(h), texels(std::size_t(w) * std::size_t(h), glm::dvec3(0.0)) {}
    glm::dvec3& at(int x, int y) { return texels[std::size_t(y) * std::size_t(width) + std::size_t(x)]; }
    const glm::dvec3& at(int x, int y) const {
        return texels[std::size_t(std::clamp(y, 0, height - 1)) * std::size_t(width) +
                      std::size_t(std::clamp(x, 0, width - 1))];
    }
};

Plane plane_of(const FloatImage& image) {
    Plane out(image.width, image.height);
    for (int y = 0; y < image.height; ++y)
        for (int x = 0; x < image.width; ++x) {
            const float* p = image.pixel(x, image.height - 1 - y);
            for (int c = 0; c < 3; ++c)
                out.at(x, y)[c] = p[c] >= 0 && p[c] <= most_half ? p[c] : 0;
        }
    return out;
}

Plane bright_parts(const Plane& p, const Setup& s, double exposureScale) {
    const int n = bloom_scale(s);
    const double threshold = s.number("bloom.threshold"), knee = threshold * s.number("bloom.knee");
    Plane out(std::max(1, p.width / n), std::max(1, p.height / n));
    for (int y = 0; y < out.height; ++y)
        for (int x = 0; x < out.width; ++x)
            for (int j = 0; j < n; ++j)
                for (int i = 0; i < n; ++i) {
                    const glm::dvec3& v = std::as_const(p).at(n * x + i, n * y + j);
                    out.at(x, y) +=
                        v * bright_share(std::max({v.x, v.y, v.z}) * exposureScale, threshold, knee) / double(n * n);
                }
    return out;
}

Plane blurred(const Plane& p, int radius, bool across) {
    Plane out(p.width, p.height);
    const double sigma = radius / 3.0;
    double all = 0;
    std::vector<double> weights;
    for (int i = -radius; i <= radius; ++i) {
        weights.push_back(std::exp(-0.5 * i * i / (sigma * sigma)));
        all += weights.back();
    }
    for (int y = 0; y < p.height; ++y)
        for (int x = 0; x < p.width; ++x)
            for (int i = -radius; i <= radius; ++i)
                out.at(x, y) += p.at(across ? x + i : x, across ? y : y + i) * (weights[std::size_t(i + radius)] / all);
    return out;
}

/// Halved by the binomial kernel 1 3 3 1 along each axis: every texel gives a quarter of itself.
Plane halved(const Plane& p, double tameScale) {
    static constexpr double kernel[] = {1, 3, 3, 1};
    Plane out(std::max(1, p.width / 2), std::max(1, p.height / 2));
    for (int y = 0; y < out.height; ++y)
        for (int x = 0; x < out.width; ++x) {
            double all = 0;
            for (int j = 0; j < 4; ++j)
                for (int i = 0; i < 4; ++i) {
                    const glm::dvec3& v = p.at(2 * x + i - 1, 2 * y + j - 1);
                    const double w = kernel[i] * kernel[j] / (1 + luminance(v) * tameScale);
                    out.at(x, y) += w * v;
                    all += w;
                }
            out.at(x, y) /= all;
        }
    return out;
}

/// Of a plane with texels twice as large, between its texels: as smooth as quadratic splines once done level by level.
glm::dvec3 doubled_at(const Plane& p, int x, int y) {
    const int nx = x / 2 + (x & 1 ? 1 : -1), ny = y / 2 + (y & 1 ? 1 : -1);
    return 0.5625 * p.at(x / 2, y / 2) + 0.1875 * (p.at(nx, y / 2) + p.at(x / 2, ny)) + 0.0625 * p.at(nx, ny);
}

Plane chain_of(const Plane& picture, const Setup& s, double exposureScale) {
    const int levels = bloom_levels(s, picture.width, picture.height);
    std::vector<Plane> chain = {halved(picture, s.flag("bloom.tame") ? exposureScale : 0)};
    for (int i = 1; i < levels; ++i)
        chain.push_back(halved(chain.back(), 0));
    const double spread = s.number("bloom.spread");
    for (int i = levels - 2; i >= 0; --i) {
        Plane& finer = chain[std::size_t(i)];
        for (int y = 0; y < finer.height; ++y)
            for (int x = 0; x < finer.width; ++x)
                finer.at(x, y) =
                    glm::mix(std::as_const(finer).at(x, y), doubled_at(chain[std::size_t(i + 1)], x, y), spread);
    }
    return chain.front();
}

} // namespace

double bright_share(double exposed, double threshold, double knee) {
    if (exposed <= 0) return 0;
    const double bent = std::clamp(exposed - threshold + knee, 0.0, 2 * knee),
                 soft = bent * bent / std::max(4 * knee, 1e-6);
    return std::max({soft, exposed - threshold, 0.0}) / exposed;
}

int bloom_scale(const Setup& s) {
    const std::string& scale = s.choice("bloom.scale");
    return s.choice("bloom.kind") == "chain" || scale == "half" ? 2 : scale == "full" ? 1 : 4;
}

int bloom_radius(const Setup& s, int height) {
    return std::clamp(static_cast<int>(std::lround(0.01 * s.number("bloom.radius") * height / bloom_scale(s))), 1, 400);
}

int bloom_levels(const Setup& s, int width, int height) {
    const int room = std::max(1, static_cast<int>(std::log2(std::max(2, std::min(width, height) / 2))));
    const double reach = std::max(2.0, 0.01 * s.number("bloom.radius") * height);
    return std::clamp(static_cast<int>(std::lround(std::log2(reach))), 1, room);
}

FloatImage bloomed(const FloatImage& radiance, const Setup& s, double exposureScale) {
    const std::string& kind = s.choice("bloom.kind");
    if (kind == "none") return radiance;
    const Plane picture = plane_of(radiance);
    const bool chain = kind == "chain";
    const int n = bloom_scale(s), radius = bloom_radius(s, radiance.height);
    const Plane glow = chain ? chain_of(picture, s, exposureScale)
                             : blurred(blurred(bright_parts(picture, s, exposureScale), radius, true), radius, false);
    const double share = s.number("bloom.share");
    FloatImage out = radiance;
    for (int y = 0; y < radiance.height; ++y)
        for (int x = 0; x < radiance.width; ++x) {
            const int row = radiance.height - 1 - y;
            glm::dvec3 g(0.0);
            if (n == 1)
                g = glow.at(x, row);
            else if (n == 2)
                g = doubled_at(glow, x, row);
            else { // between texels four pixels wide
                const double u = (x + 0.5) / n - 0.5, v = (row + 0.5) / n - 0.5;
                const int i = static_cast<int>(std::floor(u)), j = static_cast<int>(std::floor(v));
                g = glm::mix(glm::mix(glow.at(i, j), glow.at(i + 1, j), u - i),
                             glm::mix(glow.at(i, j + 1), glow.at(i + 1, j + 1), u - i), v - j);
            }
            const glm::dvec3 own = picture.at(x, row), sum = chain ? glm::mix(own, g, share) : own + share * g;
            for (int c = 0; c < 3; ++c)
                out.data[std::size_t(out.channels) * (std::size_t(y) * std::size_t(out.width) + std::size_t(x)) +
                         std::size_t(c)] = static_cast<float>(sum[c]);
        }
    return out;
}

namespace technique {

static void plan_bloom(const FrameInputs& in, PlanBuilder& b) {
    const Setup& s = in.setup;
    const std::string& kind = s.choice("bloom.kind");
    if (kind == "none") return;
    const bool chain = kind == "chain";
    const int n = bloom_scale(s), radius = bloom_radius(s, shown_size(in.view).y);
    b.set("bloom", {s.number("bloom.share"), n, chain ? 1 : 0, s.number("bloom.spread")});
    b.set("bloomParts", {s.number("bloom.threshold"), s.number("bloom.threshold") * s.number("bloom.knee"), radius,
                         s.flag("bloom.tame") ? 1 : 0});
    const auto target = [&](const char* name, const char* sampler, int mips, bool kept) {
        b.resource({.name = name,
                    .sampler = sampler,
                    .format = Format::rgba16f,
                    .scale = 1.0 / n,
                    .ofShown = true,
                    .mips = mips,
                    .kept = kept});
    };
    const auto pass = [&](const char* name, const char* what, std::vector<std::string> reads, const char* writes,
                          std::vector<std::string> keys, int draws) {
        if (name == std::string("bright parts") || name == std::string("bloom down"))
            if (b.has(exposure_resource)) reads.emplace_back(exposure_resource);
        keys.emplace_back("bloom.kind");
        b.pass({.name = name,
                .family = "finish",
                .what = what,
                .reads = std::move(reads),
                .writes = {writes},
                .settings = std::move(keys),
                .expected = Work::drawing(static_cast<std::size_t>(draws), static_cast<std::size_t>(draws))});
    };
    if (chain) {
        const int levels = bloom_levels(s, shown_size(in.view).x, shown_size(in.view).y);
        target(bloom_resource, "bloom", levels, true);
        pass("bloom down", "Halves the picture level by level; no light is lost.", {b.radiance()}, bloom_resource,
             {"bloom.radius", "bloom.tame"}, levels);
        if (levels > 1)
            pass("bloom up", "Mixes each level with the wider ones.", {bloom_resource}, bloom_resource,
                 {"bloom.radius", "bloom.spread"}, levels - 1);
    } else {
        target(bright_resource, "brightParts", 1, true);
        target("glow across", "glowAcross", 1, false);
        target(bloom_resource, "bloom", 1, true);
        pass("bright parts", "What lies over the threshold.", {b.radiance()}, bright_resource,
             {"bloom.threshold", "bloom.knee", "bloom.scale"}, 1);
        pass("glow across", "Blurs it along the width.", {bright_resource}, "glow across",
             {"bloom.radius", "bloom.scale"}, 1);
        pass("glow down", "Blurs it along the height.", {"glow across"}, bloom_resource,
             {"bloom.radius", "bloom.scale"}, 1);
    }
    b.feed(Slot::post, "bloom/feed.glsl",
           n == 1   ? "withFullBloom"
           : n == 2 ? "withHalfBloom"
                    : "withQuarterBloom",
           {bloom_resource});
}

static void price_bloom(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    const auto fragments = static_cast<double>(w.at("fragments"));
    if (plan.feeds_slot(&bloom(), pass)) t["bloomPixel"] = fragments;
    if (pass.technique != &bloom()) return;
    t["run"] = static_cast<double>(pass.expected.at("draws"));
    t["bloomRead"] = static_cast<double>(w.at("bloomReads"));
    t["writeFloat"] = fragments * 8;
}

const Technique& bloom() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"bloom.kind", "threshold"},
                                                                              {"bloom.threshold", "0.05"}};
    const auto of = [](Setting s, std::vector<std::string> kinds) {
        return std::move(s).only_when("bloom.kind", std::move(kinds));
    };
    static const Technique technique{
        .name = "bloom",
        .stages = Stages::all,
        .settings =
            {choice_setting("bloom.kind", "Bloom", "Finish", {"none", "threshold", "chain"}, "none",
                            "Light that spreads about what is bright. threshold: what lies over a value is blurred "
                            "and added, which makes light; chain: the whole picture, halved again and again, is mixed "
                            "in, and no light is made or lost."),
             of(number_setting("bloom.share", "Bloom share", "Finish", 0.12, 0, 1, "",
                               "chain: how much of the light spreads; threshold: how much of the glow is added."),
                {"threshold", "chain"}),
             of(number_setting("bloom.radius", "Bloom size", "Finish", 6, 0.2, 40, "%",
                               "How far light spreads, of the picture's height. threshold: time follows; chain: a "
                               "level more for each doubling, which costs next to nothing.")
                    .on_ratio(),
                {"threshold", "chain"}),
             of(number_setting("bloom.threshold", "Bloom from", "Finish", 1, 0.01, 64, "",
                               "The exposed value that glow begins at; 1 is what the picture takes for white.")
                    .on_ratio(),
                {"threshold"}),
             of(number_setting("bloom.knee", "Its knee", "Finish", 0.5, 0, 1, "",
                               "How softly the threshold sets in, as a share of it: 0 cuts, and flickers."),
                {"threshold"}),
             of(choice_setting("bloom.scale", "Bloom resolution", "Finish", {"full", "half", "quarter"}, "half",
                               "Size of what is blurred: half costs about an eighth."),
                {"threshold"}),
             of(number_setting("bloom.spread", "Level mix", "Finish", 0.7, 0, 0.98, "",
                               "How much of each level is the wider ones': more spreads farther and flatter."),
                {"chain"}),
             of(toggle_setting("bloom.tame", "Tame fireflies", "Finish", true,
                               "The first step weighs bright pixels less, so that one that flickers does not flash; "
                               "costs them some of their glow."),
                {"chain"})},
        .counters = {{"bloomReads", "Bloom reads", "texels read to spread light"}},
        .terms = {{"bloomRead", "a texel read to spread light", exercise, 0.02},
                  {"bloomPixel", "a pixel of the picture that bloom is laid over", exercise, 0.03}},
        .layers = {{.name = "bright",
                    .label = "Bright",
                    .help = "What lies over bloom's threshold.",
                    .view = LayerView::radiance,
                    .resource = bright_resource,
                    .role = "spreads into Bloom",
                    .when = {{"bloom.kind", {"threshold"}}}},
                   {.name = "bloom",
                    .label = "Bloom",
                    .help = "Light as it has spread, before it is laid over the picture.",
                    .view = LayerView::radiance,
                    .resource = bloom_resource,
                    .role = "laid over the sum by its share",
                    .when = {{"bloom.kind", {"threshold", "chain"}}}}},
        .parameters = {"bloom",       // x: share, y: pixels of a texel, z: 1 the chain, w: level mix
                       "bloomParts"}, // x: threshold, y: knee in exposed units, z: radius in texels, w: 1 tame
        .mayFeed = {Slot::post},
        .plan = plan_bloom,
        .price = price_bloom,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
