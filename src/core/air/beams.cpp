#include "core/air/beams.h"
#include "core/air/air_volume.h"
#include "core/light/luminance.h"
#include "core/path/surface_pass.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

BeamLook beam_look(const Setup& setup) {
    BeamLook l;
    l.on = setup.choice("beams.kind") == "mesh";
    l.blended = setup.choice("beams.blend") == "blended";
    l.soft = setup.number("beams.soft");
    l.near = setup.number("beams.near");
    l.texture = setup.number("beams.texture");
    l.grain = setup.number("beams.grain");
    l.drift = setup.number("beams.drift");
    return l;
}

std::vector<Beam> beams_of(const FrameInputs& in) {
    std::vector<Beam> all;
    const Setup& s = in.setup;
    if (s.choice("beams.kind") != "mesh") return all;
    const auto halo = static_cast<float>(s.number("beams.halo"));
    const auto value = [&](const std::optional<float>& own, const char* key) {
        return own ? *own : static_cast<float>(s.number(key));
    };
    const glm::vec3 eye = in.view.camera.eye;
    const auto widest = static_cast<float>(glm::radians(s.number("beams.widest"))),
               longest = static_cast<float>(s.number("beams.longest"));
    for (std::size_t i = static_cast<std::size_t>(in.draws.directional); i < in.draws.lights.size(); ++i) {
        const Light& l = in.draws.lights[i];
        Beam b;
        b.light = static_cast<int>(i);
        b.halo = l.type == LightType::point || l.outerConeAngle > widest;
        b.strength = value(l.beam.strength, "beams.strength");
        if (!l.beam.on || b.strength <= 0 || (b.halo && halo <= 0)) continue;
        b.tip = l.position;
        b.axis = l.direction;
        b.length = l.beam.length ? *l.beam.length : b.halo ? halo : std::min(in.draws.reach[i], longest);
        if (!(b.length > 0)) continue;
        b.tangent = std::tan(std::min(l.outerConeAngle, widest));
        b.intensity = effective_color(l) * l.intensity;
        b.along = value(l.beam.along, "beams.along");
        b.across = value(l.beam.across, "beams.across");
        all.push_back(b);
    }
    const auto strength = [&](const Beam& b) {
        const glm::vec3 v = b.tip - eye;
        return luminance(glm::dvec3(b.intensity)) * b.strength / std::max(glm::dot(v, v), 1.0f);
    };
    std::stable_sort(all.begin(), all.end(), [&](const Beam& x, const Beam& y) { return strength(x) > strength(y); });
    if (const auto most = static_cast<std::size_t>(s.whole("beams.most")); all.size() > most) all.resize(most);
    std::stable_sort(all.begin(), all.end(), [&](const Beam& x, const Beam& y) {
        if (x.halo != y.halo) return y.halo;
        return glm::length(x.tip - eye) > glm::length(y.tip - eye);
    });
    return all;
}

/// One crossing of a cone's side, or of a halo's disc.
static BeamShare crossing(const Beam& b, const BeamLook& look, const glm::dvec3& point, double metres, double scene,
                          double profile, double seconds) {
    BeamShare out;
    double share = profile;
    if (b.halo)
        share *= std::clamp((scene - metres + b.length) / (2.0 * b.length), 0.0, 1.0);
    else
        share *= look.soft > 0 ? std::clamp((scene - metres) / look.soft, 0.0, 1.0) : scene > metres ? 1.0 : 0.0;
    if (look.near > 0) share *= std::clamp(metres / look.near, 0.0, 1.0);
    if (look.texture > 0) {
        const double n = air_noise((point - glm::dvec3(look.drift * seconds, 0, 0)) / look.grain);
        share *= glm::mix(1.0, std::clamp(4 * n - 1.5, 0.0, 1.0), look.texture);
    }
    out.added = glm::dvec3(b.intensity) * (share * b.strength / (4 * 3.14159265358979324));
    return out;
}

BeamShare beam_share(const Beam& b, const BeamLook& look, const glm::dvec3& eye, const glm::dvec3& d, double scene,
                     double seconds, const std::function<glm::dvec3(const glm::dvec3&)>& air) {
    BeamShare out;
    const glm::dvec3 w = eye - glm::dvec3(b.tip), axis(b.axis);
    const auto add = [&](BeamShare s, double thickness, double metres) {
        if (air) s.added *= air(eye + d * metres);
        const double alpha = look.blended ? 1 - std::exp(-thickness) : 0.0;
        out.added = out.added * (1 - alpha) + s.added;
        out.through *= 1 - alpha;
    };
    if (b.halo) {
        const double metres = -glm::dot(w, d), beside = glm::length(w + d * metres), inner = 0.03 * b.length;
        if (metres <= 0 || beside >= b.length) return out;
        const double end = 1 - beside / b.length, profile = 3.14159265358979324 / std::max(beside, inner) * end * end;
        const BeamShare s = crossing(b, look, eye + d * metres, metres, scene, profile, seconds);
        add(s, b.strength * b.length * end * end, metres);
        return out;
    }
    const double cosine2 = 1 / (1 + double(b.tangent) * b.tangent), da = glm::dot(d, axis), wa = glm::dot(w, axis),
                 qa = da * da - cosine2, qb = da * wa - cosine2 * glm::dot(d, w),
                 qc = wa * wa - cosine2 * glm::dot(w, w), rest = qb * qb - qa * qc;
    if (rest < 0 || std::abs(qa) < 1e-12) return out;
    double at[2] = {(-qb - std::sqrt(rest)) / qa, (-qb + std::sqrt(rest)) / qa};
    if (at[0] < at[1]) std::swap(at[0], at[1]); // farther side first
    for (const double t : at) {
        const double along = wa + da * t;
        if (t <= 0 || along <= 0 || along >= b.length) continue;
        const glm::dvec3 from = w + d * t, beside = glm::normalize(from - axis * along),
                         normal = glm::normalize(beside - axis * double(b.tangent));
        const double end = std::pow(1 - along / b.length, double(b.along)),
                     facing = std::pow(std::abs(glm::dot(normal, d)), double(b.across)),
                     near = std::max(along, 0.02 * b.length);
        add(crossing(b, look, eye + d * t, t, scene, b.tangent / near * end * facing, seconds),
            b.strength * b.tangent * along * end * facing, t);
    }
    return out;
}

namespace technique {

static void plan_beams(const FrameInputs& in, PlanBuilder& b) {
    const BeamLook look = beam_look(in.setup);
    if (!look.on) return;
    const std::vector<Beam> all = beams_of(in);
    if (all.empty()) return;
    const auto cones =
        static_cast<std::uint64_t>(std::count_if(all.begin(), all.end(), [](const Beam& beam) { return !beam.halo; }));
    b.set("beamLook", {look.soft, look.near, look.texture, 1 / look.grain});
    b.set("beamDrift", {look.drift * in.view.seconds, look.blended ? 1 : 0, 0, 0});
    std::vector<std::string> keys;
    for (const Setting& s : beams().settings)
        keys.push_back(s.key);
    b.pass(
        {.name = "beams",
         .family = "air",
         .what = "Draws a cone of mesh for each spot and a halo for each point, as if air showed their light.",
         .reads = {"depth"},
         .writes = {"scene"},
         .settings = keys,
         .expected = Work::drawing((cones > 0) + (cones < all.size()), cones * beam_sides + (all.size() - cones) * 2),
         .called = {Slot::air}});
}

static void price_beams(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &beams()) return;
    t["beamFragment"] = static_cast<double>(w.at("beamFragments"));
    t[blend_term(plan)] = static_cast<double>(w.at("beamFragments")) * scene_bytes(plan);
}

static void added_by_beams(const FrameInputs& in, const PixelRay& ray, std::vector<AddedLight>& out) {
    const BeamLook look = beam_look(in.setup);
    if (!look.on) return;
    const auto air = [&](const glm::dvec3& point) {
        AirShare share;
        for (const Technique* t : all_techniques())
            if (t->air) t->air(in, {point}, share);
        return share.transmittance;
    };
    for (const Beam& beam : beams_of(in)) {
        const BeamShare s = beam_share(beam, look, ray.origin, ray.direction, ray.metres, in.view.seconds, air);
        if (s.added != glm::dvec3(0.0) || s.through < 1)
            out.push_back({in.draws.lights[static_cast<std::size_t>(beam.light)].id, s.added, s.through});
    }
}

static std::vector<Setting> beam_settings() {
    const auto mesh = [](Setting s) { return std::move(s).only_when("beams.kind", {"mesh"}); };
    return {
        choice_setting("beams.kind", "Beams", "Air", {"none", "mesh"}, "none",
                       "mesh: a glowing cone for each spot and a halo for each point in place of lit air: next to "
                       "nothing to draw, right from outside, wrong from within and across each other."),
        mesh(choice_setting("beams.blend", "Beams join", "Air", {"additive", "blended"}, "additive",
                            "additive: light on light; blended: they also dim what lies behind, as haze does.")),
        mesh(number_setting("beams.strength", "Beam strength", "Air", 0.02, 0.0, 10.0, "1/m",
                            "As air that scatters so much of a lamp's light in a metre; a light's own beam may differ.")
                 .on_ratio()),
        mesh(number_setting("beams.along", "Falloff along", "Air", 1.0, 0.0, 8.0, "",
                            "Exponent of the fade to the far end: 0 ends at once, more fades sooner.")),
        mesh(number_setting("beams.across", "Falloff across", "Air", 1.0, 0.0, 16.0, "",
                            "Exponent of the fade to the sides: 1 as even air shows it, more keeps to the middle.")),
        mesh(number_setting("beams.soft", "Soft before surfaces", "Air", 1.0, 0.0, 20.0, "m",
                            "Metres over which a beam fades where a surface cuts it; 0 cuts it hard.")),
        mesh(number_setting("beams.near", "Soft before the eye", "Air", 1.5, 0.0, 20.0, "m",
                            "Metres from the eye over which it fades, so that its side does not flash by.")),
        mesh(number_setting("beams.texture", "Drifting texture", "Air", 0.0, 0.0, 1.0, "",
                            "How far drifting patches tear the beams; 0 is even and free.")),
        mesh(number_setting("beams.grain", "Patches", "Air", 2.0, 0.1, 50.0, "m", "Metres across a patch.").on_ratio()),
        mesh(number_setting("beams.drift", "Drift", "Air", 0.5, -20.0, 20.0, "m/s",
                            "How fast the patches move, along x.")),
        mesh(number_setting("beams.halo", "Halos", "Air", 1.5, 0.0, 50.0, "m",
                            "Radius of the halo around each point and each spot that is too wide; 0: none.")),
        mesh(number_setting("beams.widest", "Widest cone", "Air", 50.0, 1.0, 80.0, "degrees",
                            "Spots wider than this from their axis have a halo: a flat cone looks like none.")),
        mesh(number_setting("beams.longest", "Longest cone", "Air", 12.0, 0.1, 1000.0, "m",
                            "No cone is longer; what it costs goes with the pixels that it covers.")
                 .on_ratio()),
        mesh(whole_setting("beams.most", "Most beams", "Air", 24, 1, 1024, "",
                           "Beams of the lights that shine strongest where the eye is; the others have none.")
                 .on_ratio()),
    };
}

const Technique& beams() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {
        {"beams.kind", "mesh"}, {"beams.texture", "0.5"}, {"beams.halo", "4"}};
    static const Technique technique{
        .name = "beams",
        .settings = beam_settings(),
        .counters = {{"beamFragments", "Beam fragments", "fragments of beams and halos"}},
        .terms = {{"beamFragment", "a fragment of a beam", exercise, 0.3}},
        .parameters = {"beamLook",   // soft and near, m; texture; 1 over the metres of a patch
                       "beamDrift"}, // metres that patches have moved; 1: blended
        .plan = plan_beams,
        .price = price_beams,
        .added = added_by_beams,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
