#version 450 core
// Deferred shading: the surface from the G-buffer, lit by every light (LIGHTS_OF 2) or by those of its cell's list (LIGHTS_OF 1).
// Ambient light and emission are in the scene target already; this is added to it.
#include "include/structs.glsl"
#if defined(COUNT) || defined(LEDGER)
layout(early_fragment_tests) in;
#endif
#include "include/lighting.glsl"
#include "deferred_shading/surface.glsl"

layout(location = 0) out vec4 outColor;
#ifdef DIFFUSE_TARGET
layout(location = DIFFUSE_TARGET) out vec4 outDiffuse;
#endif

void main() {
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
}
