#version 450 core
// How open a pixel's surface is to light from all around: the share of the hemisphere over it, by the cosine, that nothing in the picture
// closes within a radius. And the metres to it, for what spreads it. Variants: HORIZON, or points of the hemisphere; HALF: at the pixel that
// stands for four. The reference in double is src/core/ambient/occlusion.h.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/screen.glsl"

layout(location = 0) out vec2 outOpen;

const float pi = 3.14159265;

/// Sixteen even points of the unit square over four pixels by four, each of which the mean of that block holds once: a lattice, in B. Bayer's order
/// (1973).
vec2 evenPoint(ivec2 texel) {
    const int order[16] = int[16](0, 8, 2, 10, 12, 4, 14, 6, 3, 11, 1, 9, 15, 7, 13, 5);
    float i = float(order[(texel.x & 3) + 4 * (texel.y & 3)]);
    return fract((vec2(i, 7.0 * i) + 0.5) / 16.0);
}

#ifdef HORIZON
/// Where a line from a pixel leaves the picture, pixels.
float toEdge(vec2 from, vec2 way) {
    vec2 room = mix(from, vec2(frame.width, frame.height) - from, step(0.0, way));
    return min(abs(way.x) > 1e-6 ? room.x / abs(way.x) : 1e9, abs(way.y) > 1e-6 ? room.y / abs(way.y) : 1e9);
}

/// What is open of a plane through the eye's ray between the normal's projection at angle n and a horizon at h, by the cosine.
float arc(float n, float h) { return 0.25 * (cos(n) + 2.0 * h * sin(n) - cos(2.0 * h - n)); }

/// Horizons in planes through the eye's ray (J. Jimenez et al., Practical Real-Time Strategies for Accurate Indirect Occlusion, 2016), the planes
/// even about that ray; over what the same planes would have open without anything.
float openOf(ivec2 texel, ivec2 pixel, PixelRays rays, float metres, vec3 normal) {
    float radius = parameters.occlusionReach.x, fade = parameters.occlusionReach.y;
    int steps = int(parameters.occlusionReach.z), slices = int(parameters.occlusionReach.w);
    vec3 away = awayAt(rays, pixel, metres), toEye = -normalize(away), right = normalize(rays.across), top = normalize(rays.up);
    float reach = radius / (metres * length(rays.across)); // pixels
    if (reach < 1.0) return 1.0;
    vec3 side = normalize(right - toEye * dot(right, toEye)), over = cross(toEye, side);
    vec2 even = evenPoint(texel); // the lines' turn; their first step
    float open = 0.0, all = 0.0;
    for (int s = 0; s < slices; ++s) {
        float angle = (float(s) + even.x) * pi / float(slices);
        vec3 d = side * cos(angle) + over * sin(angle);
        vec3 seen = d - toEye * (dot(d, frame.forward.xyz) / dot(toEye, frame.forward.xyz)); // along the picture's plane
        vec2 way = normalize(vec2(dot(seen, right), dot(seen, top)));
        vec3 axis = cross(d, toEye), inPlane = normal - axis * dot(normal, axis);
        float size = max(length(inPlane), 1e-4), n = sign(dot(d, inPlane)) * acos(clamp(dot(inPlane, toEye) / size, -1.0, 1.0));
        vec2 from = vec2(pixel) + 0.5;
        float horizon[2];
        for (int turned = 0; turned < 2; ++turned) {
            vec2 along = turned == 0 ? way : -way;
            float far = min(reach, toEdge(from, along)), least = cos(0.5 * pi + (turned == 0 ? n : -n)), most = least;
            for (int i = 0; i < steps; ++i) {
                float part = (float(i) + even.y) / float(steps);
                ivec2 at = ivec2(from + along * max(far * part * part, float(i) + 1.0));
                if (any(lessThan(at, ivec2(0))) || at.x >= frame.width || at.y >= frame.height) break;
                float there = metresAt(at);
                vec3 apart = awayAt(rays, at, there) - away;
                float l = length(apart);
                if (there <= 0.0 || l >= radius || dot(apart, normal) <= 0.01 * l) continue; // what lies in the surface's own plane closes nothing
                most = max(most, mix(least, dot(apart, toEye) / l, fade > 0.0 ? clamp((radius - l) / (radius * fade), 0.0, 1.0) : 1.0));
            }
            horizon[turned] = acos(clamp(most, -1.0, 1.0));
        }
        float toRight = min(horizon[0], n + 0.5 * pi), toLeft = max(-horizon[1], n - 0.5 * pi);
        open += size * (arc(n, toRight) + arc(n, toLeft));
        all += size * (cos(n) + n * sin(n));
    }
    countOf(COUNTER_occlusionReads, uint(2 * slices * steps));
    return all > 0.0 ? clamp(open / all, 0.0, 1.0) : 1.0;
}
#else
/// Points of the hemisphere over the surface, by the cosine, that lie behind what the picture shows there; what shows from farther than the
/// radius before the surface counts less and less. The kernel is turned from pixel to pixel.
float openOf(ivec2 texel, ivec2 pixel, PixelRays rays, float metres, vec3 normal) {
    float radius = parameters.occlusionReach.x;
    int points = int(parameters.occlusionReach.z);
    vec3 away = awayAt(rays, pixel, metres), side = normalize(abs(normal.y) < 0.9 ? cross(normal, vec3(0.0, 1.0, 0.0)) : cross(normal, vec3(1.0, 0.0, 0.0))),
         over = cross(normal, side);
    vec2 even = evenPoint(texel);
    float slack = 0.002 * metres, turn = 2.0 * pi * even.x, closed = 0.0;
    vec3 from = frame.eye.xyz + away + normal * slack;
    const float golden = 2.39996323; // radians: the next point's turn
    vec2 spoke = vec2(cos(turn), sin(turn)), next = vec2(cos(golden), sin(golden));
    for (int i = 0; i < points; ++i) {
        float u = (float(i) + 0.5) / float(points), far = fract(even.y + float(i) * 0.75487767); // M. Roberts, 2018: a low-discrepancy step
        vec3 to = (side * spoke.x + over * spoke.y) * sqrt(u) + normal * sqrt(1.0 - u);
        spoke = vec2(spoke.x * next.x - spoke.y * next.y, spoke.x * next.y + spoke.y * next.x);
        vec4 clip = frame.viewProjection * vec4(from + to * (radius * far), 1.0);
        if (clip.w <= frame.forward.w || max(abs(clip.x), abs(clip.y)) >= clip.w) continue;
        float there = metresAt(ivec2((clip.xy / clip.w * 0.5 + 0.5) * vec2(frame.width, frame.height)));
        if (there <= 0.0 || clip.w - there <= slack) continue;
        float before = abs(metres - there);
        closed += before <= radius ? 1.0 : smoothstep(0.0, 1.0, radius / before);
    }
    countOf(COUNTER_occlusionReads, uint(points));
    return 1.0 - closed / float(points);
}
#endif

void main() {
    ivec2 texel = ivec2(gl_FragCoord.xy), pixel = texel;
#ifdef HALF
    pixel = pixelOfHalf(texel);
#endif
    countOf(COUNTER_fragments, 1u);
    float metres = metresAt(pixel);
    outOpen = vec2(1.0, metres);
    if (metres > 0.0) outOpen.x = openOf(texel, pixel, pixelRays(), metres, normalAt(pixel));
}
