#include "cli/commands.h"
#include "core/air/end_of_sight.h"
#include "core/io/wire.h"
#include "core/light/luminance.h"
#include "core/sky/sky_model.h"
#include <fmt/format.h>

namespace mirolux::cli {

namespace {

Json json_of(const glm::dvec3& v) {
    return Json::array({v.x, v.y, v.z});
}

std::string three(const glm::dvec3& v, int digits) {
    return fmt::format("{:.{}f} / {:.{}f} / {:.{}f}", v.x, digits, v.y, digits, v.z, digits);
}

Json body_json(const SkySettings& sky, const SkyBody& body) {
    const SkyPlace place = place_of(body.direction);
    return {{"elevation", place.elevation},
            {"azimuth", place.azimuth},
            {"direction", json_of(body.direction)},
            {"illuminanceAboveAir", body.illuminance},
            {"illuminance", json_of(light_at_eye(sky, body))}};
}

std::string body_text(const char* name, const SkySettings& sky, const SkyBody& body) {
    const SkyPlace place = place_of(body.direction);
    return fmt::format("{:<5} {:7.2f} degrees high, azimuth {:6.2f}; above the air {:.4g} lx, at the eye {:.4g} lx\n",
                       name, place.elevation, place.azimuth, body.illuminance, luminance(light_at_eye(sky, body)));
}

} // namespace

int sky(const Common& c) {
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const Scene scene = scene_of(s->open);
    const SkySettings sky = sky_settings(scene, s->setup, s->view);
    const glm::dvec3 transmittance = transmittance_of_disc(sky.air, sky.eye, sky.sun.direction.y, sky.sun.angle),
                     sun = light_at_eye(sky, sky.sun), around = sky_model(sky)->irradiance();
    const int light = sky_light(scene.lights, s->setup);
    const std::string& kind = s->setup.choice("sky.kind");
    const std::string lit = light < 0 ? "" : scene.lights[static_cast<std::size_t>(light)].name;
    Json json = {{"schema", "mirolux.sky"},
                 {"version", 1},
                 {"kind", kind},
                 {"preset", s->setup.choice("sky.preset")},
                 {"eye", sky.eye},
                 {"transmittance", json_of(transmittance)},
                 {"sunIlluminance", json_of(sun)},
                 {"skyIrradiance", json_of(around)},
                 {"sun", body_json(sky, sky.sun)},
                 {"moon", body_json(sky, sky.moon)},
                 {"moonLit", 0.5 * (1 + std::cos(moon_phase_angle(sky.moon.direction, sky.sun.direction)))},
                 {"light", light < 0 ? Json() : Json(lit)}};
    const double sight = end_of_sight(medium(s->setup), scene.bounds(), s->view);
    json["endOfSight"] = std::isfinite(sight) ? Json(sight) : Json();
    std::string text = fmt::format("{} sky, eye {:.1f} m over the ground\n", kind, sky.eye);
    text += body_text("sun", sky, sky.sun) + body_text("moon", sky, sky.moon);
    text += fmt::format("of the sun's red, green and blue the air leaves {}: {} lx\n", three(transmittance, 3),
                        three(sun, 0));
    text += fmt::format("the sky gives level ground {} lx\n", three(around, luminance(around) > 100 ? 0 : 4));
    text += light >= 0
                ? fmt::format("the light \"{}\" shines as the {}\n", lit, &key_body(sky) == &sky.sun ? "sun" : "moon")
            : kind == "file"    ? (sky.trouble.empty() ? "a picture: " + sky.picture->path : sky.trouble) + "\n"
            : kind == "colours" ? std::string("under two colours no light of the scene follows the sun\n")
                                : std::string("no light of the scene shines as sun or moon\n");
    if (std::isfinite(sight))
        text +=
            fmt::format("in this fog less than 2 % of a surface's contrast is left at {:.0f} m: shadows and lamps may "
                        "end there\n",
                        sight);
    return deliver(c, text, json);
}

} // namespace mirolux::cli
