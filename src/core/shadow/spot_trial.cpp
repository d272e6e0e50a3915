#include "core/shadow/spot_trial.h"
#include "core/finish/exposure.h"
#include "core/light/tone.h"
#include <algorithm>

namespace mirolux {

namespace {

/// Radiance that counts as black: a hundredth of what exposure makes white.
double black_of(const Setup& setup) {
    return 0.01 / tone::exposure_scale(hand_ev100(setup));
}

Result<FloatImage> picture_of(RenderSession& session, const Scene& scene, const Setup& setup, const View& view) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.floatLayers = {"final"};
    auto record = session.render(scene, setup, view, o);
    if (!record) return tl::unexpected(record.error());
    return std::move(record->floats.at("final"));
}

/// Of the lights with ids from this one on, how many have maps, and how many maps those are.
std::pair<int, int> mapped(const ShadowSet& set, const DrawList& draws, int fromId) {
    std::pair<int, int> out;
    for (const ShadowedLight& l : set.lights)
        if (draws.lights[static_cast<std::size_t>(l.light)].id >= fromId) {
            ++out.first;
            out.second += l.count;
        }
    return out;
}

} // namespace

Result<std::vector<SpotTrial>> try_spots(RenderSession& session, const SpotQuestion& q,
                                         const std::function<bool(const char*, double)>& go_on) {
    const Scene& scene = q.shadows.scene;
    const View& view = q.shadows.view;
    const DrawList draws = build_draw_list(scene, q.shadows.setup, view);
    const auto at = std::find_if(draws.lights.begin(), draws.lights.end(),
                                 [&](const Light& l) { return q.shadows.light && l.id == *q.shadows.light; });
    if (at == draws.lights.end())
        return fail("this light does not shine in this view", "light", "Choose one that is in view and on.");
    if (at->type != LightType::point)
        return fail("only a point light can become spots", at->name, "Choose a point light.");
    const double reach = draws.reach[static_cast<std::size_t>(at - draws.lights.begin())];
    const RangeWindow window =
        q.shadows.setup.choice("light.window") == "squared" ? RangeWindow::squared : RangeWindow::unsquared;
    const RayScene rays(scene);
    const std::vector<UsedDirection> used = used_directions(rays, *at, reach, window);
    if (used.empty()) return fail("this light meets nothing within its reach", at->name, "It needs no map at all.");
    Setup timed = q.shadows.setup; // what maps cost when they are drawn
    if (auto ok = timed.set_text("shadow.update", "always"); !ok) return tl::unexpected(ok.error());
    auto before = picture_of(session, scene, q.shadows.setup, view);
    if (!before) return tl::unexpected(before.error());
    const ShadowSet maps = shadow_set(scene, q.shadows.setup, view, draws);
    if (!maps.of(static_cast<int>(at - draws.lights.begin())))
        return fail("this light has no shadow map in this view", at->name,
                    "Nothing would be saved; raise shadow.casters, or look where it matters more.");
    const int mapsBefore = maps.of(static_cast<int>(at - draws.lights.begin()))->count;
    std::vector<SpotTrial> out;
    for (std::size_t i = 0; i < q.counts.size(); ++i) {
        const double done = double(i) / double(q.counts.size());
        if (go_on && !go_on("placing spots", done)) break;
        SpotTrial t;
        t.count = q.counts[i];
        t.used = used;
        t.cover = cover_by_spots(used, t.count);
        t.spots = spots_in_place(*at, t.cover);
        Scene with = scene;
        const int free = put_in_place(with.lights, with.motions, at->id, t.spots);
        Setup setup = q.shadows.setup, timedWith = timed; // each spot counts as a light that casts
        t.casters = std::min(64, setup.whole("shadow.casters") + t.count - 1);
        for (Setup* one : {&setup, &timedWith})
            if (auto ok = one->set("shadow.casters", t.casters); !ok) return tl::unexpected(ok.error());
        const DrawList after = build_draw_list(with, setup, view);
        const auto [spots, spotMaps] = mapped(shadow_set(with, setup, view, after), after, free);
        t.mapsBefore = mapsBefore;
        t.mapsAfter = spotMaps;
        t.unmapped = t.count - spots;
        auto picture = picture_of(session, with, setup, view);
        if (!picture) return tl::unexpected(picture.error());
        t.picture = picture_difference(*before, *picture, black_of(q.shadows.setup), 0.05);
        MeasureOptions o;
        o.rounds = q.rounds;
        bool stopped = false;
        o.progress = [&](const MeasureProgress& p) {
            stopped = go_on && !go_on("measuring in pairs", done + double(p.round) / (double(std::max(1, p.rounds)) *
                                                                                      double(q.counts.size())));
            return !stopped;
        };
        auto times = measure_paired(session, scene, timed, with, timedWith, view, o);
        if (stopped) break;
        if (!times) return tl::unexpected(times.error());
        t.times = std::move(*times);
        for (const PassComparison& c : t.times.passes)
            if (c.name == "lamp shadows") t.maps = c;
        out.push_back(std::move(t));
    }
    return out;
}

} // namespace mirolux
