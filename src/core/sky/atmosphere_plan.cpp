#include "core/path/surface_pass.h"
#include "core/sky/sky_model.h"

namespace mirolux::technique {

static bool marches_pixels(const SkySettings& sky, const Setup& setup) {
    // From where the ground curves away a table around the eye is too coarse.
    return setup.choice("sky.look") == "pixels" || sky.eye > 20000;
}

static void set_air(const SkySettings& sky, const Setup& setup, PlanBuilder& b) {
    const Atmosphere& a = sky.air;
    const auto vec = [](const glm::dvec3& v, double w) { return glm::vec4(glm::vec3(v), static_cast<float>(w)); };
    b.set("skyRayleigh", vec(a.rayleigh, a.rayleighHeight));
    b.set("skyMie", vec(a.mieScattering, a.mieHeight));
    b.set("skyMieAbsorption", vec(a.mieAbsorption, a.mieAnisotropy));
    b.set("skyOzone", vec(a.ozone, a.groundAlbedo));
    b.set("skySun", vec(sky.sun.direction, sky.sun.angle));
    b.set("skyMoon", vec(sky.moon.direction, sky.moon.angle));
    const bool half = setup.choice("path.targetFormat") == "rgba16f";
    b.set("skyLight", {static_cast<float>(sky.sun.illuminance), static_cast<float>(sky.moon.illuminance),
                       half ? 65000.0f : 3e38f, static_cast<float>(sky.eye)});
    const glm::dvec3& key = key_body(sky).direction;
    b.set("skyGlow", {static_cast<float>(sky.moonlight()), 0, 0, 0});
    b.set("skyMore",
          {static_cast<float>(a.ozoneMiddle), static_cast<float>(a.ozoneHalfWidth),
           static_cast<float>(std::atan2(key.x, -key.z)), static_cast<float>(setup.number("sky.perspectiveFar"))});
}

static ResourceSpec table(const char* name, const char* sampler, int width, int height) {
    return {.name = name,
            .sampler = sampler,
            .format = Format::rgba32f,
            .width = width,
            .height = height,
            .life = Life::scene,
            .forBothEyes = true};
}

static void plan_atmosphere(const FrameInputs& in, PlanBuilder& b) {
    const SkySettings sky = sky_settings(in.scene, in.setup, in.view);
    if (!sky.has_sun()) return;
    using Size = SkyTableSizes;
    const bool air = sky.kind == SkyKind::atmosphere;
    set_air(sky, in.setup, b);
    b.resource(table("optical depths", "opticalDepths", Size::transmittanceWidth, Size::transmittanceHeight));
    PlannedPass tables{.name = "sky tables",
                       .family = "sky",
                       .what = "What the atmosphere does to light, whatever the sun's place.",
                       .writes = {"optical depths"},
                       .settings = {"sky.kind", "sky.preset", "sky.multiple", "sky.update"},
                       .expected = Work::drawing(air ? 3 : 1, air ? 3 : 1),
                       .forBothEyes = true};
    if (air) {
        b.resource(table("multiple scattering", "multipleScattering", Size::multiple, Size::multiple));
        b.resource(table("ground light", "groundLight", Size::ground, 1));
        tables.writes.insert(tables.writes.end(), {"multiple scattering", "ground light"});
    }
    b.pass(tables);
    if (!air) return;
    const std::vector<std::string> reads = {"optical depths", "multiple scattering", "ground light"};
    if (!marches_pixels(sky, in.setup)) {
        // A quick picture of few pixels has a coarser table.
        const int part = in.view.wholeWidth > 2 * in.view.width ? 2 : 1;
        b.resource(table("sky view", "skyView", Size::viewWidth / part, Size::viewHeight / part));
        b.pass({.name = "sky view",
                .family = "sky",
                .what = "Radiance of the sky around the eye.",
                .reads = reads,
                .writes = {"sky view"},
                .settings = {"sky.kind", "sky.look", "sky.update", "sun.elevation", "sun.azimuth"},
                .expected = screen_work(),
                .forBothEyes = true});
    }
    if (!in.setup.flag("sky.perspective")) return;
    for (const auto& [name, sampler] : {std::pair("air added", "airAdded"), std::pair("air passed", "airPassed")})
        b.resource({.name = name, .sampler = sampler, .format = Format::rgba32f, .width = 256, .height = 128});
    b.pass({.name = "air before surfaces",
            .family = "air",
            .what = "What the atmosphere adds and lets through before surfaces, by place and distance.",
            .reads = {"optical depths", "multiple scattering"},
            .writes = {"air added", "air passed"},
            .settings = {"sky.perspective", "sky.perspectiveFar"},
            .expected = {}});
    b.feed(Slot::air, "atmosphere/feed.glsl", "atmosphereAir", {"air added", "air passed"});
}

static void price_atmosphere(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&atmosphere(), pass)) t["airTable"] = static_cast<double>(w.at("airEvaluations"));
    if (pass.technique == &atmosphere() || pass.technique == &sky())
        t["skyStep"] = static_cast<double>(w.at("skySteps"));
}

static void air_of_atmosphere(const FrameInputs& in, const AirQuestion& q, AirShare& share) {
    if (q.sky || !in.setup.flag("sky.perspective")) return;
    const SkySettings sky = sky_settings(in.scene, in.setup, in.view);
    if (sky.kind != SkyKind::atmosphere) return;
    const glm::dvec3 way = q.point - glm::dvec3(in.view.camera.eye);
    const double metres = std::min(glm::length(way), in.setup.number("sky.perspectiveFar"));
    if (metres <= 0) return;
    const AirBefore air = air_before(sky, *sky_tables(sky.air), glm::normalize(way), metres, 64);
    share.add(air.through, air.added);
}

const Technique& atmosphere() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {
        {"sky.kind", "atmosphere"}, {"sky.update", "always"}, {"sky.perspective", "on"}};
    static const Technique technique{
        .name = "atmosphere",
        .counters = {{"skySteps", "Sky steps", "pieces of air that rays through the atmosphere were summed over"}},
        .terms = {{"skyStep", "a piece of air on a ray through the atmosphere", exercise, 0.4},
                  {"airTable", "a point's air toward the eye read from the atmosphere's table", exercise, 0.15}},
        .parameters =
            {"skyRayleigh",       // 1/m; metres
             "skyMie",            // 1/m; metres
             "skyMieAbsorption",  // 1/m; anisotropy
             "skyOzone",          // 1/m; albedo of the ground
             "skySun", "skyMoon", // toward it; radians across
             "skyLight",          // lux of sun and of moon above the air; most that the target holds; the eye's height
             "skyGlow",           // lux of the moon, as far as the air's own light has a part of it
             "skyMore"},          // ozone's middle and half width, m; azimuth of what shines; end of the air's table, m
        .mayFeed = {Slot::air},
        .plan = plan_atmosphere,
        .price = price_atmosphere,
        .air = air_of_atmosphere,
    };
    return technique;
}

} // namespace mirolux::technique
