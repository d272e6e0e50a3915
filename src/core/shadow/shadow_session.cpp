#include "core/shadow/shadow_session.h"
#include "core/finish/render_scale.h"
#include "core/shadow/shadow_maps.h"

namespace mirolux {

namespace {

/// What the frame's shadow leaves of one light.
Result<FloatImage> shadow_of(RenderSession& session, const Scene& scene, const Setup& setup, const View& view, int id) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.light = id;
    o.floatLayers = {"lightshadow"};
    auto record = session.render(scene, plainly_rendered(setup), view, o);
    if (!record) return tl::unexpected(record.error());
    return std::move(record->floats.at("lightshadow"));
}

/// The maps of a question, and what rays say of them.
struct Traced {
    DrawList draws;
    ShadowSet set;
    ShadowTruth truth;
};

Result<Traced> traced(const ShadowQuestion& q, const std::function<bool(const char*, double)>& go_on) {
    if (!q.setup.flag("shadow.maps"))
        return fail("this setup has no shadow maps", "shadow.maps", "Switch shadow.maps on.");
    Traced a;
    a.draws = build_draw_list(q.scene, q.setup, q.view);
    a.set = shadow_set(q.scene, q.setup, q.view, a.draws);
    if (q.light)
        std::erase_if(a.set.lights, [&](const ShadowedLight& l) {
            return a.draws.lights[static_cast<std::size_t>(l.light)].id != *q.light;
        });
    const RayScene rays(q.scene);
    a.truth = trace_shadows(q.scene, q.setup, q.view, a.draws, a.set, rays, q.every,
                            [&](double share) { return !go_on || go_on("tracing", share); });
    return a;
}

} // namespace

Result<ShadowReport> audit_shadows(RenderSession& session, const ShadowQuestion& q, double least,
                                   const std::function<bool(const char*, double)>& go_on) {
    auto found = traced(q, go_on);
    if (!found) return tl::unexpected(found.error());
    ShadowReport out;
    out.width = found->truth.width;
    out.height = found->truth.height;
    out.every = std::max(1, q.every);
    out.faults.assign(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height), ShadowFault::none);
    for (const MapRefused& r : found->set.refused)
        out.unmapped.push_back(found->draws.lights[static_cast<std::size_t>(r.light)].name);
    out.why = unmapped_text(found->set, found->draws);
    std::size_t done = 0;
    for (const TracedLight& t : found->truth.lights) {
        if (go_on && !go_on("comparing", double(done) / double(found->truth.lights.size()))) break;
        ++done;
        const Light& light = found->draws.lights[static_cast<std::size_t>(t.light)];
        auto share = shadow_of(session, q.scene, q.setup, q.view, light.id);
        if (!share) return tl::unexpected(share.error());
        out.lights.push_back({light.id, light.name, shadow_errors(t, *share)});
        out.all += out.lights.back().errors;
        mark_faults(t, *share, least, out.faults);
    }
    return out;
}

Result<BiasSolution> find_bias(RenderSession& session, const ShadowQuestion& q, double bound,
                               const std::function<bool(const char*, double)>& go_on) {
    auto found = traced(q, go_on);
    if (!found) return tl::unexpected(found.error());
    if (found->set.lights.empty()) return fail("no light of this view has a shadow map", "shadow.casters", "");
    // One light's own values, or the setup's of all.
    const auto evaluate = [&](const BiasSet& b) -> Result<ShadowErrors> {
        Scene tried = q.scene;
        Setup setup = q.setup;
        if (!q.light) {
            (void)setup.set("shadow.bias", b.bias);
            (void)setup.set("shadow.slopeBias", b.slopeBias);
            (void)setup.set("shadow.normalOffset", b.normalOffset);
        } else
            for (Light& l : tried.lights)
                if (l.id == *q.light) put_bias(l, b);
        ShadowErrors sum;
        for (const TracedLight& t : found->truth.lights) {
            auto share =
                shadow_of(session, tried, setup, q.view, found->draws.lights[static_cast<std::size_t>(t.light)].id);
            if (!share) return tl::unexpected(share.error());
            sum += shadow_errors(t, *share);
        }
        return sum;
    };
    const ShadowLook& look = found->set.lights.front().look;
    return solve_bias({look.bias, look.slopeBias, look.normalOffset}, bound, evaluate,
                      [&](double share) { return !go_on || go_on("searching", share); });
}

} // namespace mirolux
