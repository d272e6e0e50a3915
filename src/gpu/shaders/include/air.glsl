// What lies between a point and the eye, as techniques feed it: radiance * transmittance + scattered.
#include "generated/slots.glsl"
#ifdef SLOT_AIR
/// Radiance that leaves the point, as it reaches the eye.
vec3 throughAir(vec3 radiance, vec3 point) {
    vec3 transmittance = vec3(1.0), scattered = vec3(0.0);
    slotAir(point, false, transmittance, scattered);
    return radiance * transmittance + scattered;
}
/// The same of a part, when another part brings the scattered light.
vec3 dimmedByAir(vec3 radiance, vec3 point) {
    vec3 transmittance = vec3(1.0), scattered = vec3(0.0);
    slotAir(point, false, transmittance, scattered);
    return radiance * transmittance;
}
/// What the air itself sends from before the point, and what it lets through.
void airBefore(vec3 point, bool sky, out vec3 transmittance, out vec3 scattered) {
    transmittance = vec3(1.0);
    scattered = vec3(0.0);
    slotAir(point, sky, transmittance, scattered);
}
#else
#define throughAir(radiance, point) (radiance)
#define dimmedByAir(radiance, point) (radiance)
void airBefore(vec3 point, bool sky, out vec3 transmittance, out vec3 scattered) {
    transmittance = vec3(1.0);
    scattered = vec3(0.0);
}
#endif
