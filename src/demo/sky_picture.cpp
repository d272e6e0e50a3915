#include "demo/sky_picture.h"
#include "core/air/air_volume.h"
#include "core/light/luminance.h"
#include "core/sky/panorama.h"
#include "core/sky/sky_model.h"
#include <glm/gtc/constants.hpp>

namespace mirolux::demo {

/// How thick the clouds are where a direction meets their layer, 0 to 1.
static double clouds(const glm::dvec3& d) {
    glm::dvec3 p(d.x / (d.y + 0.12), 0.7, d.z / (d.y + 0.12));
    p *= glm::dvec3(0.55, 1, 1.5); // drawn out along the wind
    double sum = 0, weight = 0.5;
    for (int octave = 0; octave < 6; ++octave) {
        sum += weight * air_noise(p);
        p = p * 2.03 + glm::dvec3(11.3, 4.1, 7.7);
        weight *= 0.55;
    }
    return glm::smoothstep(0.46, 0.72, sum);
}

FloatImage dusk_sky(int width) {
    SkySettings s;
    s.kind = SkyKind::atmosphere;
    s.air = atmosphere_preset("haze");
    s.air.groundAlbedo = 0.06;
    s.sun = {direction_of({1.4, 138}), 0.0093, 128000};
    s.moon.illuminance = 0;
    const SkyModel sky(s);
    const glm::dvec3 red = sky.radiance(direction_of({5, 138})), high = sky.radiance({0, 1, 0}),
                     warm = glm::mix(red, glm::dvec3(luminance(red)), 0.4);
    return panorama(width, [&](const glm::dvec3& d) {
        glm::dvec3 radiance = sky.radiance(d);
        if (d.y > 0) {
            // Lit from below where they lie toward the sun, grey elsewhere; they thin out to the horizon.
            const double toward = std::max(0.0, 0.5 + 0.5 * glm::dot(d, s.sun.direction)),
                         thick = clouds(d) * glm::smoothstep(0.0, 0.14, d.y);
            const glm::dvec3 lit = warm * (0.10 + 0.5 * toward * toward * toward) * (1.15 - 0.55 * thick) + high * 0.8;
            radiance = glm::mix(radiance, lit, 0.9 * thick);
        }
        return radiance;
    });
}

} // namespace mirolux::demo
