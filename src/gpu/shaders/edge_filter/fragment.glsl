#version 450 core
// Smooths along edges of the coded picture: edges_filtered of src/core/finish/edges.cpp. Rows run from the top.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/dither.glsl"
uniform sampler2D codedPicture;
layout(location = 0) out vec4 outColor;

vec3 codedAt(ivec2 p) { return texelFetch(codedPicture, clamp(p, ivec2(0), textureSize(codedPicture, 0) - 1), 0).rgb; }
float luma(ivec2 p) { return dot(codedAt(p), vec3(0.2126, 0.7152, 0.0722)); }

vec3 decoded(vec3 v) { return vec3(srgbDecode(v.r), srgbDecode(v.g), srgbDecode(v.b)); }

vec3 smoothed(ivec2 p, vec3 own) {
    float c = dot(own, vec3(0.2126, 0.7152, 0.0722));
    float n = luma(p + ivec2(0, -1)), s = luma(p + ivec2(0, 1)), w = luma(p + ivec2(-1, 0)), e = luma(p + ivec2(1, 0));
    float range = max(c, max(max(n, s), max(w, e))) - min(c, min(min(n, s), min(w, e)));
    countOf(COUNTER_edgeReads, 5u);
    if (range < parameters.edgeFilter.x) return own;
    float nw = luma(p + ivec2(-1, -1)), ne = luma(p + ivec2(1, -1)), sw = luma(p + ivec2(-1, 1)), se = luma(p + ivec2(1, 1));
    float level = abs(nw - 2.0 * w + sw) + 2.0 * abs(n - 2.0 * c + s) + abs(ne - 2.0 * e + se);
    float upright = abs(nw - 2.0 * n + ne) + 2.0 * abs(w - 2.0 * c + e) + abs(sw - 2.0 * s + se);
    bool lies = level >= upright; // the edge runs across the picture
    ivec2 along = lies ? ivec2(1, 0) : ivec2(0, 1), over = along.yx;
    float low = lies ? n : w, high = lies ? s : e;
    ivec2 side = abs(high - c) >= abs(low - c) ? over : -over;
    float other = abs(high - c) >= abs(low - c) ? high : low, middle = 0.5 * (c + other), least = 0.25 * abs(other - c);
    int reach = int(parameters.edgeFilter.y);
    ivec2 ends = ivec2(1);
    vec2 off = vec2(0.0);
    for (; ends.x <= reach; ++ends.x) {
        ivec2 q = p - ends.x * along;
        off.x = 0.5 * (luma(q) + luma(q + side)) - middle;
        if (abs(off.x) >= least) break;
    }
    for (; ends.y <= reach; ++ends.y) {
        ivec2 q = p + ends.y * along;
        off.y = 0.5 * (luma(q) + luma(q + side)) - middle;
        if (abs(off.y) >= least) break;
    }
    countOf(COUNTER_edgeReads, uint(4 + 2 * (min(ends.x, reach) + min(ends.y, reach))));
    bool second = ends.y < ends.x;
    int near = second ? ends.y : ends.x;
    bool bends = near <= reach && ((second ? off.y : off.x) < 0.0) != (c < middle);
    float line = bends ? 0.5 - (float(near) - 0.5) / float(ends.x + ends.y - 1) : 0.0;
    // Single pixels and diagonals, whose lines are too short to follow.
    float mean = (2.0 * (n + s + w + e) + nw + ne + sw + se) / 12.0, lone = min(1.0, abs(mean - c) / range), soft = lone * lone * (3.0 - 2.0 * lone);
    vec3 a = decoded(own), b = decoded(codedAt(p + side));
    return srgbEncode(mix(a, b, max(line, 0.5 * soft * soft)));
}

void main() {
    countWork(0u);
    ivec2 p = ivec2(gl_FragCoord.xy);
    outColor = vec4(wholeCodes(smoothed(p, codedAt(p)), p), 1.0);
}
