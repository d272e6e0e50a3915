// What the scene's fog leaves of a light on its way to a surface.
#include "include/air_medium.glsl"

vec3 dimmedOnItsWay(uint light, LightData data, vec3 point, vec3 normal, vec3 toLight) {
    countOf(COUNTER_airDimmings, 1u);
    return vec3(fogToLight(data, point, toLight));
}
