#include "cli/commands.h"
#include "core/base/text.h"
#include "core/shadow/shadow_session.h"
#include "core/shadow/spot_trial.h"
#include <fmt/format.h>

// audit shadows and bias: shadows as rendered, held against rays.
namespace mirolux::cli {

namespace {

nlohmann::json to_json(const ShadowErrors& e) {
    return {{"missed", e.missed()}, {"false", e.falsely()}, {"penumbraError", e.penumbra_error()},
            {"edge", e.edge},       {"pairs", e.pairs},     {"penumbraPairs", e.penumbra}};
}

std::string line(const std::string& name, const ShadowErrors& e) {
    return fmt::format("{:28} {:9} {:8.3f} %{:8.3f} %{:9.3f} %{:10}\n", name.substr(0, 28), e.pairs, 100 * e.missed(),
                       100 * e.falsely(), 100 * e.penumbra_error(), e.edge);
}

/// Says every few seconds how far it has come.
std::function<bool(const char*, double)> telling() {
    return [said = std::chrono::steady_clock::now()](const char* what, double share) mutable {
        const auto now = std::chrono::steady_clock::now();
        if (now - said > std::chrono::seconds(3)) {
            said = now;
            std::fprintf(stderr, "%s: %.0f %%\n", what, 100 * share);
        }
        return true;
    };
}

/// A question about a subject; its setup has shadow maps.
Result<ShadowQuestion> question_of(const Common& c, int every) {
    auto s = solid_subject_of(c, true);
    if (!s) return tl::unexpected(s.error());
    if (!s->setup.flag("shadow.maps"))
        return fail("this setup has no shadow maps", "shadow.maps", "Add --set shadow.maps=on.");
    return ShadowQuestion{scene_of(s->open), s->setup, s->view, every, {}};
}

} // namespace

int audit_shadows(const Common& c, int every) {
    auto q = question_of(c, every);
    if (!q) return complain(q.error(), badInput);
    WorkerClient worker(worker_options(c));
    auto report = mirolux::audit_shadows(worker, *q, 0.1, telling());
    if (!report) return complain(report.error(), deviceFailed);
    std::string text =
        fmt::format("{:28} {:>9} {:>10}{:>10}{:>11}{:>10}\n", "light", "pairs", "missed", "false", "penumbra", "edge");
    nlohmann::json lights = nlohmann::json::array();
    for (const ShadowReport::OfLight& l : report->lights) {
        lights.push_back(to_json(l.errors));
        lights.back()["name"] = l.name;
        text += line(l.name, l.errors);
    }
    text += line("all", report->all);
    if (!report->why.empty()) text += report->why + "\n";
    nlohmann::json json = to_json(report->all);
    json["schema"] = "mirolux.auditShadows";
    json["version"] = 1;
    json["lights"] = lights;
    json["unmapped"] = report->unmapped;
    json["size"] = {report->width, report->height};
    json["every"] = every;
    return deliver(c, text, json);
}

int bias(const Common& c, const BiasArguments& a) {
    auto q = question_of(c, a.every);
    if (!q) return complain(q.error(), badInput);
    if (!a.light.empty()) {
        const DrawList draws = build_draw_list(q->scene, q->setup, q->view);
        for (const ShadowedLight& l : shadow_set(q->scene, q->setup, q->view, draws).lights)
            if (const Light& light = draws.lights[static_cast<std::size_t>(l.light)]; light.name == a.light)
                q->light = light.id;
        if (!q->light)
            return complain({"no light of this name has a shadow map in this view", a.light,
                             "audit shadows lists those that have one."},
                            badInput);
    }
    WorkerClient worker(worker_options(c));
    auto solved = find_bias(worker, *q, a.falsely, telling());
    if (!solved) return complain(solved.error(), solved.error().where == "shadow.casters" ? badInput : deviceFailed);
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

int spots(const Common& c, const SpotsArguments& a) {
    auto q = question_of(c, 1);
    if (!q) return complain(q.error(), badInput);
    for (const Light& l : build_draw_list(q->scene, q->setup, q->view).lights)
        if (l.name == a.light) q->light = l.id;
    if (!q->light)
        return complain({"no light of this name shines in this view", a.light, "info lists the lights."}, badInput);
    SpotQuestion asked{std::move(*q), {2, 3, 4}, a.rounds};
    if (a.count > 0) asked.counts = {a.count};
    WorkerClient worker(worker_options(c));
    auto trials = try_spots(worker, asked, telling());
    if (!trials) return complain(trials.error(), trials.error().where == a.light ? badInput : deviceFailed);
    std::string text = fmt::format("{:>5} {:>9} {:>9} {:>9} {:>12} {:>12} {:>10} {:>10}\n", "spots", "covered",
                                   "doubled", "maps", "map pass", "frame", "differ", "mean");
    nlohmann::json list = nlohmann::json::array();
    for (const SpotTrial& t : *trials) {
        const auto ratio = [](const Comparison& r) -> nlohmann::json {
            return {{"ratio", r.ratio}, {"low", r.low}, {"high", r.high}, {"verdict", word(r.verdict)}};
        };
        nlohmann::json places = nlohmann::json::array();
        for (const Light& s : t.spots)
            places.push_back({{"name", s.name},
                              {"position", {s.position.x, s.position.y, s.position.z}},
                              {"direction", {s.direction.x, s.direction.y, s.direction.z}},
                              {"innerConeAngle", s.innerConeAngle},
                              {"outerConeAngle", s.outerConeAngle}});
        list.push_back({{"count", t.count},
                        {"covered", t.cover.covered},
                        {"doubled", t.cover.doubled},
                        {"mapsBefore", t.mapsBefore},
                        {"mapsAfter", t.mapsAfter},
                        {"unmapped", t.unmapped},
                        {"casters", t.casters},
                        {"frame", ratio(t.times.frame)},
                        {"differ", t.picture.shareOver},
                        {"meanRelative", t.picture.meanRelative},
                        {"spots", places}});
        if (t.maps) list.back()["maps"] = ratio(t.maps->comparison);
        text += fmt::format("{:>5} {:>7.1f} % {:>7.1f} % {:>3} to {:<2} {:>11.3f}x {:>11.3f}x {:>8.2f} % {:>8.2f} %\n",
                            t.count, 100 * t.cover.covered, 100 * t.cover.doubled, t.mapsBefore, t.mapsAfter,
                            t.maps ? t.maps->comparison.ratio : 1.0, t.times.frame.ratio, 100 * t.picture.shareOver,
                            100 * t.picture.meanRelative);
    }
    return deliver(
        c, text,
        {{"schema", "mirolux.spots"}, {"version", 1}, {"light", a.light}, {"rounds", a.rounds}, {"trials", list}});
}

} // namespace mirolux::cli
