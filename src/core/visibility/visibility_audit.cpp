#include "core/visibility/visibility_audit.h"
#include "core/cost/walk.h"
#include "core/motion/scene_at.h"
#include <algorithm>

namespace mirolux {

Setup visibility_setup(const Setup& setup) {
    Setup out;
    out.stage = setup.stage;
    for (const Setting& setting : all_settings())
        if (setting.key.starts_with("visibility.") || setting.key.starts_with("geometry."))
            (void)out.set(setting.key, setup.get(setting.key));
    for (const auto& [key, text] : {std::pair("path.kind", "forward"),
                                    {"ambient.kind", "none"},
                                    {"air.kind", "none"},
                                    {"shadow.maps", "off"},
                                    {"occlusion.kind", "none"},
                                    {"reflection.kind", "none"},
                                    {"sky.kind", "colours"},
                                    {"edges.kind", "none"},
                                    {"bloom.kind", "none"}})
        (void)out.set_text(key, text);
    return out;
}

Scene without_lights(const Scene& scene) {
    Scene out = scene;
    for (Light& l : out.lights)
        l.enabled = false;
    out.cheapLights.clear();
    out.probes.clear();
    out.volumes.clear();
    return out;
}

/// Takes one view into the findings.
static void enter(VisibilityAudit& out, std::size_t view, const std::vector<std::uint32_t>& pixels,
                  const std::vector<bool>& drawn) {
    ++out.frames;
    for (std::size_t i = 0; i < pixels.size(); ++i) {
        const bool seen = pixels[i] > 0;
        out.seen += seen;
        out.drawn += drawn[i];
        out.surplus += drawn[i] && !seen;
        if (!seen || drawn[i]) continue;
        ++out.missing;
        out.worst.push_back({static_cast<int>(i), view, pixels[i]});
    }
    std::stable_sort(out.worst.begin(), out.worst.end(),
                     [](const MissingObject& a, const MissingObject& b) { return a.pixels > b.pixels; });
    if (out.worst.size() > 32) out.worst.resize(32);
}

Result<std::vector<VisibilityAudit>> audit_visibility(RenderSession& session, const Scene& scene,
                                                      const std::vector<Setup>& setups, const std::vector<View>& views,
                                                      const AuditProgress& each) {
    const Scene bare = without_lights(scene);
    Setup all = visibility_setup(Setup());
    for (const Setting& setting : all_settings())
        if (setting.key.starts_with("geometry.")) (void)all.set(setting.key, setups.front().get(setting.key));
    std::vector<VisibilityAudit> out(setups.size());
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.seen = true;
    for (std::size_t v = 0; v < views.size(); ++v) {
        const Scene now = scene_at(bare, views[v].seconds);
        const DrawList frustum = build_draw_list(now, all, views[v]);
        std::vector<std::uint32_t> pixels;
        std::vector<std::vector<bool>> drawn(setups.size());
        // Where the device finds what is left out, it also counts what shows: of all that the frustum touches.
        for (std::size_t s = 0; s < setups.size(); ++s) {
            const Setup plain = visibility_setup(setups[s]);
            if (!found_on_device(plain, views[v])) continue;
            auto record = session.render(now, plain, views[v], o);
            if (!record) return tl::unexpected(record.error());
            drawn[s] = std::move(record->drawn);
            pixels = std::move(record->seenPixels);
        }
        if (pixels.empty()) {
            auto record = session.render(now, all, views[v], o);
            if (!record) return tl::unexpected(record.error());
            pixels = std::move(record->seenPixels);
        }
        for (std::size_t s = 0; s < setups.size(); ++s) {
            if (drawn[s].empty()) { // known before anything is drawn
                const DrawList list = build_draw_list(now, visibility_setup(setups[s]), views[v]);
                if (!list.visibilityNote.empty() &&
                    std::find(out[s].notes.begin(), out[s].notes.end(), list.visibilityNote) == out[s].notes.end())
                    out[s].notes.push_back(list.visibilityNote);
                drawn[s].resize(pixels.size(), false);
                for (const auto* part : {&list.opaque, &list.blended})
                    for (const Draw& d : *part)
                        drawn[s][static_cast<std::size_t>(d.object)] = true;
            }
            out[s].inFrustum += frustum.opaque.size() + frustum.blended.size();
            enter(out[s], v, pixels, drawn[s]);
        }
        if (each && !each(v + 1, out)) {
            for (VisibilityAudit& a : out)
                a.stopped = true;
            break;
        }
    }
    return out;
}

std::vector<View> views_along(const Walk& walk, const View& view, double everyMetres, int headings) {
    std::vector<View> out;
    for (const WalkPoint& p : walk_points(walk, everyMetres, headings)) {
        View v = view;
        v.camera = p.camera;
        v.seconds = p.seconds;
        out.push_back(v);
    }
    return out;
}

} // namespace mirolux
