#version 450 core
// Occlusion smoothed over the square that its pattern repeats in, and spread over all pixels if it was taken at half size: texels count that lie in
// the pixel's own plane (joint bilateral upsampling, J. Kopf et al., 2007, with the distance from the plane in place of the range).
// HALF: of a target of half size.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/screen.glsl"

uniform sampler2D rawOcclusion;
layout(location = 0) out vec2 outOpen;

void main() {
    ivec2 pixel = ivec2(gl_FragCoord.xy), size = ivec2(frame.width, frame.height);
    vec2 at = vec2(pixel);
#ifdef HALF
    size = (size + 1) / 2;
    at = (at + 0.5) * 0.5 - 0.5;
#endif
    countOf(COUNTER_fragments, 1u);
    float metres = metresAt(pixel);
    outOpen = vec2(1.0, 0.0);
    if (metres <= 0.0) return;
    PixelRays rays = pixelRays();
    vec3 away = awayAt(rays, pixel, metres), normal = normalAt(pixel);
    float perPixel = metres * length(rays.across), halfWidth = parameters.occlusionUse.w; // metres; texels
    ivec2 base = ivec2(round(at));
    float sum = 0.0, weights = 0.0, least = 1e30, nearest = 1.0;
    int reach = halfWidth > 1.0 ? 2 : 1;
    for (int y = -reach; y <= reach; ++y) {
        for (int x = -reach; x <= reach; ++x) {
            ivec2 texel = base + ivec2(x, y), there = texel;
            vec2 share = clamp(halfWidth + 0.5 - abs(vec2(texel) - at), 0.0, 1.0);
            if (share.x * share.y <= 0.0 || any(lessThan(texel, ivec2(0))) || any(greaterThanEqual(texel, size))) continue;
            vec2 held = texelFetch(rawOcclusion, texel, 0).rg;
            if (held.y <= 0.0) continue;
#ifdef HALF
            there = pixelOfHalf(texel);
#endif
            float off = abs(dot(awayAt(rays, there, held.y) - away, normal)) / (perPixel * (0.5 + length(vec2(there - pixel))));
            float weight = share.x * share.y * exp2(-6.0 * off * off);
            sum += held.x * weight;
            weights += weight;
            if (off < least) {
                least = off;
                nearest = held.x;
            }
        }
    }
    outOpen.x = weights > 1e-3 ? sum / weights : nearest;
}
