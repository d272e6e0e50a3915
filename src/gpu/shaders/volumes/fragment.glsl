#version 450 core
// One light of the `volumes` path over the pixels that its proxy covers (SHADE 1), or the marking of them, which writes no colour (SHADE 0).
#include "include/structs.glsl"
layout(early_fragment_tests) in;
#include "include/count.glsl"
#if SHADE
#define LIGHTS_OF 3
#include "include/lighting.glsl"
#include "deferred_shading/surface.glsl"
#endif
layout(location = 0) out vec4 outColor;
#ifdef DIFFUSE_TARGET
layout(location = DIFFUSE_TARGET) out vec4 outDiffuse;
#endif

void main() {
#if SHADE
    LitSurface s;
    if (!readDeferred(ivec2(gl_FragCoord.xy), s)) {
        countWork(0u);
        discard;
    }
    vec3 diffuse, specular;
    lightSurface(s, diffuse, specular);
    outColor = vec4(dimmedByAir(diffuse + specular, s.position), 0.0);
#ifdef DIFFUSE_TARGET
    outDiffuse = diffuseApart(s.optics, diffuse, s.position, 0.0);
#endif
#else
    countWork(0u);
    outColor = vec4(0.0);
#ifdef DIFFUSE_TARGET
    outDiffuse = vec4(0.0);
#endif
#endif
}
