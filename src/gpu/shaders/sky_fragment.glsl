#version 450 core
// Radiance of the sky by height over the horizon, where no surface is (depth still 0).
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
in vec2 ndc;
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    vec4 p = frame.inverseViewProjection * vec4(ndc, 1.0, 1.0); // a point on the near plane
    vec3 d = normalize(p.xyz / p.w - frame.eye.xyz);
    float height = 1.0 - exp(-4.0 * max(d.y, 0.0)); // haze thins out upward
    outColor = vec4(mix(frame.skyHorizon.rgb, frame.skyZenith.rgb, height), 1.0);
}
