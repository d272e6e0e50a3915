#include "core/light/falloff.h"
#include <glm/gtc/constants.hpp>

namespace mirolux {

glm::dvec3 normal_irradiance(const Light& light, const glm::dvec3& point, double reach, RangeWindow window) {
    const glm::dvec3 color = glm::dvec3(effective_color(light)) * double(light.intensity);
    if (!light.enabled) return glm::dvec3(0.0);
    if (light.type == LightType::directional) return color;
    const glm::dvec3 to = point - glm::dvec3(light.position);
    const double d = glm::length(to);
    double share = distance_attenuation(d, light.range, reach, window);
    if (light.type == LightType::spot && d > 0.0)
        share *= cone_attenuation(glm::dot(to / d, glm::dvec3(light.direction)), std::cos(double(light.innerConeAngle)),
                                  std::cos(double(light.outerConeAngle)));
    return color * share;
}

float derived_range(const Light& light, float threshold) {
    if (light.type == LightType::directional) return 0.0f;
    if (light.range > 0.0f) return light.range;
    const glm::vec3 color = effective_color(light);
    const float strongest = light.intensity * std::max({color.r, color.g, color.b});
    return std::sqrt(std::max(0.0f, strongest) / std::max(threshold, 1e-6f));
}

Sphere light_bounds(const Light& light, float reach) {
    if (light.type != LightType::spot || light.outerConeAngle >= glm::half_pi<float>()) return {light.position, reach};
    // What a spot reaches is a cone with a spherical cap of radius `reach`; the spheres below hold tip, rim and cap.
    const float c = std::cos(light.outerConeAngle), s = std::sin(light.outerConeAngle);
    if (light.outerConeAngle > glm::quarter_pi<float>()) {
        // Around the base disc (centre c*reach along the axis, radius s*reach): the cap's top is (1-c)*reach <= s*reach
        // away.
        return {light.position + light.direction * (c * reach), s * reach};
    }
    // Circumsphere of tip and rim: radius reach/(2c); the cap's top lies reach - radius <= radius from the centre.
    const float radius = reach / (2.0f * c);
    return {light.position + light.direction * radius, radius};
}

} // namespace mirolux
