#version 450 core
// Lights summed into the mask. LISTS: a group is a tile and takes up the lights that its bits name, in their order, so
// that the sum is the same on every run; else one light over the box that it covers, added to what is there.
layout(local_size_x = 16, local_size_y = 16) in;
#define COMPUTE_STAGE
#define FLAT_STAGE
#include "flat_stage/lit.glsl"
layout(rgba16f) uniform image2D computedMaskImage;
#include "compute_mask/order.glsl"
/// Of the picture, that one of the mask stands for.
float shownPixels(ivec2 size) { return float(frame.width * frame.height) / float(size.x * size.y); }
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
            sum += litBy(o.light, pixel, point, false, shownPixels(size));
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
    vec3 sum = imageLoad(computedMaskImage, pixel).rgb + litBy(o.light, pixel, pointOf(pixel, size), false, shownPixels(size));
    if (o.most > 0.0) sum = min(sum, max(vec3(o.most) - parameters.flatLight.rgb, imageLoad(computedMaskImage, pixel).rgb));
    imageStore(computedMaskImage, pixel, vec4(sum, 0.0));
}
#endif
