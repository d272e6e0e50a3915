#include "cli/commands.h"
#include "core/account/ledger.h"
#include "core/account/occluders.h"
#include "core/account/pixel_account.h"
#include "core/ambient/reflection.h"
#include "core/base/text.h"
#include "core/finish/exposure.h"
#include "core/finish/render_scale.h"
#include "core/io/wire.h"
#include "core/light/luminance.h"
#include <fmt/format.h>

namespace mirolux::cli {

static Json colors(const glm::dvec3& c) {
    return {c.x, c.y, c.z};
}

static std::string triple(const glm::dvec3& c) {
    return number_text(c.x, 4) + ", " + number_text(c.y, 4) + ", " + number_text(c.z, 4);
}

/// What followed the surfaces; in words those stages that changed the value.
static Json stages_of(const PixelAccount& a, std::string& text) {
    Json out = Json::array();
    glm::vec3 before(0.0f);
    for (const PixelStage& s : a.stages) {
        const bool changed =
            out.empty() || glm::length(s.value - before) > 1e-4f * std::max(1e-3f, glm::length(before));
        out.push_back({{"name", s.name}, {"value", colors(glm::dvec3(s.value))}, {"changed", changed}});
        text += fmt::format("  {:24} {}\n", s.name, changed ? triple(glm::dvec3(s.value)) : "leaves it");
        before = s.value;
    }
    return out;
}

int pixel(const Common& c, int x, int y) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (x < 0 || y < 0 || x >= s->view.width || y >= s->view.height)
        return complain({"there is no such pixel", std::to_string(x) + ", " + std::to_string(y),
                         "The picture is " + std::to_string(s->view.width) + "x" + std::to_string(s->view.height) +
                             "; rows count from the top."},
                        badInput);
    WorkerClient worker(worker_options(c));
    const Scene scene = scene_of(s->open);
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.lightLists = true;
    o.probe = glm::ivec2(x, y);
    auto record = worker.render(scene, s->setup, s->view, o);
    if (!record) return complain(record.error(), deviceFailed);
    const Setup shown = exposed_as(s->setup, record->told);
    const View view = rendered_view(s->setup, s->view);
    PixelAccount a = pixel_account(scene, shown, view, build_draw_list(scene, s->setup, view), *record->probe,
                                   record->lightGrid, record->transparentGrid);
    if (!scene.is_flat() && s->setup.flag("shadow.maps")) name_occluders(a, scene, RayScene(scene));
    Json surfaces = Json::array();
    std::string text = "pixel " + std::to_string(x) + ", " + std::to_string(y) + ": " + a.reason + "\n";
    text += "  picture " + triple(a.picture) + (scene.is_flat() ? std::string() : std::string(" cd/m2")) +
            "; sum of parts " + triple(a.sum) + " (largest difference " + number_text(a.difference * 100, 2) + " %)\n";
    for (const SurfaceAccount& surface : a.surfaces) {
        Json lights = Json::array();
        text += "  " + surface.object + " (" + surface.material + (surface.blended ? ", blended" : "") + "), weight " +
                number_text(surface.weight, 3) + ": ambient " + triple(glm::dvec3(surface.sample.ambient)) +
                ", emission " + triple(glm::dvec3(surface.sample.emissive)) + "; " + std::to_string(surface.listed) +
                " lights taken up, " + std::to_string(surface.useless) + " of them useless here\n";
        if (surface.sample.answer != 0)
            text +=
                std::string("    its mirrored ray on the screen: ") +
                word(static_cast<ScreenAnswer>(surface.sample.answer)) +
                (surface.sample.answer == 1 ? ", which gives " + triple(glm::dvec3(surface.sample.reflected)) : "") +
                "\n";
        if (surface.sample.mapped)
            text +=
                "    of the light map " + triple(glm::dvec3(surface.sample.baked)) + "; no light of it is live here\n";
        for (const auto& [name, share] : surface.probes)
            text += "    the probe " + name + " gives " + number_text(100 * share, 3) + " % of its surroundings\n";
        if (surface.sample.screenOcclusion < 1 || surface.sample.bakedOcclusion < 1)
            text += "    occlusion leaves of the ambient light: the screen's " +
                    number_text(surface.sample.screenOcclusion, 3) + ", the material's " +
                    number_text(surface.sample.bakedOcclusion, 3) + "\n";
        if (surface.air.transmittance != glm::dvec3(1.0))
            text += "    the air lets " + triple(surface.air.transmittance) + " through and adds " +
                    triple(surface.air.scattered) + " cd/m2\n";
        for (const LightTerm& t : surface.lights) {
            Json factors = Json::object();
            for (const LightFactor& f : t.factors)
                factors[f.name] = colors(f.value);
            lights.push_back({{"id", t.light},
                              {"name", t.name},
                              {"standing", word(t.standing)},
                              {"listed", t.listed},
                              {"metres", t.metres},
                              {"distance", t.distance},
                              {"cone", t.cone},
                              {"facing", t.facing},
                              {"fade", t.fade},
                              {"factors", factors},
                              {"occluder", t.occluder},
                              {"intensity", colors(t.intensity)},
                              {"diffuse", colors(t.diffuse)},
                              {"specular", colors(t.specular)},
                              {"radiance", colors(t.radiance)}});
            if (t.through >= 0) lights.back().update({{"through", t.through}, {"passed", colors(t.passed)}});
            if (t.standing != LightStanding::gives && !t.listed && t.standing < LightStanding::dropped) continue;
            const bool units = scene.is_flat();
            text += fmt::format(
                "    {:<22} {:<22} {:8.2f} {}  distance {:.4g}{}  cone {:.3f}  facing {:.3f}  gives {}\n", t.name,
                word(t.standing), t.metres, units ? "units" : "m", t.distance, units ? "" : " /m2", t.cone, t.facing,
                t.standing == LightStanding::gives || t.standing >= LightStanding::dropped ? triple(t.radiance).c_str()
                                                                                           : "nothing");
            if (t.through >= 0)
                text += fmt::format("        through {:.4g} m of it: {} comes out\n", t.through, triple(t.passed));
            for (const LightFactor& f : t.factors)
                if (luminance(f.value) < 0.9995)
                    text += fmt::format("        {} {:.3f}{}\n", f.name, luminance(f.value),
                                        t.occluder.empty() ? "" : " by " + t.occluder);
        }
        Json shares = Json::array();
        for (const auto& [name, share] : surface.probes)
            shares.push_back({{"name", name}, {"share", share}});
        Json changes = Json::array();
        for (const ChangeTerm& t : surface.changes) {
            changes.push_back(
                {{"id", t.light}, {"name", t.name}, {"before", colors(t.before)}, {"after", colors(t.after)}});
            text += fmt::format("    {}{} makes {} of {}\n", t.name, t.light >= 0 ? " (cheap light)" : "",
                                triple(t.after), triple(t.before));
        }
        surfaces.push_back(
            {{"object", surface.object},
             {"material", surface.material},
             {"blended", surface.blended},
             {"unlit", surface.unlit},
             {"weight", surface.weight},
             {"transmittance", colors(surface.air.transmittance)},
             {"scattered", colors(surface.air.scattered)},
             {"position", to_array(surface.sample.position)},
             {"normal", to_array(surface.sample.normal)},
             {"baseColor", to_array(surface.sample.baseColor)},
             {"metallic", surface.sample.metallic},
             {"roughness", surface.sample.roughness},
             {"thickness", surface.sample.thickness},
             {"alpha", surface.sample.alpha},
             {"ambient", to_array(surface.sample.ambient)},
             {"mirrored", to_array(surface.sample.mirrored)},
             {"baked", to_array(surface.sample.baked)},
             {"mapped", surface.sample.mapped},
             {"reflected", to_array(surface.sample.reflected)},
             {"probes", shares},
             {"ofProbes", to_array(surface.sample.probes)},
             {"screenAnswer", surface.sample.answer == 0
                                  ? nlohmann::json()
                                  : nlohmann::json(word(static_cast<ScreenAnswer>(surface.sample.answer)))},
             {"screenOcclusion", surface.sample.screenOcclusion},
             {"bakedOcclusion", surface.sample.bakedOcclusion},
             {"emissive", to_array(surface.sample.emissive)},
             {"radiance", colors(surface.radiance)},
             {"listed", surface.listed},
             {"useless", surface.useless},
             {"lights", lights},
             {"cheapLights", changes}});
    }
    Json cell;
    if (a.cell) {
        const CellAccount& f = *a.cell;
        static const char* const faces[] = {"east", "west", "top", "bottom", "south", "north"};
        const auto place = [](const glm::ivec3& v) { return fmt::format("{}, {}, {}", v.x, v.y, v.z); };
        const auto array = [](const glm::ivec3& v) { return Json::array({v.x, v.y, v.z}); };
        cell = {{"cell", array(f.cell)},  {"before", array(f.before)},
                {"face", faces[f.face]},  {"material", f.material},
                {"prop", f.prop},         {"sky", colors(f.sky)},
                {"sun", colors(f.sun)},   {"lamps", colors(f.lamps)},
                {"glow", colors(f.glow)}, {"why", f.why}};
        text += fmt::format("  cell {} of {}{}, {} face; lit by the cell {}\n    sky {}  sun {}  lamps {}  glow {}\n",
                            place(f.cell), f.material, f.prop.empty() ? "" : " (" + f.prop + ")", faces[f.face],
                            place(f.before), triple(f.sky), triple(f.sun), triple(f.lamps), triple(f.glow));
        if (f.hits) {
            cell["hits"] = {{"toward", f.hits->x}, {"away", f.hits->y}};
            text += fmt::format("    rays met {} toward the sun, {} away from it\n", f.hits->x, f.hits->y);
        }
        if (f.levels) {
            cell["levels"] = {f.levels->x, f.levels->y, f.levels->z, f.levels->w};
            text += fmt::format("    levels {}, {}, {}, sun {}: {}\n", f.levels->x, f.levels->y, f.levels->z,
                                f.levels->w, f.why);
        }
        if (!f.way.empty()) {
            Json way = Json::array();
            text += "    its light came by";
            for (const glm::ivec3& v : f.way) {
                way.push_back(array(v));
                text += (way.size() > 1 ? " < " : " ") + place(v);
            }
            text += "\n";
            cell["way"] = way;
        }
    }
    Json airLights = Json::array();
    for (const AirTerm& t : a.airLights) {
        airLights.push_back({{"id", t.light}, {"name", t.name}, {"radiance", colors(t.radiance)}});
        if (airLights.size() <= 12) text += fmt::format("  the air shows {} of {}\n", triple(t.radiance), t.name);
    }
    Json beams = Json::array();
    for (const AirTerm& t : a.beams) {
        beams.push_back({{"id", t.light}, {"name", t.name}, {"radiance", colors(t.radiance)}});
        text += fmt::format("  beam of {}: {}\n", t.name, triple(t.radiance));
    }
    if (a.spread != glm::dvec3(0.0)) text += "  light spread beneath the surface: " + triple(a.spread) + "\n";
    if (a.shafts != glm::dvec3(0.0)) text += "  shafts: " + triple(a.shafts) + "\n";
    if (a.skyWeight > 0) text += "  sky, weight " + number_text(a.skyWeight, 3) + ": " + triple(a.sky) + "\n";
    const Json json = {{"schema", "mirolux.pixel"},
                       {"version", 1},
                       {"x", x},
                       {"y", y},
                       {"reason", a.reason},
                       {"picture", colors(a.picture)},
                       {"airLights", airLights},
                       {"beams", beams},
                       {"spread", colors(a.spread)},
                       {"shafts", colors(a.shafts)},
                       {"sum", colors(a.sum)},
                       {"difference", a.difference},
                       {"surfaces", surfaces},
                       {"sky", colors(a.sky)},
                       {"skyWeight", a.skyWeight},
                       {"cell", cell},
                       {"stages", stages_of(a, text)}};
    return deliver(c, text, json);
}

int ledger(const Common& c, const std::string& sort, int rounds, bool byObject) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    WorkerClient worker(worker_options(c));
    const Scene scene = scene_of(s->open);
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 1;
    if (auto warm = worker.render(scene, s->setup, s->view, o); !warm) return complain(warm.error(), deviceFailed);
    o.fencedSamples = rounds;
    o.floatLayers = ledger_layers(s->setup);
    o.ledger = true;
    auto record = worker.render(scene, s->setup, s->view, o);
    if (!record) return complain(record.error(), deviceFailed);
    const Ledger l = make_ledger(scene, *record);
    const LedgerOrder order = sort == "contribution" ? LedgerOrder::contribution
                              : sort == "ratio"      ? LedgerOrder::ratio
                              : sort == "name"       ? LedgerOrder::name
                                                     : LedgerOrder::cost;
    Json rows = Json::array();
    std::string line;
    std::string text = fmt::format(
        "{} light evaluations in {:.2f} ms of shading; lights give {:.1f} % of the picture's luminance\n{:<24} "
        "{:>12} {:>7} {:>9} {:>13} {:>7} {:>9} {:>12}\n",
        l.evaluations, l.shadingMs, l.lightShare * 100, "light", "evaluations", "cost", "ms", "contribution", "ratio",
        "maps, ms", "shadow taps");
    for (const std::size_t i : ordered(l, order)) {
        const LedgerRow& r = l.rows[i];
        rows.push_back({{"id", r.light},
                        {"name", r.name},
                        {"type", word(r.type)},
                        {"enabled", r.enabled},
                        {"inView", r.inView},
                        {"evaluations", r.evaluations},
                        {"costShare", r.costShare},
                        {"ms", r.ms},
                        {"contributionShare", r.contributionShare},
                        {"ratio", r.ratio},
                        {"shadowMs", r.shadowMs},
                        {"shadowTaps", r.shadowTaps},
                        {"airCells", r.airCells},
                        {"airCostShare", r.airCostShare},
                        {"airMs", r.airMs},
                        {"airContribution", r.airContribution}});
        if (!r.inView) continue;
        text += fmt::format("{:<24} {:12} {:6.2f}% {:9.3f} {:12.3f}% {:7.2f} {:9.3f} {:12}\n", r.name, r.evaluations,
                            r.costShare * 100, r.ms, r.contributionShare * 100, r.ratio, r.shadowMs, r.shadowTaps);
    }
    Json cheap = Json::array();
    for (const CheapRow& r : l.cheap) {
        cheap.push_back({{"id", r.light},
                         {"name", r.name},
                         {"shape", word(r.shape)},
                         {"enabled", r.enabled},
                         {"inView", r.inView},
                         {"fragments", r.fragments},
                         {"ms", r.ms},
                         {"contributionShare", r.contributionShare},
                         {"standsFor", r.standsFor},
                         {"standsForMs", r.standsForMs},
                         {"standsForShare", r.standsForShare}});
        if (!r.inView) continue;
        text += fmt::format("{:<24} {:>12} {:>7} {:9.3f} {:12.3f}%", r.name + " (cheap)", r.fragments, "", r.ms,
                            r.contributionShare * 100);
        if (!r.standsFor.empty())
            text += fmt::format("  for {}: {:.3f} ms, {:.3f} %", joined(r.standsFor), r.standsForMs,
                                r.standsForShare * 100);
        text += "\n";
    }
    Json ambient = Json::array();
    for (const AmbientRow& r : l.ambient) {
        ambient.push_back({{"source", r.source}, {"contributionShare", r.contributionShare}, {"ms", r.ms}});
        text += fmt::format("{:<24} {:>12} {:>7} {:9.3f} {:12.3f}%\n", (ambient.size() > 1 ? "  " : "") + r.source, "",
                            "", r.ms, r.contributionShare * 100);
    }
    Json objects = Json::array();
    std::string list;
    for (const std::size_t i : ordered(l.objects, ObjectOrder::evaluations)) {
        const ObjectRow& r = l.objects[i];
        objects.push_back({{"id", r.id},
                           {"name", r.name},
                           {"material", r.material},
                           {"triangles", r.triangles},
                           {"hidden", r.hidden},
                           {"inView", r.inView},
                           {"fragments", r.fragments},
                           {"evaluations", r.evaluations},
                           {"costShare", r.costShare}});
        if (!r.inView) continue;
        list += fmt::format("{:<32} {:10} {:12} {:12} {:6.2f}%\n", r.id, r.triangles, r.fragments, r.evaluations,
                            r.costShare * 100);
    }
    if (byObject) {
        line = fmt::format("{:<32} {:>10} {:>12} {:>12} {:>7}\n", "object", "triangles", "fragments", "evaluations",
                           "cost");
        text = text.substr(0, text.find('\n') + 1) + line + list;
    }
    return deliver(c, text,
                   {{"schema", "mirolux.ledger"},
                    {"version", 1},
                    {"evaluations", l.evaluations},
                    {"shadingMs", l.shadingMs},
                    {"lightShare", l.lightShare},
                    {"clock", record->clock},
                    {"lights", rows},
                    {"cheapLights", cheap},
                    {"ambient", ambient},
                    {"objects", objects}});
}

} // namespace mirolux::cli
