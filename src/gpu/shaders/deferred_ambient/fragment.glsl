#version 450 core
// Ambient light of the G-buffer's surfaces, where what it is multiplied by is known only after the G-buffer.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/lighting.glsl"
#include "include/ambient.glsl"
#include "deferred_shading/surface.glsl"

layout(location = 0) out vec4 outColor;

void main() {
    LitSurface s;
    countWork(0u);
    if (!readDeferred(ivec2(gl_FragCoord.xy), s)) discard;
    vec3 mirrored;
    float baked = texelFetch(roughnessUnlit, ivec2(gl_FragCoord.xy), 0).b;
    outColor = vec4(dimmedByAir(ambientReflected(s.position, s.baseColor, s.metallic, s.roughness, baked, s.normal, s.toEye, mirrored), s.position), 0.0);
}
