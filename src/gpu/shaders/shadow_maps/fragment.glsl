#version 450 core
// Depth of what a light sees. ALPHA_MASK: with the holes of masked surfaces. DITHERED: blended surfaces stop as many texels as their alpha says.
#include "include/structs.glsl"
#ifdef COUNT
#if !defined(ALPHA_MASK) && !defined(DITHERED)
layout(early_fragment_tests) in;
#endif
#endif
#include "include/count.glsl"
#if defined(ALPHA_MASK) || defined(DITHERED)
uniform sampler2D baseColorTexture;
#define CASTER_INTERFACE in
#include "shadow_maps/interface.glsl"
#include "shadow_maps/noise.glsl"
uniform vec2 firstTexel; // number of the map's lower left one in the light's own grid, so that the pattern stays with the world
#endif

void main() {
#if defined(ALPHA_MASK) || defined(DITHERED)
    MaterialData m = materials[vertex.material];
    float alpha = m.baseColor.a * vertex.alpha;
    if ((m.flags & 8u) != 0u) alpha *= texture(baseColorTexture, vertex.uv).a;
#ifdef DITHERED
    if (alpha <= evenNoise(mod(gl_FragCoord.xy + firstTexel, 1024.0))) discard;
#else
    if (alpha < m.alphaCutoff) discard;
#endif
#endif
    countOf(COUNTER_shadowTexels, 1u);
    countOf(COUNTER_fragments, 1u);
}
