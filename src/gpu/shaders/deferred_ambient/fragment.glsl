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
#ifdef MIRROR_SHARES
layout(location = 1) out vec4 outShare;
#endif
#ifdef DIFFUSE_TARGET
layout(location = DIFFUSE_TARGET) out vec4 outDiffuse;
#endif

void main() {
    LitSurface s;
    countWork(0u);
    if (!readDeferred(ivec2(gl_FragCoord.xy), s)) discard;
    float baked = texelFetch(roughnessUnlit, ivec2(gl_FragCoord.xy), 0).b;
    AmbientLeaves ambient = ambientReflected(s.position, s.baseColor, s.metallic, s.roughness, s.optics, baked, s.normal, s.toEye);
    outColor = vec4(dimmedByAir(ambient.sum, s.position), 0.0);
#ifdef DIFFUSE_TARGET
    outDiffuse = diffuseApart(s.optics, ambient.sum - ambient.mirrored, s.position, 0.0);
#endif
#ifdef MIRROR_SHARES
    outShare = vec4(sqrt(ambient.share), ambient.roughness);
#endif
}
