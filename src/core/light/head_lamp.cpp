#include "core/light/head_lamp.h"
#include "core/light/tone.h"

namespace mirolux {

Light head_lamp(const Camera& camera, double ev100) {
    Light l;
    l.id = head_lamp_id;
    l.name = "head lamp";
    l.type = LightType::spot;
    l.position = camera.eye;
    l.direction = glm::normalize(camera.aim - camera.eye);
    l.outerConeAngle = glm::radians(35.0f);
    l.innerConeAngle = glm::radians(15.0f);
    const double metres = 4, radiance = 0.5 / tone::exposure_scale(ev100); // of a surface that reflects all
    l.intensity = static_cast<float>(radiance * 3.14159265358979 * metres * metres);
    l.shadow.mode = ShadowMode::none;
    return l;
}

} // namespace mirolux
