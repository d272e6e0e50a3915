#version 450 core
// Lights summed into the mask. LISTS: a group is a tile and takes up the lights that its bits name, in their order, so
// that the sum is the same on every run; else one light over the box that it covers, added to what is there.
layout(local_size_x = 16, local_size_y = 16) in;
#define COMPUTE_STAGE
#define FLAT_STAGE
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/ledger.glsl"
#include "include/flat.glsl"
#include "generated/slots.glsl"
layout(rgba16f) uniform image2D computedMaskImage;
#include "compute_mask/order.glsl"
#ifdef SURFACE
uniform sampler2D flatSurface;
#endif
#ifdef LEDGER
uniform sampler2D flatScene;
#endif

vec3 lightAt(uint light, ivec2 pixel, vec2 point) {
    FlatLightData l = flatLights[light];
    vec3 value = flatLight(l, point);
    bool receives = true;
#ifdef SURFACE
    FlatSurface s = flatSurfaceOf(texelFetch(flatSurface, pixel, 0));
    if (!s.lit || (l.layers >> s.layer & 1u) == 0u) value = vec3(0.0);
    else if (parameters.flatLight.a > 0.0) value *= flatFacing(l, s.normal, point);
    receives = s.receives;
#endif
#ifdef SLOT_FLAT_FACTOR
    if (receives && max(max(value.r, value.g), value.b) > 0.0) value *= slotFlatFactor(light, point);
#endif
    if (max(max(value.r, value.g), value.b) > 0.0) countReached();
#ifdef LEDGER
    enterFlat(light, value * texelFetch(flatScene, pixel, 0).rgb);
#endif
    return value;
}

vec2 pointOf(ivec2 pixel, ivec2 size) {
    return mix(parameters.flatWindow.xy, parameters.flatWindow.zw, (vec2(pixel) + 0.5) / vec2(size));
}

#ifdef LISTS
layout(std430) readonly buffer FlatTileBuffer { uint listed[]; }; // by tile: a bit for each light, in their order

void main() {
    ivec2 pixel = ivec2(gl_GlobalInvocationID.xy), size = imageSize(computedMaskImage);
    if (any(greaterThanEqual(pixel, size))) return;
    vec2 point = pointOf(pixel, size);
    vec3 sum = vec3(0.0);
    float most = 0.0;
    uint taken = 0u;
    int words = (orderCount + 31) / 32, base = int(gl_WorkGroupID.y * gl_NumWorkGroups.x + gl_WorkGroupID.x) * words;
    for (int w = 0; w < words; ++w)
        for (uint bits = listed[base + w]; bits != 0u; bits &= bits - 1u) {
            Ordered o = order[w * 32 + findLSB(bits)];
            if (o.most != most) {
                if (most > 0.0) sum = min(sum, max(vec3(most) - parameters.flatLight.rgb, vec3(0.0)));
                most = o.most;
            }
            sum += lightAt(o.light, pixel, point);
            ++taken;
        }
    if (most > 0.0) sum = min(sum, max(vec3(most) - parameters.flatLight.rgb, vec3(0.0)));
    countWork(taken);
    imageStore(computedMaskImage, pixel, vec4(sum, 0.0));
}
#else
uniform int one; // into order

void main() {
    Ordered o = order[one];
    ivec2 size = imageSize(computedMaskImage), pixel = ivec2(floor(o.box.xy)) + ivec2(gl_GlobalInvocationID.xy);
    if (any(lessThan(pixel, ivec2(0))) || any(greaterThanEqual(pixel, size)) || float(pixel.x) >= o.box.z || float(pixel.y) >= o.box.w) return;
    countWork(1u);
    vec3 sum = imageLoad(computedMaskImage, pixel).rgb + lightAt(o.light, pixel, pointOf(pixel, size));
    if (o.most > 0.0) sum = min(sum, max(vec3(o.most) - parameters.flatLight.rgb, imageLoad(computedMaskImage, pixel).rgb));
    imageStore(computedMaskImage, pixel, vec4(sum, 0.0));
}
#endif
