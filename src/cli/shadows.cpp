#include "cli/commands.h"
#include "core/base/text.h"
#include "core/shadow/bias_solver.h"
#include "core/shadow/shadow_maps.h"
#include <fmt/format.h>

// audit shadows and bias: shadows as rendered, held against rays.
namespace mirolux::cli {

namespace {

/// What the frame's shadow leaves of one light.
Result<FloatImage> shadow_of(WorkerClient& worker, const Scene& scene, const Setup& setup, const View& view, int id) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.light = id;
    o.floatLayers = {"lightshadow"};
    auto record = worker.render(scene, setup, view, o);
    if (!record) return tl::unexpected(record.error());
    return std::move(record->floats.at("lightshadow"));
}

nlohmann::json to_json(const ShadowErrors& e) {
    return {{"missed", e.missed()}, {"false", e.falsely()}, {"penumbraError", e.penumbra_error()},
            {"edge", e.edge},       {"pairs", e.pairs},     {"penumbraPairs", e.penumbra}};
}

std::string line(const std::string& name, const ShadowErrors& e) {
    return fmt::format("{:28} {:9} {:8.3f} %{:8.3f} %{:9.3f} %{:10}\n", name.substr(0, 28), e.pairs, 100 * e.missed(),
                       100 * e.falsely(), 100 * e.penumbra_error(), e.edge);
}

std::function<bool(double)> telling(const char* what) {
    return [what, said = std::chrono::steady_clock::now()](double share) mutable {
        const auto now = std::chrono::steady_clock::now();
        if (now - said > std::chrono::seconds(3)) {
            said = now;
            std::fprintf(stderr, "%s: %.0f %%\n", what, 100 * share);
        }
        return true;
    };
}

Result<void> check_maps(const Subject& s) {
    if (s.setup.flag("shadow.maps")) return {};
    return fail("this setup has no shadow maps", "shadow.maps", "Add --set shadow.maps=on.");
}

} // namespace

int audit_shadows(const Common& c, int every) {
    auto s = subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    if (auto ok = check_maps(*s); !ok) return complain(ok.error(), badInput);
    WorkerClient worker(worker_options(c));
    const Scene scene = scene_of(s->open);
    const DrawList draws = build_draw_list(scene, s->setup, s->view);
    const ShadowSet set = shadow_set(scene, s->setup, s->view, draws);
    const RayScene rays(scene);
    const ShadowTruth truth = trace_shadows(scene, s->setup, s->view, draws, set, rays, every, telling("tracing"));
    ShadowErrors all;
    std::string text =
        fmt::format("{:28} {:>9} {:>10}{:>10}{:>11}{:>10}\n", "light", "pairs", "missed", "false", "penumbra", "edge");
    nlohmann::json lights = nlohmann::json::array(), unmapped = nlohmann::json::array();
    for (const TracedLight& t : truth.lights) {
        const Light& light = draws.lights[static_cast<std::size_t>(t.light)];
        auto share = shadow_of(worker, scene, s->setup, s->view, light.id);
        if (!share) return complain(share.error(), deviceFailed);
        const ShadowErrors e = shadow_errors(t, *share);
        all += e;
        lights.push_back(to_json(e));
        lights.back()["name"] = light.name;
        text += line(light.name, e);
    }
    text += line("all", all);
    for (const MapRefused& r : set.refused)
        unmapped.push_back(draws.lights[static_cast<std::size_t>(r.light)].name);
    if (const std::string why = unmapped_text(set, draws); !why.empty()) text += why + "\n";
    nlohmann::json json = to_json(all);
    json["schema"] = "mirolux.auditShadows";
    json["version"] = 1;
    json["lights"] = lights;
    json["unmapped"] = unmapped;
    json["size"] = {truth.width, truth.height};
    json["every"] = every;
    return deliver(c, text, json);
}

int bias(const Common& c, const BiasArguments& a) {
    auto s = subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    if (auto ok = check_maps(*s); !ok) return complain(ok.error(), badInput);
    WorkerClient worker(worker_options(c));
    Scene scene = scene_of(s->open);
    const DrawList draws = build_draw_list(scene, s->setup, s->view);
    ShadowSet set = shadow_set(scene, s->setup, s->view, draws);
    if (!a.light.empty()) {
        std::erase_if(set.lights, [&](const ShadowedLight& l) {
            return draws.lights[static_cast<std::size_t>(l.light)].name != a.light;
        });
        if (set.lights.empty())
            return complain({"no light of this name has a shadow map in this view", a.light,
                             "audit shadows lists those that have one."},
                            badInput);
    }
    const RayScene rays(scene);
    const ShadowTruth truth = trace_shadows(scene, s->setup, s->view, draws, set, rays, a.every, telling("tracing"));
    if (set.lights.empty()) return complain({"no light of this view has a shadow map", "shadow.casters", ""}, badInput);
    // One light's own values, or the setup's of all.
    const auto evaluate = [&](const BiasSet& b) -> Result<ShadowErrors> {
        Scene tried = scene;
        Setup setup = s->setup;
        if (a.light.empty()) {
            (void)setup.set("shadow.bias", b.bias);
            (void)setup.set("shadow.slopeBias", b.slopeBias);
            (void)setup.set("shadow.normalOffset", b.normalOffset);
        } else
            for (Light& l : tried.lights)
                if (l.name == a.light) put_bias(l, b);
        ShadowErrors sum;
        for (const TracedLight& t : truth.lights) {
            auto share = shadow_of(worker, tried, setup, s->view, draws.lights[static_cast<std::size_t>(t.light)].id);
            if (!share) return tl::unexpected(share.error());
            sum += shadow_errors(t, *share);
        }
        return sum;
    };
    const ShadowLook& look = set.lights.front().look;
    auto solved = solve_bias({look.bias, look.slopeBias, look.normalOffset}, a.falsely, evaluate, telling("searching"));
    if (!solved) return complain(solved.error(), deviceFailed);
    const auto json_of = [](const BiasPoint& p) -> nlohmann::json {
        return {{"bias", p.set.bias},
                {"slopeBias", p.set.slopeBias},
                {"normalOffset", p.set.normalOffset},
                {"missed", p.missed},
                {"false", p.falsely}};
    };
    nlohmann::json json = json_of(solved->best), front = nlohmann::json::array();
    for (const BiasPoint& p : solved->front)
        front.push_back(json_of(p));
    json["schema"] = "mirolux.bias";
    json["version"] = 1;
    json["light"] = a.light;
    json["bound"] = a.falsely;
    json["under"] = solved->under;
    json["before"] = json_of(solved->before);
    json["front"] = front;
    json["tried"] = solved->points.size();
    const auto text_of = [](const char* head, const BiasPoint& p) {
        return fmt::format("{:7} bias {:.3f} m, by slope {:.1f}, normal offset {:.1f} texels: missed {:.3f} %, false "
                           "{:.3f} %\n",
                           head, p.set.bias, p.set.slopeBias, p.set.normalOffset, 100 * p.missed, 100 * p.falsely);
    };
    std::string text = text_of("before", solved->before) + text_of("best", solved->best);
    text += solved->under ? fmt::format("{} sets tried\n", solved->points.size())
                          : fmt::format("none of {} sets keeps false under {:.3f} %; this one comes nearest\n",
                                        solved->points.size(), 100 * a.falsely);
    return deliver(c, text, json);
}

} // namespace mirolux::cli
