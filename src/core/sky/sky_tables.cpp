#include "core/sky/sky_tables.h"
#include "core/base/recent.h"
#include <algorithm>
#include <cmath>
#include <glm/gtc/constants.hpp>
#include <tbb/parallel_for.h>

namespace mirolux {

namespace {

constexpr int sphere_rows = 8, sphere_columns = 8, multiple_steps = 24, table_steps = 80;
constexpr double fixed_sun_angle = 0.0093; // radians across, of tables that serve every sun

/// Even directions over the sphere: rows of equal height, turned against each other.
glm::dvec3 even_direction(int row, int column, int rows, int columns) {
    const double y = 1 - 2 * (row + 0.5) / rows, ring = std::sqrt(1 - y * y),
                 turn = 2 * glm::pi<double>() * (column + 0.5 * (row % 2)) / columns;
    return {ring * std::cos(turn), y, ring * std::sin(turn)};
}

/// Places of a height and an elevation in the table of transmittances, each from 0 to 1, and back.
glm::dvec2 texel_of(const Atmosphere& a, double height, double sine) {
    const double g = a.groundRadius, most = std::sqrt((a.topRadius - g) * (a.topRadius + g)),
                 rho = std::sqrt(height * (2 * g + height)), r = g + height, nearest = a.topRadius - r,
                 farthest = rho + most;
    const double above = std::max(
        0.0, -r * sine + std::sqrt(std::max(r * r * sine * sine + (a.topRadius - r) * (a.topRadius + r), 0.0)));
    return {std::clamp((above - nearest) / (farthest - nearest), 0.0, 1.0),
            std::pow(std::clamp(rho / most, 0.0, 1.0), 1 / 1.5)};
}

/// x: height, y: sine.
glm::dvec2 height_and_sine(const Atmosphere& a, double x, double y) {
    const double g = a.groundRadius, most = std::sqrt((a.topRadius - g) * (a.topRadius + g)),
                 rho = std::pow(y, 1.5) * most, height = rho * rho / (std::sqrt(rho * rho + g * g) + g), r = g + height,
                 nearest = a.topRadius - r, d = nearest + x * (rho + most - nearest);
    const double sine = d > 0 ? (most * most - rho * rho - d * d) / (2 * r * d) : 1.0;
    return {height, std::clamp(sine, -1.0, 1.0)};
}

double even_place(double height, const Atmosphere& a) {
    return std::sqrt(std::clamp(height / (a.topRadius - a.groundRadius), 0.0, 1.0));
}

/// Sines near the horizon lie closer, where light changes fastest.
double sun_place(double sine) {
    return 0.5 + 0.5 * std::copysign(std::sqrt(std::abs(std::clamp(sine, -1.0, 1.0))), sine);
}
double sun_sine(double place) {
    const double s = 2 * place - 1;
    return std::copysign(s * s, s);
}

} // namespace

glm::dvec3 ValueTable::at(double x, double y) const {
    const double u = std::clamp(x, 0.0, 1.0) * (width - 1), v = std::clamp(y, 0.0, 1.0) * (height - 1);
    const int i = std::min(static_cast<int>(u), std::max(width - 2, 0)),
              j = std::min(static_cast<int>(v), std::max(height - 2, 0));
    const auto value = [&](int a, int b) {
        return values[static_cast<std::size_t>(std::min(b, height - 1)) * static_cast<std::size_t>(width) +
                      static_cast<std::size_t>(std::min(a, width - 1))];
    };
    return glm::mix(glm::mix(value(i, j), value(i + 1, j), u - i),
                    glm::mix(value(i, j + 1), value(i + 1, j + 1), u - i), v - j);
}

static void fill(ValueTable& t, int width, int height, const auto& value) {
    t.width = width;
    t.height = height;
    t.values.resize(std::size_t(width) * static_cast<std::size_t>(height));
    tbb::parallel_for(0, width * height, [&](int n) {
        const int i = n % width, j = n / width;
        t.values[static_cast<std::size_t>(n)] =
            value(double(i) / std::max(width - 1, 1), double(j) / std::max(height - 1, 1));
    });
}

/// A ray in pieces that grow away from its start: each with its place, its height and its length.
static void march(const AirPath& path, double from, double end, int steps, const auto& piece) {
    double before = from;
    for (int i = 0; i < steps; ++i) {
        const double u = (i + 1.0) / steps, t = from + (end - from) * u * u * u, at = 0.5 * (before + t);
        piece(at, path.height_at(at), t - before);
        before = t;
    }
}

SkyTables::SkyTables(const Atmosphere& air) : air_(air) {
    fill(depth_, SkyTableSizes::transmittanceWidth, SkyTableSizes::transmittanceHeight, [&](double x, double y) {
        const glm::dvec2 at = height_and_sine(air_, x, y);
        return optical_depth_out(air_, at.x, std::max(at.y, horizon_sine(air_, at.x) + 1e-9), table_steps);
    });
    fill_multiple();
    fill_ground();
}

glm::dvec3 SkyTables::transmittance(double height, double sine) const {
    if (AirPath{air_, height, sine}.meets_ground()) return glm::dvec3(0.0);
    const glm::dvec2 at = texel_of(air_, height, sine);
    return glm::exp(-depth_.at(at.x, at.y));
}

glm::dvec3 SkyTables::sun_at(double height, double sine, double angle) const {
    const double share = over_horizon(air_, height, sine, angle);
    if (share <= 0) return glm::dvec3(0.0);
    const glm::dvec2 at = texel_of(air_, height, std::max(sine, horizon_sine(air_, height)));
    return glm::exp(-depth_.at(at.x, at.y)) * share;
}

/// For every height and sun: light that comes to a place after one scattering or one reflection, and the share of an
/// even radiance that scatters once more; the sum of the series is even light L / (1 - f).
void SkyTables::fill_multiple() {
    const double even = 1 / (4 * glm::pi<double>());
    fill(multiple_, SkyTableSizes::multiple, SkyTableSizes::multiple, [&](double x, double y) {
        const double sine = sun_sine(x), height = y * y * (air_.topRadius - air_.groundRadius);
        const glm::dvec3 toSun(std::sqrt(std::max(0.0, 1 - sine * sine)), sine, 0);
        glm::dvec3 second(0.0), again(0.0);
        for (int row = 0; row < sphere_rows; ++row)
            for (int column = 0; column < sphere_columns; ++column) {
                const glm::dvec3 d = even_direction(row, column, sphere_rows, sphere_columns);
                const AirPath path{air_, height, d.y};
                const double end = path.end(), cosine = glm::dot(d, toSun);
                glm::dvec3 through(1.0);
                march(path, 0, end, multiple_steps, [&](double at, double h, double dt) {
                    const Medium m = medium_at(air_, h);
                    const glm::dvec3 part = glm::exp(-m.extinction * dt),
                                     taken = through * (1.0 - part) * (m.rayleigh + m.mie) /
                                             glm::max(m.extinction, glm::dvec3(1e-30));
                    second += taken * even * sun_at(h, path.sine_at(at, toSun.y, cosine), fixed_sun_angle);
                    again += taken;
                    through *= part;
                });
                if (path.meets_ground()) {
                    const double there = path.sine_at(end, toSun.y, cosine);
                    second += through * sun_at(0, there, fixed_sun_angle) *
                              (std::max(there, 0.0) * air_.groundAlbedo / glm::pi<double>());
                    again += through * air_.groundAlbedo;
                }
            }
        const double directions = sphere_rows * sphere_columns;
        return second / directions / glm::max(1.0 - again / directions, glm::dvec3(1e-3));
    });
}

glm::dvec3 SkyTables::multiple(double height, double sunSine) const {
    return multiple_.at(sun_place(sunSine), even_place(height, air_));
}

/// Irradiance of level ground: directions of even solid angle over the upper half.
void SkyTables::fill_ground() {
    fill(ground_, SkyTableSizes::ground, 1, [&](double x, double) {
        const double sine = sun_sine(x);
        const glm::dvec3 toSun(std::sqrt(std::max(0.0, 1 - sine * sine)), sine, 0);
        glm::dvec3 sum(0.0);
        const int rows = 24;
        for (int row = 0; row < rows / 2; ++row)
            for (int column = 0; column < rows; ++column) {
                const glm::dvec3 d = even_direction(row, column, rows, rows);
                sum += radiance(0, d, toSun, fixed_sun_angle, multiple_steps, false) * d.y;
            }
        return sum * (2 * glm::pi<double>() / (rows / 2 * rows));
    });
}

glm::dvec3 SkyTables::ground(double sunSine) const {
    return ground_.at(sun_place(sunSine), 0);
}

glm::dvec3 SkyTables::inscattered(double height, const glm::dvec3& direction, const glm::dvec3& toSun, double sunAngle,
                                  double metres, int steps, bool once, glm::dvec3& through) const {
    const AirPath path{air_, height, direction.y};
    const double from = path.from(), end = std::min(path.end(), std::max(metres, from)),
                 cosine = glm::dot(direction, toSun), pr = rayleigh_phase(cosine),
                 pm = mie_phase(cosine, air_.mieAnisotropy);
    glm::dvec3 sum(0.0);
    through = glm::dvec3(1.0);
    march(path, from, end, steps, [&](double at, double h, double dt) {
        const double sine = path.sine_at(at, toSun.y, cosine);
        const Medium m = medium_at(air_, h);
        glm::dvec3 source = (m.rayleigh * pr + m.mie * pm) * sun_at(h, sine, sunAngle);
        if (!once) source += (m.rayleigh + m.mie) * multiple(h, sine);
        const glm::dvec3 part = glm::exp(-m.extinction * dt);
        sum += through * source * (1.0 - part) / glm::max(m.extinction, glm::dvec3(1e-30));
        through *= part;
    });
    return sum;
}

glm::dvec3 SkyTables::radiance(double height, const glm::dvec3& direction, const glm::dvec3& toSun, double sunAngle,
                               int steps, bool once) const {
    glm::dvec3 through;
    const AirPath path{air_, height, direction.y};
    const double end = path.end();
    glm::dvec3 sum = inscattered(height, direction, toSun, sunAngle, end, steps, once, through);
    if (path.meets_ground()) {
        const double sine = path.sine_at(end, toSun.y, glm::dot(direction, toSun));
        glm::dvec3 light = sun_at(0, sine, sunAngle) * std::max(sine, 0.0);
        if (!once) light += ground(sine);
        sum += through * light * (air_.groundAlbedo / glm::pi<double>());
    }
    return sum;
}

std::shared_ptr<const SkyTables> sky_tables(const Atmosphere& air) {
    static Recent<Atmosphere, SkyTables> recent(6);
    return recent.of(air, [](const Atmosphere& a) { return SkyTables(a); });
}

} // namespace mirolux
