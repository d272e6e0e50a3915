#version 450 core
// Radiance of the sky by height over the horizon, where no surface is (depth still 0). The reference in double is src/core/sky/sky.h.
// SKY_PART: of layers: 1 the sky's own light as it comes through the air, 2 what the air sends; else both.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/air.glsl"
in vec2 ndc;
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    vec4 p = frame.inverseViewProjection * vec4(ndc, 1.0, 1.0); // a point on the near plane
    vec3 d = normalize(p.xyz / p.w - frame.eye.xyz);
    float height = 1.0 - exp(-4.0 * max(d.y, 0.0)); // haze thins out upward
    vec3 radiance = mix(parameters.skyHorizon.rgb, parameters.skyZenith.rgb, height);
#if defined(SLOT_AIR) || defined(SKY_PART)
    vec3 transmittance, scattered;
    airBefore(p.xyz / p.w, true, transmittance, scattered);
#if !defined(SKY_PART)
    radiance = radiance * transmittance + scattered;
#elif SKY_PART == 1
    radiance *= transmittance;
#else
    radiance = scattered;
#endif
#endif
    outColor = vec4(radiance, 1.0);
}
