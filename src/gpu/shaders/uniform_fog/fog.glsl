// Air of one density: L' = T L + (1 - T) deep. The sky is endlessly far: T = 0.
#include "include/air_medium.glsl"

void uniformFog(vec3 point, bool sky, inout vec3 transmittance, inout vec3 scattered) {
    countOf(COUNTER_airEvaluations, 1u);
    float t = sky ? 0.0 : exp(-parameters.airFog.w * distance(point, frame.eye.xyz));
    transmittance *= t;
    scattered = scattered * t + (1.0 - t) * deepFog();
}
