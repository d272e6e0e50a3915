#version 450 core
// The half mask spread over all pixels: of the four texels around, those count that lie in the pixel's own plane (joint bilateral upsampling,
// J. Kopf et al., 2007, with the distance from the plane in place of the range).
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/screen.glsl"

uniform ivec2 origin, halfOrigin; // of the set's tile
uniform sampler2D halfShadowMask;
layout(location = 0) out vec4 outLeft;

void main() {
    ivec2 pixel = ivec2(gl_FragCoord.xy) - origin;
#ifdef COUNT
    countOf(COUNTER_fragments, 1u);
#endif
    outLeft = vec4(1.0);
    vec3 point, there;
    if (!pointAt(pixel, point)) return;
    ivec2 size = (ivec2(frame.width, frame.height) + 1) / 2, own = pixel / 2;
    if (pixelOfHalf(own) == pixel) {
        outLeft = texelFetch(halfShadowMask, halfOrigin + own, 0);
        return;
    }
    vec3 normal = normalAt(pixel);
    float pixelWidth = 2.0 * dot(point - frame.eye.xyz, frame.forward.xyz) * parameters.shadowMask.z; // of two pixels, metres
    vec2 at = (vec2(pixel) + 0.5) * 0.5 - 0.5, part = fract(at);
    ivec2 base = ivec2(floor(at));
    vec4 sum = vec4(0.0), nearest = vec4(1.0);
    float weights = 0.0, least = 1e30;
    for (int i = 0; i < 4; ++i) {
        ivec2 corner = ivec2(i & 1, i >> 1), texel = clamp(base + corner, ivec2(0), size - 1);
        vec4 held = texelFetch(halfShadowMask, halfOrigin + texel, 0);
        if (!pointAt(pixelOfHalf(texel), there)) continue;
        float off = abs(dot(there - point, normal)) / pixelWidth;
        vec2 share = mix(1.0 - part, part, vec2(corner));
        float weight = (share.x * share.y + 1e-3) * exp2(-16.0 * off * off);
        sum += held * weight;
        weights += weight;
        if (off < least) {
            least = off;
            nearest = held;
        }
    }
    outLeft = weights > 1e-4 ? sum / weights : nearest;
}
