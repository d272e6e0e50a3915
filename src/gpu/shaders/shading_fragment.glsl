#version 450 core
// Deferred shading: the surface from the G-buffer, lit by every light (LISTS 0) or by those of its cell's list (LISTS 1).
// Ambient light and emission are in the scene target already; this is added to it.
#include "include/structs.glsl"
#if defined(COUNT) || defined(LEDGER)
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/brdf.glsl"
#include "include/deferred.glsl"
#include "include/ledger.glsl"
#if LISTS
#include "include/lists.glsl"
#endif

layout(location = 0) uniform uint firstBounded; // directional lights come first
layout(location = 1) uniform uint lightCount;
layout(location = 0) out vec4 outColor;

void main() {
    DeferredSurface s;
    if (!readDeferred(ivec2(gl_FragCoord.xy), s)) {
        countWork(0u);
        discard;
    }
    vec3 sum = vec3(0.0);
#if LISTS
    uint cell = cellOf(gl_FragCoord.xy, s.viewDepth, frame.height);
    uint count = firstBounded + listCount(cell);
#else
    uint count = lightCount;
#endif
    countWork(count);
    for (uint i = 0u; i < count; ++i) {
#if LISTS
        uint l = i < firstBounded ? i : listLight(cell, i - firstBounded);
#else
        uint l = i;
#endif
#if LISTS
        vec3 light = lightDeferred(fetchLight(l), s);
#else
        vec3 light = lightDeferred(lights[l], s);
#endif
        enterLight(l, light);
        sum += light;
    }
    outColor = vec4(sum, 0.0);
}
