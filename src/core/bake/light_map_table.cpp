#include "core/bake/light_map_table.h"
#include "core/light/luminance.h"
#include "core/truth/path_tracer.h"
#include "core/truth/truth_picture.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace mirolux {

namespace {

double bright(const FloatImage& image, std::size_t pixel) {
    const float* p = image.data.data() + pixel * static_cast<std::size_t>(image.channels);
    return luminance(glm::dvec3(p[0], p[1], p[2]));
}

/// Mean of what two maps differ by, over the mean of the first.
double mean_off(const FloatImage& a, const FloatImage& b, double* weight) {
    double off = 0, all = 0;
    const std::size_t pixels = static_cast<std::size_t>(a.width) * static_cast<std::size_t>(a.height);
    for (std::size_t i = 0; i < pixels; ++i) {
        off += std::abs(bright(a, i) - bright(b, i));
        all += bright(a, i);
    }
    if (weight) *weight += all;
    return weight ? off : all > 0 ? off / all : 0;
}

Result<std::map<std::string, FloatImage>> pictures(RenderSession& session, const Scene& scene, const Setup& setup,
                                                   const View& view, const std::vector<std::string>& layers) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.floatLayers = layers;
    auto record = session.render(scene, setup, view, o);
    if (!record) return tl::unexpected(record.error());
    return std::move(record->floats);
}

/// What a frame without ambient light shows, and the bounced light of paths.
struct LivePicture {
    FloatImage picture;
    double noise = 0;
};
Result<LivePicture> live_picture(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                                 int samples) {
    Setup straight = setup;
    (void)straight.set_text("indirect.kind", "none");
    (void)straight.set_text("ambient.kind", "none");
    auto lit = pictures(session, scene, straight, view, {"final"});
    if (!lit) return tl::unexpected(lit.error());
    LivePicture out{std::move(lit->at("final")), 0};
    truth::Options o;
    o.layer = truth::Layer::indirect;
    o.bounces = setup.whole("lightmap.bounces");
    const truth::PathTracer tracer(scene, setup, view, o, std::make_shared<RayScene>(scene));
    truth::Picture traced(view.width, view.height);
    truth::refine(tracer, traced, {static_cast<std::uint32_t>(samples), 0}, [](double) { return true; });
    const FloatImage bounced = traced.image();
    double straightSum = 0, sum = 0;
    const std::size_t pixels = static_cast<std::size_t>(view.width) * static_cast<std::size_t>(view.height);
    for (std::size_t i = 0; i < pixels; ++i) {
        straightSum += bright(out.picture, i);
        for (std::size_t k = 0; k < 3; ++k)
            out.picture.data[i * static_cast<std::size_t>(out.picture.channels) + k] +=
                bounced.data[i * static_cast<std::size_t>(bounced.channels) + k];
        sum += bright(out.picture, i);
    }
    if (sum > 0) out.noise = traced.relative_error() * (1 - straightSum / sum);
    return out;
}

LiveDifference difference(const FloatImage& live, const FloatImage& baked) {
    LiveDifference out;
    constexpr int square = 6;
    const int across = (live.width + square - 1) / square;
    std::vector<double> squares(static_cast<std::size_t>(across * ((live.height + square - 1) / square)), 0.0);
    double all = 0;
    for (int y = 0; y < live.height; ++y)
        for (int x = 0; x < live.width; ++x) {
            const auto i =
                static_cast<std::size_t>(y) * static_cast<std::size_t>(live.width) + static_cast<std::size_t>(x);
            const double off = bright(baked, i) - bright(live, i);
            all += bright(live, i);
            out.mean += std::abs(off);
            out.bias += off;
            squares[static_cast<std::size_t>(y / square * across + x / square)] += off;
        }
    for (const double s : squares)
        out.coarse += std::abs(s);
    if (!(all > 0)) return {};
    return {out.mean / all, out.coarse / all, out.bias / all};
}

} // namespace

Setup setup_of(const LightMapRow& row, Setup setup) {
    const std::pair<const char*, std::string> values[] = {
        {"indirect.kind", "lightmap"},
        {"lightmap.density", std::to_string(row.options.density)},
        {"lightmap.source", row.options.patches ? "patches" : "paths"},
        {row.options.patches ? "patches.rays" : "lightmap.paths", std::to_string(row.options.samples)},
        {"lightmap.bounces", std::to_string(row.options.bounces)},
        {"lightmap.store", word(row.store)},
        {"lightmap.kind", word(row.kind)}};
    for (const auto& [key, value] : values)
        (void)setup.set_text(key, value);
    return setup;
}

Result<LightMapTable> light_map_table(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                                      const std::function<bool(double share)>& more, int reference) {
    const std::vector<KnownMap> maps = known_maps(scene, setup);
    if (maps.empty())
        return fail("no light map was baked for the scene as it stands", "lightmap",
                    "Bake one: mirolux-cli bake SCENE --what lightmap, or at the Ambient station.");
    Setup live = setup;
    (void)live.set_text("indirect.kind", "none");
    auto lit = pictures(session, scene, live, view, {"specular"});
    if (!lit) return tl::unexpected(lit.error());
    const FloatImage& highlights = lit->at("specular");
    const std::size_t pixels = static_cast<std::size_t>(highlights.width) * static_cast<std::size_t>(highlights.height);
    double shines = 0;
    for (std::size_t i = 0; i < pixels; ++i)
        shines += bright(highlights, i);
    LightMapTable out;
    out.highlights = shines / static_cast<double>(std::max<std::size_t>(1, pixels));
    LivePicture whole;
    if (reference > 0) {
        auto made = live_picture(session, scene, setup, view, reference);
        if (!made) return tl::unexpected(made.error());
        whole = std::move(*made);
        out.referenceNoise = whole.noise;
    }
    FloatImage best; // the densest map, in half floats with harmonics
    const std::size_t all = maps.size() * 12;
    for (const KnownMap& m : maps)
        for (const DirectionKind kind : {DirectionKind::harmonics, DirectionKind::dominant, DirectionKind::plain})
            for (const TexelStore store : all_texel_stores) {
                if (more && !more(static_cast<double>(out.rows.size()) / static_cast<double>(all))) return out;
                LightMapRow row{m.options, store, kind, m.width, m.height};
                const Setup now = setup_of(row, setup);
                std::string remark;
                const auto baked = baked_light_of(scene, now, &remark, Patience::waits);
                if (!baked) {
                    out.remarks.push_back(remark);
                    continue;
                }
                row.bytes = baked->bytes();
                row.chosen = uses_light_map(setup) && now.get("lightmap.store") == setup.get("lightmap.store") &&
                             now.get("lightmap.kind") == setup.get("lightmap.kind") &&
                             find_light_map(scene, setup) == baked->index;
                if (store != TexelStore::half) {
                    Setup exact = now;
                    (void)exact.set_text("lightmap.store", "half");
                    if (const auto reference = baked_light_of(scene, exact, nullptr, Patience::waits)) {
                        double off = 0, weight = 0;
                        for (std::size_t l = 0; l < baked->layers.size(); ++l)
                            off += mean_off(restored(reference->layers[l].texels), restored(baked->layers[l].texels),
                                            &weight);
                        row.storeError = weight > 0 ? off / weight : 0;
                    }
                }
                auto seen = pictures(session, scene, now, view, {"final", "specular", "bakedSpecular"});
                if (!seen) return tl::unexpected(seen.error());
                if (best.data.empty()) best = seen->at("final");
                row.pictureError = mean_off(best, seen->at("final"), nullptr);
                if (reference > 0 && m.options.bounces == setup.whole("lightmap.bounces"))
                    row.live = difference(whole.picture, seen->at("final"));
                double kept = 0;
                for (std::size_t i = 0; i < pixels; ++i)
                    kept += std::min(bright(highlights, i),
                                     bright(seen->at("specular"), i) + bright(seen->at("bakedSpecular"), i));
                row.highlightKept = shines > 0 ? kept / shines : 0;
                out.rows.push_back(row);
            }
    return out;
}

} // namespace mirolux
