#version 450 core
// Shadows of up to four lights at a pixel's surface, a channel each. HALF: at the pixel that stands for four.
#include "include/structs.glsl"
#if defined(COUNT) || defined(LEDGER)
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/ledger.glsl"
#include "shadow_maps/lookup.glsl"
#include "include/screen.glsl"

uniform ivec2 origin;    // of the set's tile
uniform ivec4 setLights; // places among the view's lights; -1: none
layout(location = 0) out vec4 outLeft;

void main() {
    ivec2 pixel = ivec2(gl_FragCoord.xy) - origin;
#ifdef HALF
    pixel = pixelOfHalf(pixel);
    const float facingFrom = -0.25; // neighbours that face the light may ask for it
#else
    const float facingFrom = 0.0;
#endif
#ifdef COUNT
    countOf(COUNTER_fragments, 1u);
#endif
    outLeft = vec4(1.0);
    vec3 point;
    if (!pointAt(pixel, point)) return;
    vec3 normal = normalAt(pixel);
    for (int c = 0; c < 4; ++c) {
        int light = setLights[c];
        if (light < 0) break;
        LightData data = lights[light];
        vec3 toLight, irradiance = normalIrradiance(data, point, toLight);
        if (dot(normal, toLight) <= facingFrom || irradiance.r + irradiance.g + irradiance.b <= 0.0) continue;
#ifdef LEDGER
        ledgerLight = uint(light);
#endif
        outLeft[c] = shadowFactor(uint(light), data, point, normal, toLight).x;
    }
}
