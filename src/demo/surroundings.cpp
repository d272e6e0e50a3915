#include "demo/surroundings.h"
#include "core/sky/panorama.h"
#include "core/sky/sky_model.h"
#include <glm/gtc/constants.hpp>

namespace mirolux::demo {

static constexpr int looks = 4; // a texel, in both directions

FloatImage clear_day(int width) {
    SkySettings s;
    s.kind = SkyKind::atmosphere;
    s.air = atmosphere_preset("clear");
    s.air.groundAlbedo = 0.1;
    s.sun = {direction_of({38, 142}), 0.0209, 12800};
    s.moon.illuminance = 0;
    const SkyModel sky(s);
    return panorama(
        width,
        [&](const glm::dvec3& d) {
            const bool sun = glm::dot(d, s.sun.direction) > std::cos(0.012);
            return sun ? sky.seen(d, 0.0001) : sky.radiance(d);
        },
        looks);
}

FloatImage overcast_day(int width) {
    return panorama(
        width,
        [](const glm::dvec3& d) {
            const glm::dvec3 grey(0.94, 0.98, 1.06), ground(0.86, 0.84, 0.80);
            if (d.y < 0) return ground * 620.0;
            return grey * (4200.0 * (1 + 2 * d.y) / 3); // P. Moon and D. Spencer, 1942
        },
        looks);
}

FloatImage lamp_room(int width) {
    const glm::dvec3 half(4.2, 1.5, 3.1), eye(0.6, 0.1, -0.4);
    const glm::dvec3 lamps[] = {{-2.4, 1.32, -1.6}, {2.4, 1.32, -1.6}, {-2.4, 1.32, 1.6}, {2.4, 1.32, 1.6}};
    const glm::dvec3 warm(1.0, 0.72, 0.43);
    const double radius = 0.11, glow = 5200; // metres, cd/m2
    return panorama(
        width,
        [&](const glm::dvec3& d) -> glm::dvec3 {
            for (const glm::dvec3& lamp : lamps) {
                const glm::dvec3 v = lamp - eye;
                const double along = glm::dot(v, d);
                if (along > 0 && glm::dot(v, v) - along * along < radius * radius) return warm * glow;
            }
            double metres = 1e9;
            glm::dvec3 normal(0.0);
            for (int axis = 0; axis < 3; ++axis) {
                const double side = d[axis] < 0 ? -half[axis] : half[axis],
                             t = std::abs(d[axis]) > 1e-12 ? (side - eye[axis]) / d[axis] : 1e9;
                if (t < metres) {
                    metres = t;
                    normal = glm::dvec3(0.0);
                    normal[axis] = d[axis] < 0 ? 1 : -1;
                }
            }
            const glm::dvec3 at = eye + d * metres;
            if (normal.x > 0.5 && std::abs(at.z) < 0.9 && at.y > -0.35 && at.y < 0.95) { // a window with bars
                const bool bar = std::abs(at.z) < 0.03 || std::abs(at.y - 0.3) < 0.03;
                return bar ? glm::dvec3(0.4, 0.35, 0.3) : glm::dvec3(3.2, 5.6, 11.0) * (0.7 + 0.5 * (at.y + 0.35));
            }
            glm::dvec3 albedo(0.62, 0.55, 0.47); // plaster
            if (normal.y > 0.5) {
                const bool plank = std::fmod(at.z + 20, 0.34) < 0.012;
                albedo = plank ? glm::dvec3(0.05, 0.035, 0.02) : glm::dvec3(0.30, 0.19, 0.11);
            } else if (normal.y > -0.5 && at.y < -0.55)
                albedo = {0.18, 0.24, 0.22};              // panels
            glm::dvec3 light = glm::dvec3(6.5, 5.6, 4.6); // what bounces about
            for (const glm::dvec3& lamp : lamps) {
                const glm::dvec3 v = lamp - at;
                const double m2 = glm::dot(v, v) + 0.02;
                light += warm * (glow * glm::pi<double>() * radius * radius *
                                 std::max(0.0, glm::dot(normal, v) / std::sqrt(m2)) / m2);
            }
            return albedo * light / glm::pi<double>();
        },
        looks);
}

} // namespace mirolux::demo
