// Air of one density: T = exp(-extinction distance); L' = T L + (1 - T) scattered. The sky is endlessly far: T = 0.
// The reference in double is src/core/air/uniform_fog.h.
void uniformFog(vec3 point, bool sky, inout vec3 transmittance, inout vec3 scattered) {
    countOf(COUNTER_airEvaluations, 1u);
    float t = sky ? 0.0 : exp(-parameters.uniformFog.w * distance(point, frame.eye.xyz));
    transmittance *= t;
    scattered = scattered * t + (1.0 - t) * parameters.uniformFog.rgb;
}
