#include "core/sky/sky.h"
#include "core/finish/working_space.h"
#include "core/path/surface_pass.h"
#include "core/sky/sky_model.h"

namespace mirolux {

glm::dvec3 sky_radiance(const Sky& sky, const glm::dvec3& direction) {
    const double height = 1.0 - std::exp(-4.0 * std::max(direction.y, 0.0));
    return glm::mix(glm::dvec3(sky.horizon), glm::dvec3(sky.zenith), height);
}

std::vector<std::string> sky_defines(const Setup& setup, const FramePlan& plan) {
    const std::string& kind = setup.choice("sky.kind");
    const bool picture = plan.parameters.contains("skyTurn"), // it could be read
        pictured = picture || kind == "file" || shows_environment(setup);
    std::vector<std::string> out = {std::string("SKY_KIND ") + (picture                ? "3"
                                                                : pictured             ? "0"
                                                                : kind == "atmosphere" ? "2"
                                                                : kind == "fitted"     ? "1"
                                                                                       : "0")};
    if (kind == "atmosphere" && !pictured && !plan.resource("sky view")) out.push_back("SKY_MARCH");
    if (!setup.flag("sky.multiple")) out.push_back("SKY_ONCE");
    if (sums_coded(setup)) out.push_back("SUMS_CODED");
    if (const auto glow = plan.parameters.find("skyGlow"); glow == plan.parameters.end() || glow->second.x == 0)
        out.push_back("SKY_SUN_ALONE"); // a branch would not spare what is not needed
    if (const PlannedResource* view = plan.resource("sky view"))
        out.push_back("VIEW_SIZE ivec2(" + std::to_string(view->width) + ", " + std::to_string(view->height) + ")");
    return out;
}

namespace technique {

static void set_fit(const SkySettings& s, PlanBuilder& b) {
    const FittedSky fit = fitted_sky(s.turbidity, s.sun.direction.y, s.sun.illuminance);
    const char* const names[] = {"skyFitA", "skyFitB", "skyFitC", "skyFitD", "skyFitE"};
    for (std::size_t i = 0; i < 5; ++i)
        b.set(names[i], glm::vec4(glm::vec3(fit.perez[i]), 0));
    b.set("skyFitZenith", glm::vec4(glm::vec3(fit.zenith), static_cast<float>(fit.strength)));
}

static void plan_sky(const FrameInputs& in, PlanBuilder& b) {
    const SkySettings s = sky_settings(in.scene, in.setup, in.view);
    std::vector<std::string> reads = {"depth"};
    for (const std::string& text : {s.trouble, s.remark})
        if (!text.empty()) b.note(text);
    if (s.kind == SkyKind::file)
        b.set("skyTurn", {static_cast<float>(s.turn), static_cast<float>(s.strength), 0, 0});
    else if (s.kind == SkyKind::colors) {
        b.set("skyHorizon", glm::vec4(in.scene.sky.horizon, 0));
        b.set("skyZenith", glm::vec4(in.scene.sky.zenith, 0));
    } else {
        b.set("skyNight", {static_cast<float>(s.airglow), s.stars ? static_cast<float>(s.field.faintest) : -100.0f,
                           static_cast<float>(s.field.seed), static_cast<float>(pixel_angle(in.view))});
        reads.push_back("optical depths");
        if (s.kind == SkyKind::fitted) set_fit(s, b);
        if (sky_light(in.scene.lights, in.setup) < 0)
            b.note(in.setup.choice("sun.light").empty()
                       ? "The scene has no directional light that the sky's sun or moon could light it with."
                       : "No directional light is named " + in.setup.choice("sun.light") +
                             ": the sky's sun and moon light nothing.");
    }
    if (s.kind == SkyKind::atmosphere && b.has("sky view"))
        reads.push_back("sky view");
    else if (s.kind == SkyKind::atmosphere)
        reads.insert(reads.end(), {"multiple scattering", "ground light"});
    b.pass({.name = "sky",
            .family = "sky",
            .what = "Fills what no surface covers.",
            .reads = reads,
            .writes = {"scene"},
            .settings = {"sky.kind", "sky.look", "sky.file", "sky.turn", "sky.strength", "sun.light"},
            .expected = screen_work(),
            .called = {Slot::air}});
}

static void price_sky(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &sky()) return;
    const auto fragments = static_cast<double>(w.at("fragments"));
    t["sky"] = fragments;
    t["hidden"] = std::max(0.0, plan.pixels() - fragments);
    t[write_term(plan)] = fragments * scene_bytes(plan);
    if (plan.parameters.contains("skyTurn"))
        t["filteredRead"] = fragments;
    else if (const std::string& kind = plan.setup.choice("sky.kind"); kind == "fitted" || kind == "atmosphere")
        t["skyLook"] = fragments;
}

namespace {

/// Kinds of sky that have a sun.
std::vector<std::string> lit() {
    return {"fitted", "atmosphere"};
}

std::vector<Setting> sun_settings() {
    const auto of_sun = [](Setting s) { return std::move(s).only_when("sky.kind", lit()); };
    const auto by = [&](const char* how, Setting s) { return of_sun(std::move(s)).only_when("sun.by", {how}); };
    return {
        of_sun(text_setting("sun.light", "Sun's light", "Air", "",
                            "Name of the directional light that shines as the sun, or as the moon where that is "
                            "brighter; empty: the first directional one.")),
        of_sun(choice_setting("sun.by", "Sun and moon by", "Air", {"angles", "date"}, "angles",
                              "angles: where you put them; date: where they stand at a place, a day and an hour.")),
        by("angles", number_setting("sun.elevation", "Sun's elevation", "Air", 30, -90, 90, "\u00b0",
                                    "Height of the sun over the horizon; below it dusk, then night.")),
        by("angles", number_setting("sun.azimuth", "Sun's azimuth", "Air", 180, 0, 360, "\u00b0",
                                    "Where the sun stands: 0 north (-Z), 90 east (+X).")),
        by("date", number_setting("sun.latitude", "Latitude", "Air", 54.3, -90, 90, "\u00b0", "North positive.")),
        by("date", number_setting("sun.longitude", "Longitude", "Air", 8.6, -180, 180, "\u00b0", "East positive.")),
        by("date", whole_setting("sun.year", "Year", "Air", 2026, 1900, 2100, "", "Of the day.")),
        by("date", whole_setting("sun.month", "Month", "Air", 6, 1, 12, "", "Of the day.")),
        by("date", whole_setting("sun.day", "Day", "Air", 21, 1, 31, "", "Of the month.")),
        by("date", number_setting("sun.hour", "Hour", "Air", 12, 0, 24, "h", "By the place's clock.")),
        by("date", number_setting("sun.zone", "Clock ahead of UTC", "Air", 1, -12, 14, "h",
                                  "Hours that the place's clock is ahead of universal time.")),
        of_sun(number_setting("sun.illuminance", "Sun above the air", "Air", 128000, 0, 200000, "lx",
                              "What the sun gives before the air takes its share; the sky and the scene's light follow "
                              "it.")),
        of_sun(number_setting("sun.size", "Sun's size", "Air", 0.53, 0.05, 10, "\u00b0",
                              "Angle across; the larger, the softer its shadows.")
                   .on_ratio()),
        by("angles", number_setting("moon.elevation", "Moon's elevation", "Air", 50, -90, 90, "\u00b0",
                                    "Height of the moon over the horizon.")),
        by("angles", number_setting("moon.azimuth", "Moon's azimuth", "Air", 215, 0, 360, "\u00b0",
                                    "Where the moon stands: 0 north (-Z), 90 east (+X).")),
        of_sun(number_setting("moon.illuminance", "Full moon above the air", "Air", 0.26, 0, 10, "lx",
                              "What a full moon gives; how much of it is lit follows from where the sun stands.")),
        of_sun(number_setting("moon.size", "Moon's size", "Air", 0.52, 0.05, 10, "\u00b0", "Angle across.").on_ratio()),
    };
}

std::vector<Setting> picture_settings() {
    const auto of_file = [](Setting s) { return std::move(s).only_when("sky.kind", {"file"}); };
    return {
        of_file(text_setting("sky.file", "Picture", "Air", "",
                             "An equirectangular .hdr or .exr file, beside the scene's file if no folder is named. Its "
                             "middle is -Z. With the sky as surroundings it lights the scene as well.")),
        of_file(number_setting("sky.turn", "Turned", "Air", 0, -180, 180, "\u00b0",
                               "Turns the picture about the vertical: to the right as seen.")),
        of_file(number_setting("sky.strength", "Strength", "Air", 1, 0.0001, 100000, "cd/m\u00b2",
                               "Luminance of what the file calls 1.")
                    .on_ratio()),
    };
}

std::vector<Setting> night_settings() {
    const auto of_night = [](Setting s) { return std::move(s).only_when("sky.kind", lit()); };
    return {
        of_night(toggle_setting("night.stars", "Stars", "Air", true,
                                "A field of stars with the brightness of real ones: seen when the sky is dark.")),
        of_night(whole_setting("night.seed", "Stars' seed", "Air", 1, 1, 9999, "", "Another number, another field."))
            .only_when("night.stars", {"on"}),
        of_night(number_setting("night.faintest", "Faintest star", "Air", 6.5, -1, 9, "mag",
                                "Magnitude of the faintest stars: larger shows more."))
            .only_when("night.stars", {"on"}),
        of_night(number_setting("night.airglow", "Airglow", "Air", 0.0002, 0, 0.1, "cd/m2",
                                "Light of the night air itself, the same everywhere.")),
    };
}

std::vector<Setting> air_settings() {
    const auto of_air = [](Setting s) { return std::move(s).only_when("sky.kind", {"atmosphere"}); };
    const auto own = [](Setting s) {
        return std::move(s).only_when("sky.kind", lit()).only_when("sky.preset", {"own"});
    };
    std::vector<std::string> presets = atmosphere_presets();
    presets.push_back("own");
    const char* per = "1e-6/m";
    return {
        choice_setting("sky.preset", "Atmosphere", "Air", presets, "clear",
                       "clear: a fine day; haze: 30 km of sight; sea-mist: 4 km of sight in a low layer; own: your "
                       "coefficients.")
            .only_when("sky.kind", lit()),
        own(color_setting("sky.rayleigh", "Rayleigh scattering", "Air", {5.802f, 13.558f, 33.1f}, 1000, per,
                          "Of molecules, at the ground: blue skies, red dusks.")),
        own(number_setting("sky.rayleighHeight", "Rayleigh height", "Air", 8000, 100, 50000, "m",
                           "Metres in which the molecules fall to 1/e.")
                .on_ratio()),
        own(color_setting("sky.mieScattering", "Mie scattering", "Air", glm::vec3(3.996f), 10000, per,
                          "Of dust and drops, at the ground: the glow around the sun.")),
        own(color_setting("sky.mieAbsorption", "Mie absorption", "Air", glm::vec3(0.444f), 10000, per,
                          "What dust swallows.")),
        own(number_setting("sky.mieHeight", "Mie height", "Air", 1200, 20, 20000, "m",
                           "Metres in which dust and drops fall to 1/e.")
                .on_ratio()),
        own(number_setting("sky.mieAnisotropy", "Mie anisotropy", "Air", 0.8, -0.95, 0.95, "",
                           "How far forward drops scatter: 0 evenly, 0.95 almost straight on.")),
        own(color_setting("sky.ozone", "Ozone absorption", "Air", {0.650f, 1.881f, 0.085f}, 1000, per,
                          "In the middle of its layer at 25 km: the blue of dusk.")),
        number_setting("sky.groundAlbedo", "Ground albedo", "Air", 0.1, 0, 1, "",
                       "Share of light that the ground and sea beyond the scene give back to the air.")
            .only_when("sky.kind", lit()),
        number_setting(
            "sky.altitude", "Altitude", "Air", 0, -100, 500000, "m",
            "Height of the scene's floor over the ground; from 20 km on every pixel's ray is summed, without "
            "a table.")
            .only_when("sky.kind", lit()),
        of_air(toggle_setting("sky.multiple", "Multiple scattering", "Air", true,
                              "Light that the air scatters more than once; off: the sky is too dark, the dusk too "
                              "red.")),
        of_air(choice_setting("sky.look", "Sky from", "Air", {"table", "pixels"}, "table",
                              "table: the sky is summed for a table around the eye and looked up; pixels: summed for "
                              "every pixel, exact and dear.")),
        of_air(toggle_setting("sky.perspective", "Air before surfaces", "Air", true,
                              "The atmosphere before surfaces, too: what is far fades into the sky's colour.")),
        of_air(number_setting("sky.perspectiveFar", "Its far end", "Air", 10000, 100, 200000, "m",
                              "Distance to which the air before surfaces is summed: the nearer, the finer.")
                   .on_ratio())
            .only_when("sky.perspective", {"on"}),
        choice_setting(
            "sky.update", "Tables", "Air", {"changed", "always"}, "changed",
            "changed: the sky's tables are made anew when sun, air or the eye's height change; always: every "
            "frame, to see what they cost.")
            .only_when("sky.kind", lit()),
        number_setting("sky.turbidity", "Turbidity", "Air", 3, 2, 10, "", "Of the fitted sky: 2 clear to 10 hazy.")
            .only_when("sky.kind", {"fitted"}),
    };
}

} // namespace

const Technique& sky() {
    static const Technique technique{
        .name = "sky",
        .settings =
            [] {
                std::vector<Setting> all = {choice_setting(
                    "sky.kind", "Sky", "Air", {"colours", "fitted", "atmosphere", "file"}, "colours",
                    "colours: two, from horizon to zenith, the scene's own; fitted: daylight by a formula, cheap; "
                    "atmosphere: what the air does to sun and moon, from noon to night; file: a picture of all "
                    "directions.")};
                for (auto* more : {&picture_settings, &air_settings, &sun_settings, &night_settings})
                    for (Setting& s : (*more)())
                        all.push_back(std::move(s));
                return all;
            }(),
        .terms = {{"sky", "a pixel of sky", {}},
                  {"skyLook",
                   "a pixel of sky with sun, moon and stars",
                   {{"sky.kind", "atmosphere"}, {"sky.update", "always"}, {"sky.perspective", "on"}},
                   0.5}},
        .layers = {{.name = "sky",
                    .label = "Sky",
                    .help = "What the sky gives off itself, as it comes through the air.",
                    .view = LayerView::radiance,
                    .file = "sky/sky_layers.glsl",
                    .throughGlass = true,
                    .sky = SkyPart::own,
                    .addsUp = true}},
        .parameters = {"skyHorizon", "skyZenith", // cd/m2
                       "skyTurn",                 // of a picture: radians; cd/m2 of its 1
                       "skyNight",                // airglow, cd/m2; faintest magnitude; seed; a pixel's angle
                       "skyFitA", "skyFitB", "skyFitC", "skyFitD", "skyFitE", "skyFitZenith"},
        .multisamples = true,
        .plan = plan_sky,
        .price = price_sky,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
