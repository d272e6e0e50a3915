#include "core/sky/sky_model.h"
#include "core/ambient/probe_capture.h"
#include "core/base/parallel.h"
#include "core/base/recent.h"
#include "core/light/luminance.h"
#include "core/motion/scene_at.h"
#include "core/sky/panorama.h"
#include "core/sky/picture_sun.h"
#include "core/sky/sky.h"
#include <algorithm>
#include <cmath>
#include <functional>
#include <glm/gtc/constants.hpp>

namespace mirolux {

Atmosphere atmosphere_of(const Setup& setup) {
    const std::string& preset = setup.choice("sky.preset");
    Atmosphere air = atmosphere_preset(preset);
    if (preset == "own") {
        const double micro = 1e-6;
        air.rayleigh = glm::dvec3(setup.color("sky.rayleigh")) * micro;
        air.rayleighHeight = setup.number("sky.rayleighHeight");
        air.mieScattering = glm::dvec3(setup.color("sky.mieScattering")) * micro;
        air.mieAbsorption = glm::dvec3(setup.color("sky.mieAbsorption")) * micro;
        air.mieHeight = setup.number("sky.mieHeight");
        air.mieAnisotropy = setup.number("sky.mieAnisotropy");
        air.ozone = glm::dvec3(setup.color("sky.ozone")) * micro;
    }
    air.groundAlbedo = setup.number("sky.groundAlbedo");
    return air;
}

static PlaceAndTime place_and_time(const Setup& setup) {
    return {setup.number("sun.latitude"), setup.number("sun.longitude"), setup.whole("sun.year"),
            setup.whole("sun.month"),     setup.whole("sun.day"),        setup.number("sun.hour"),
            setup.number("sun.zone")};
}

/// What the picture of `<family>.file` gives, turned and as strong as that family says.
static SkySettings pictured_sky(const Scene& scene, const Setup& setup, const std::string& family, const char* what) {
    SkySettings s;
    s.colors = scene.sky;
    const std::filesystem::path file = picture_file(scene, setup, family + ".file");
    if (file.empty())
        s.trouble = std::string(what) + ": none is chosen (" + family + ".file).";
    else if (auto picture = sky_picture(file)) {
        s.kind = SkyKind::file;
        s.picture = std::move(*picture);
        s.turn = glm::radians(setup.number(family + ".turn"));
        s.strength = setup.number(family + ".strength");
        s.remark = s.picture->remark.empty() ? "" : std::string(what) + ": " + s.picture->remark;
    } else
        s.trouble = std::string(what) + ": " + to_text(picture.error());
    return s;
}

/// A capture as a picture of all directions. The two asked for last are kept.
static std::shared_ptr<const SkyPicture> picture_of(const std::shared_ptr<const ProbeLight>& light,
                                                    const std::string& file) {
    static Recent<std::shared_ptr<const ProbeLight>, SkyPicture> recent(2);
    return recent.of(light, [&](const auto& l) {
        SkyPicture out;
        out.image = panorama(4 * l->faces.width, [&](const glm::dvec3& d) { return radiance_of(l->faces, d); });
        out.path = file;
        for (std::size_t at = 0; at < out.image.data.size(); ++at)
            if (at % 4 != 3) out.brightest = std::max(out.brightest, out.image.data[at]);
        return out;
    });
}

/// The surroundings that a probe has captured: of `environment.probe`, else of the first one.
static SkySettings captured_sky(const Scene& scene, const Setup& setup) {
    SkySettings s;
    s.colors = scene.sky;
    const std::string& name = setup.choice("environment.probe");
    const auto probe = std::find_if(scene.probes.begin(), scene.probes.end(),
                                    [&](const Probe& p) { return name.empty() || p.name == name; });
    if (probe == scene.probes.end())
        s.trouble = name.empty() ? "The surroundings are a probe's, but the scene has none: place one."
                                 : "The surroundings are those of the probe '" + name + "', which is not there.";
    else if (probe->file.empty())
        s.trouble = "The surroundings are those of the probe '" + probe->name + "', which is not captured yet.";
    else if (const auto light = read_probe(probe->file, std::stoi(setup.choice("probe.size")))) {
        s.kind = SkyKind::file;
        s.picture = picture_of(*light, probe->file);
        s.turn = glm::radians(setup.number("environment.turn"));
        s.strength = setup.number("environment.strength");
        s.remark = (*light)->remark;
    } else
        s.trouble = "The surroundings: " + to_text(light.error());
    return s;
}

/// The picture of the surroundings as it is.
static SkySettings whole_environment(const Scene& scene, const Setup& setup) {
    return setup.choice("environment.source") == "capture"
               ? captured_sky(scene, setup)
               : pictured_sky(scene, setup, "environment", "The picture of the surroundings");
}

bool takes_picture_sun(const Setup& setup) {
    return setup.choice("ambient.kind") == "environment" && setup.choice("environment.source") != "sky" &&
           setup.choice("environment.sun") == "taken";
}

SkySettings environment_picture(const Scene& scene, const Setup& setup) {
    SkySettings s = whole_environment(scene, setup);
    if (!takes_picture_sun(setup) || s.kind != SkyKind::file) return s;
    if (const auto& sun = *sun_of(s.picture))
        s.picture = sun->without;
    else
        s.remark += std::string(s.remark.empty() ? "" : " ") +
                    "The surroundings have no sun that stands out: none is taken out.";
    return s;
}

bool shows_environment(const Setup& setup) {
    return setup.choice("ambient.kind") == "environment" && setup.choice("environment.source") != "sky" &&
           setup.flag("environment.background");
}

SkySettings sky_settings(const Scene& scene, const Setup& setup, const View& view) {
    SkySettings s;
    if (shows_environment(setup)) return whole_environment(scene, setup); // with its sun
    const std::string& kind = setup.choice("sky.kind");
    s.kind = kind == "atmosphere" ? SkyKind::atmosphere : kind == "fitted" ? SkyKind::fitted : SkyKind::colors;
    s.colors = scene.sky;
    if (kind == "file") return pictured_sky(scene, setup, "sky", "The picture of the sky");
    s.air = atmosphere_of(setup);
    s.turbidity = setup.number("sky.turbidity");
    s.once = !setup.flag("sky.multiple");
    const double degree = glm::pi<double>() / 180;
    SkyPlace sun{setup.number("sun.elevation"), setup.number("sun.azimuth")},
        moon{setup.number("moon.elevation"), setup.number("moon.azimuth")};
    if (setup.choice("sun.by") == "date") {
        const PlaceAndTime when = place_and_time(setup);
        sun = sun_at(when);
        moon = moon_at(when);
    }
    s.sun = {direction_of(sun), setup.number("sun.size") * degree, setup.number("sun.illuminance")};
    s.moon = {direction_of(moon), setup.number("moon.size") * degree, setup.number("moon.illuminance")};
    s.moon.illuminance *= moon_phase_light(moon_phase_angle(s.moon.direction, s.sun.direction));
    s.stars = setup.flag("night.stars");
    s.field.seed = static_cast<std::uint32_t>(setup.whole("night.seed"));
    s.field.faintest = setup.number("night.faintest");
    s.airglow = setup.number("night.airglow");
    s.eye = std::max(0.5, double(view.camera.eye.y) + setup.number("sky.altitude"));
    return s;
}

glm::dvec3 light_at_eye(const SkySettings& sky, const SkyBody& body) {
    return transmittance_of_disc(sky.air, sky.eye, body.direction.y, body.angle) * body.illuminance;
}

const SkyBody& key_body(const SkySettings& sky) {
    return luminance(light_at_eye(sky, sky.moon)) > luminance(light_at_eye(sky, sky.sun)) ? sky.moon : sky.sun;
}

int sky_light(const std::vector<Light>& lights, const Setup& setup) {
    const std::string& kind = setup.choice("sky.kind");
    if (!takes_picture_sun(setup) && (kind == "colours" || kind == "file" || shows_environment(setup))) return -1;
    const std::string& name = setup.choice("sun.light");
    for (std::size_t i = 0; i < lights.size(); ++i)
        if (lights[i].type == LightType::directional && (name.empty() || lights[i].name == name))
            return static_cast<int>(i);
    return -1;
}

std::vector<Light> lights_of(const Scene& scene, const Setup& setup, const View& view) {
    std::vector<Light> lights = lights_at(scene, view.seconds);
    const int driven = sky_light(lights, setup);
    if (driven < 0) return lights;
    if (takes_picture_sun(setup)) {
        const SkySettings around = whole_environment(scene, setup);
        if (around.kind != SkyKind::file) return lights;
        const auto sun = sun_of(around.picture);
        if (!*sun) return lights;
        const glm::dvec3 lux = (*sun)->illuminance * around.strength;
        const double most = std::max({lux.x, lux.y, lux.z, 1e-30});
        Light& l = lights[static_cast<std::size_t>(driven)];
        l.direction = glm::vec3(-turned((*sun)->direction, around.turn));
        l.kelvin = 0;
        l.color = glm::vec3(lux / most);
        l.intensity = static_cast<float>(most);
        l.sourceSize = static_cast<float>((*sun)->angle);
        return lights;
    }
    const SkySettings sky = sky_settings(scene, setup, view);
    const SkyBody& body = key_body(sky);
    const glm::dvec3 lux = light_at_eye(sky, body);
    const double most = std::max({lux.x, lux.y, lux.z});
    Light& l = lights[static_cast<std::size_t>(driven)];
    l.direction = glm::vec3(-body.direction);
    l.kelvin = 0;
    l.color = most > 0 ? glm::vec3(lux / most) : glm::vec3(1.0f);
    l.intensity = static_cast<float>(most);
    l.sourceSize = static_cast<float>(body.angle);
    return lights;
}

AirBefore air_before(const SkySettings& sky, const SkyTables& tables, const glm::dvec3& direction, double metres,
                     int steps) {
    AirBefore out;
    for (const auto& [body, lux] : {std::pair(&sky.sun, sky.sun.illuminance), {&sky.moon, sky.moonlight()}})
        out.added +=
            tables.inscattered(sky.eye, direction, body->direction, body->angle, metres, steps, sky.once, out.through) *
            lux;
    return out;
}

double pixel_angle(const View& view) {
    return 2 * std::tan(0.5 * view.camera.fovY) / view.height;
}

SkyModel::SkyModel(const SkySettings& settings) : settings_(settings) {
    if (settings.has_sun()) tables_ = sky_tables(settings.air);
    if (settings.kind == SkyKind::fitted)
        fitted_ = fitted_sky(settings.turbidity, settings.sun.direction.y, settings.sun.illuminance);
    integrate();
    // Convolved with the cosine, over pi: 1, 2/3 and 1/4.
    for (std::size_t i = 1; i < 9; ++i)
        harmonics_[i] *= i < 4 ? 2.0 / 3.0 : 0.25;
}

glm::dvec3 SkyModel::transmittance(double sine) const {
    return tables_->transmittance(settings_.eye, sine);
}

glm::dvec3 SkyModel::radiance(const glm::dvec3& d) const {
    return radiance(d, SkyTableSizes::marchSteps);
}

glm::dvec3 SkyModel::radiance(const glm::dvec3& d, int steps) const {
    const SkySettings& s = settings_;
    if (s.kind == SkyKind::colors) return sky_radiance(s.colors, d);
    if (s.kind == SkyKind::file) {
        return s.picture->radiance(turned(d, -s.turn)) * s.strength;
    }
    glm::dvec3 sum(0.0);
    if (s.kind == SkyKind::fitted)
        sum = fitted_radiance(fitted_, d.y, glm::dot(d, s.sun.direction));
    else
        for (const auto& [body, lux] : {std::pair(&s.sun, s.sun.illuminance), {&s.moon, s.moonlight()}})
            if (lux > 0) sum += tables_->radiance(s.eye, d, body->direction, body->angle, steps, s.once) * lux;
    return sum + (d.y > 0 ? s.airglow : 0.0);
}

/// The sun darkens toward its edge as mu^a, mu the cosine at its surface (D. Hestroffer and C. Magnan, Wavelength
/// dependency of the solar limb darkening, 1998); the moon shows the part that the sun lights, evenly bright.
glm::dvec3 SkyModel::disc(const SkyBody& body, const glm::dvec3& d, double pixelAngle) const {
    const double half = 0.5 * body.angle, off = 2 * std::asin(std::min(0.5 * glm::length(d - body.direction), 1.0));
    const double covers = std::clamp((half - off) / pixelAngle + 0.5, 0.0, 1.0);
    if (covers <= 0 || half <= 0) return glm::dvec3(0.0);
    const double solid = 2 * glm::pi<double>() * (1 - std::cos(half)), x = std::min(off / half, 1.0);
    const glm::dvec3 even = transmittance(d.y) * (body.illuminance / solid * covers);
    if (&body == &settings_.sun) {
        const glm::dvec3 a(0.397, 0.503, 0.652);
        return even * (0.5 * a + 1.0) * glm::pow(glm::dvec3(std::max(1 - x * x, 1e-4)), 0.5 * a);
    }
    const glm::dvec3 toSun = settings_.sun.direction;
    const double lit = 0.5 * (1 + std::cos(moon_phase_angle(body.direction, toSun)));
    const glm::dvec3 side = d - body.direction * glm::dot(d, body.direction); // on the disc, outward
    const double length = glm::length(side);
    const glm::dvec3 surface = (length > 0 ? side / length : side) * x - body.direction * std::sqrt(1 - x * x);
    const double day = std::clamp(glm::dot(surface, toSun) * 12 + 0.5, 0.0, 1.0);
    return even * (day / std::max(lit, 0.01));
}

glm::dvec3 SkyModel::seen(const glm::dvec3& d, double pixelAngle) const {
    const SkySettings& s = settings_;
    glm::dvec3 sum = radiance(d);
    if (!s.has_sun()) return sum;
    const glm::dvec3 sun = disc(s.sun, d, pixelAngle), moon = disc(s.moon, d, pixelAngle);
    const double moonOff = glm::length(d - s.moon.direction);
    sum += sun + moon;
    if (s.stars && moonOff > 0.5 * s.moon.angle) sum += star_radiance(s.field, d, pixelAngle) * transmittance(d.y);
    return sum;
}

/// Real harmonics of order 2 in the order of (l, m).
static std::array<double, 9> harmonics_of(const glm::dvec3& n) {
    return {0.282095,
            0.488603 * n.y,
            0.488603 * n.z,
            0.488603 * n.x,
            1.092548 * n.x * n.y,
            1.092548 * n.y * n.z,
            0.315392 * (3 * n.z * n.z - 1),
            1.092548 * n.x * n.z,
            0.546274 * (n.x * n.x - n.y * n.y)};
}

glm::dvec3 harmonic_radiance(const std::array<glm::dvec3, 9>& c, const glm::dvec3& normal) {
    const std::array<double, 9> y = harmonics_of(normal);
    glm::dvec3 sum(0.0);
    for (std::size_t i = 0; i < 9; ++i)
        sum += c[i] * y[i];
    return sum;
}

glm::dvec3 turned(const glm::dvec3& d, double radians) {
    const double c = std::cos(radians), t = std::sin(radians);
    return {d.x * c - d.z * t, d.y, d.z * c + d.x * t};
}

/// The harmonics of light that is turned: those of order 2 are a symmetric form of the direction.
static std::array<glm::dvec3, 9> turned_harmonics(const std::array<glm::dvec3, 9>& c, double radians) {
    std::array<glm::dvec3, 9> out = c;
    for (int channel = 0; channel < 3; ++channel) {
        const auto of = [&](std::size_t i) { return c[i][channel]; };
        const glm::dvec3 first = turned({of(3), of(1), of(2)}, radians);
        out[1][channel] = first.y;
        out[2][channel] = first.z;
        out[3][channel] = first.x;
        const double xy = 0.5 * 1.092548 * of(4), yz = 0.5 * 1.092548 * of(5), xz = 0.5 * 1.092548 * of(7),
                     along = 0.315392 * of(6), side = 0.546274 * of(8);
        const glm::dmat3 form(side - along, xy, xz, xy, -side - along, yz, xz, yz, 2 * along);
        const glm::dmat3 turn(turned({1, 0, 0}, radians), turned({0, 1, 0}, radians), turned({0, 0, 1}, radians));
        const glm::dmat3 f = turn * form * glm::transpose(turn);
        out[4][channel] = 2 * f[0][1] / 1.092548;
        out[5][channel] = 2 * f[1][2] / 1.092548;
        out[7][channel] = 2 * f[0][2] / 1.092548;
        out[6][channel] = f[2][2] / (2 * 0.315392);
        out[8][channel] = (f[0][0] - f[1][1]) / (2 * 0.546274);
    }
    return out;
}

void LightSums::enter(const glm::dvec3& d, const glm::dvec3& light, LightPart& part) {
    const std::array<double, 9> y = harmonics_of(d);
    for (std::size_t i = 0; i < 9; ++i)
        harmonics[i] += light * y[i];
    if (d.y > 0) irradiance += light * d.y;
    part.red += light.r * d;
    part.green += light.g * d;
    part.blue += light.b * d;
    part.light += luminance(light);
}

void LightPart::measure() {
    const double together = glm::length(0.2126 * red + 0.7152 * green + 0.0722 * blue);
    spread = light > 0 ? 2 * std::sqrt(std::max(0.0, 1 - together / light)) : 0.0;
}

glm::dvec3 LightPart::toward(const glm::dvec3& n) const {
    glm::dvec3 out(0.0);
    const glm::dvec3* channels[] = {&red, &green, &blue};
    for (int c = 0; c < 3; ++c) {
        const double v = glm::dot(*channels[c], n), edge = spread * glm::length(*channels[c]);
        out[c] = v >= edge ? v : v <= -edge ? 0.0 : (v + edge) * (v + edge) / (4 * edge);
    }
    return out;
}

/// Rows lie closer toward the horizon, where the sky changes fastest, each with the solid angle that it stands for.
static LightSums sums_of(const std::function<glm::dvec3(const glm::dvec3&)>& radiance) {
    LightSums out;
    const int rows = 12, columns = 20;
    for (int row = -rows; row < rows; ++row) {
        const double a = double(std::abs(row + 0.5) - 0.5) / rows, b = double(std::abs(row + 0.5) + 0.5) / rows,
                     low = a * a, high = b * b, // of the elevation's sine, to either side
            sine = std::copysign(0.5 * (low + high), row + 0.5);
        const double solid = (high - low) * 2 * glm::pi<double>() / columns, ring = std::sqrt(1 - sine * sine);
        for (int column = 0; column < columns; ++column) {
            const double turn = 2 * glm::pi<double>() * (column + 0.5 * (row & 1)) / columns;
            const glm::dvec3 d(ring * std::cos(turn), sine, ring * std::sin(turn));
            out.enter(d, radiance(d) * solid, out.parts.emplace_back());
            out.parts.back().spread = 0.5 * std::sqrt(solid);
        }
    }
    return out;
}

static LightSums sums_of(const FloatImage& image) {
    const int rows = std::min(64, image.height), columns = 2 * rows; // of parts
    std::vector<LightSums> strips(static_cast<std::size_t>(rows));
    parallel_for(0, rows, [&](int strip) {
        LightSums& sums = strips[static_cast<std::size_t>(strip)];
        sums.parts.resize(static_cast<std::size_t>(columns));
        for (int y = strip * image.height / rows; y < (strip + 1) * image.height / rows; ++y) {
            const double top = glm::pi<double>() * y / image.height,
                         bottom = glm::pi<double>() * (y + 1) / image.height, middle = 0.5 * (top + bottom),
                         solid = (std::cos(top) - std::cos(bottom)) * 2 * glm::pi<double>() / image.width;
            for (int x = 0; x < image.width; ++x) {
                const double azimuth = 2 * glm::pi<double>() * ((x + 0.5) / image.width - 0.5);
                const float* p = image.pixel(x, y);
                sums.enter(
                    {std::sin(middle) * std::sin(azimuth), std::cos(middle), -std::sin(middle) * std::cos(azimuth)},
                    glm::dvec3(p[0], p[1], p[2]) * solid,
                    sums.parts[static_cast<std::size_t>(x * columns / image.width)]);
            }
        }
    });
    LightSums out;
    for (const LightSums& s : strips) {
        for (std::size_t i = 0; i < 9; ++i)
            out.harmonics[i] += s.harmonics[i];
        out.irradiance += s.irradiance;
        for (LightPart part : s.parts) {
            part.measure();
            out.parts.push_back(part);
        }
    }
    return out;
}

std::shared_ptr<const LightSums> light_sums(const std::shared_ptr<const SkyPicture>& picture) {
    static Recent<std::shared_ptr<const SkyPicture>, LightSums> recent(4);
    return recent.of(picture, [](const auto& p) { return sums_of(p->image); });
}

void SkyModel::integrate() {
    if (settings_.kind != SkyKind::file) {
        sums_ = std::make_shared<const LightSums>(sums_of([&](const glm::dvec3& d) { return radiance(d, 20); }));
        harmonics_ = sums_->harmonics;
        irradiance_ = sums_->irradiance;
        return;
    }
    sums_ = light_sums(settings_.picture);
    harmonics_ = turned_harmonics(sums_->harmonics, settings_.turn);
    for (glm::dvec3& h : harmonics_)
        h *= settings_.strength;
    irradiance_ = sums_->irradiance * settings_.strength;
}

std::vector<LightPart> SkyModel::parts() const {
    std::vector<LightPart> out = sums_->parts;
    if (settings_.kind == SkyKind::file)
        for (LightPart& p : out)
            for (glm::dvec3* channel : {&p.red, &p.green, &p.blue})
                *channel = turned(*channel, settings_.turn) * settings_.strength;
    return out;
}

std::shared_ptr<const SkyModel> sky_model(const SkySettings& settings) {
    static Recent<SkySettings, SkyModel> recent(8);
    return recent.of(settings, [](const SkySettings& s) { return SkyModel(s); });
}

} // namespace mirolux
