// The share of a lamp that its baked mask leaves, where the surface has a place in it. C++ side: src/core/bake/mask_bake.h.
#include "include/shown.glsl"
uniform sampler2DArray bakedMasks; // a lamp a channel, 1: all of it is seen
#ifdef PLACES_ON_SCREEN
uniform sampler2D mapPlaces; // of what the picture shows, over the masks' size

vec2 placeInMasks() { return placeOnScreen ? texelFetch(mapPlaces, shownPixel(), 0).xy : placeHere / vec2(textureSize(bakedMasks, 0).xy); }
#else
vec2 placeInMasks() { return placeHere / vec2(textureSize(bakedMasks, 0).xy); }
#endif

vec3 bakedShadow(uint light, LightData data, vec3 point, vec3 normal, vec3 toLight) {
    int channel = (data.type >> 8) - 1; // structs.glsl: LightData::type
    if (!placed || !receivesShadows || channel < 0) return vec3(1.0);
    countOf(COUNTER_bakedMaskReads, 1u);
    return vec3(textureLod(bakedMasks, vec3(placeInMasks(), float(channel >> 2)), 0.0)[channel & 3]);
}
