#version 450 core
// One light of the `volumes` path over the pixels that its proxy covers (SHADE 1), or the marking of them, which writes no colour (SHADE 0).
#include "include/structs.glsl"
layout(early_fragment_tests) in;
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/brdf.glsl"
#include "include/deferred.glsl"
#include "include/ledger.glsl"
layout(location = 4) uniform uint lightIndex;
layout(location = 0) out vec4 outColor;

void main() {
#if SHADE
    DeferredSurface s;
    if (!readDeferred(ivec2(gl_FragCoord.xy), s)) {
        countWork(0u);
        discard;
    }
    countWork(1u);
    vec3 light = lightDeferred(lights[lightIndex], s);
    enterLight(lightIndex, light);
    outColor = vec4(light, 0.0);
#else
    countWork(0u);
    outColor = vec4(0.0);
#endif
}
