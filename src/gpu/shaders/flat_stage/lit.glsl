// One light at a point of a flat stage as its surface takes it: layers, facing, shadow; counted and entered in the ledger.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/ledger.glsl"
#include "include/flat.glsl"
#include "generated/slots.glsl"
#ifdef SURFACE
uniform sampler2D flatSurface;
#endif
#ifdef LEDGER
uniform sampler2D flatScene;
#endif

/// `pixel`: of the stage; `pixels`: of the picture that this stands for. `whole`: drawn for what no shadow falls on (LIT_ANYWAY).
vec3 litBy(uint light, ivec2 pixel, vec2 point, bool whole, float pixels) {
    FlatLightData l = flatLights[light];
    vec3 value = flatLight(l, point);
    bool receives = true;
#ifdef SURFACE
    FlatSurface s = flatSurfaceOf(texelFetch(flatSurface, pixel, 0));
    receives = s.receives;
    if (!s.lit || (l.layers >> s.layer & 1u) == 0u) value = vec3(0.0);
    else if (parameters.flatLight.a > 0.0) value *= flatFacing(l, s.normal, point);
#ifdef LIT_ANYWAY
    if (receives == whole && l.casts != 0u) value = vec3(0.0);
#endif
#endif
#ifdef SLOT_FLAT_FACTOR
    if (receives && max(max(value.r, value.g), value.b) > 0.0) value *= slotFlatFactor(light, point);
#endif
#ifdef CLAMPED
    value = clamp(value, 0.0, 1.0);
#endif
    if (max(max(value.r, value.g), value.b) > 0.0) countReached();
#ifdef LEDGER
    enterFlat(light, value * texelFetch(flatScene, pixel, 0).rgb * pixels);
#endif
    return value;
}
