#version 450 core
// One light at a pixel of a mask; blending joins it to the others. With CLAMPED no more than 1, as screens need it.
#define FLAT_STAGE
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/ledger.glsl"
#include "include/flat.glsl"
#include "generated/slots.glsl"
uniform ivec2 maskSize;
flat in uint lightOfFragment;
flat in uint whole;
layout(location = 0) out vec4 outLight;
#ifdef SURFACE
uniform sampler2D flatSurface;
#endif
#ifdef LEDGER
uniform sampler2D flatScene;
#endif

void main() {
    countWork(1u);
    FlatLightData l = flatLights[lightOfFragment];
    vec2 share = gl_FragCoord.xy / vec2(maskSize);
    vec2 point = mix(parameters.flatWindow.xy, parameters.flatWindow.zw, share);
    vec3 value = flatLight(l, point);
    bool receives = true;
#ifdef SURFACE
    FlatSurface s = flatSurfaceOf(texelFetch(flatSurface, ivec2(share * vec2(textureSize(flatSurface, 0))), 0));
    receives = s.receives;
#ifdef LIT_ANYWAY
    if (s.receives == (whole != 0u) && flatLights[lightOfFragment].casts != 0u) value = vec3(0.0);
#endif
    if (!s.lit || (l.layers >> s.layer & 1u) == 0u) value = vec3(0.0);
    else if (parameters.flatLight.a > 0.0) value *= flatFacing(l, s.normal, point);
#endif
#ifdef SLOT_FLAT_FACTOR
    if (receives && max(max(value.r, value.g), value.b) > 0.0) value *= slotFlatFactor(lightOfFragment, point);
#endif
#ifdef CLAMPED
    value = clamp(value, 0.0, 1.0);
#endif
    if (max(max(value.r, value.g), value.b) > 0.0) countReached();
#ifdef LEDGER
    ivec2 size = textureSize(flatScene, 0);
    enterFlat(lightOfFragment, value * texelFetch(flatScene, ivec2(share * vec2(size)), 0).rgb * float(size.x * size.y) / float(maskSize.x * maskSize.y));
#endif
    outLight = vec4(value, 0.0);
}
