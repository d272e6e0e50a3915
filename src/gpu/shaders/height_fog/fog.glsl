// Fog that thins out upward: optical depth of an exponential along a line in closed form (C. Wenzel, 2007), no denser below its base.
#include "include/air_medium.glsl"

void heightFog(vec3 point, bool sky, inout vec3 transmittance, inout vec3 scattered) {
    countOf(COUNTER_airEvaluations, 1u);
    float t = sky ? fogTransmittanceOfRay(frame.eye.xyz, normalize(point - frame.eye.xyz)) : exp(-fogDepth(frame.eye.xyz, point));
    transmittance *= t;
    scattered = scattered * t + (1.0 - t) * deepFog();
}
