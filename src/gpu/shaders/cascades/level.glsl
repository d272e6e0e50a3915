#version 450 core
// One level: each invocation follows a probe's rays over the level's interval and joins behind them what the next level has
// found. FIRST: level 0 keeps every direction; else four neighbouring directions are one of the level below. LAST: nothing
// lies behind but what is outside. ODD: the level is written to the odd target, and read from the even one.
layout(local_size_x = 16, local_size_y = 4) in;
#include "cascades/shape.glsl"
uniform sampler2D flatField;
uniform sampler2D flatOccluders;
uniform sampler2D surfaceLight;
uniform int level;
#if defined(FIRST)
layout(rgba16f) uniform writeonly image2D cascadeFirstImage;
#define TARGET cascadeFirstImage
#define NEXT cascadeOdd
#elif defined(ODD)
layout(rgba16f) uniform writeonly image2D cascadeOddImage;
#define TARGET cascadeOddImage
#define NEXT cascadeEven
#else
layout(rgba16f) uniform writeonly image2D cascadeEvenImage;
#define TARGET cascadeEvenImage
#define NEXT cascadeOdd
#endif
#ifndef LAST
uniform sampler2D NEXT;
#endif

layout(std430) readonly buffer PlaneSkyBuffer { vec4 outside[]; }; // by level and direction: what comes from where nothing is
int skyOf(int number) { return firstRays() * ((1 << (2 * level)) - 1) / 3 + number; }

/// What comes along a ray over `end` cells: rgb, and a: 1 where the way is open to its end.
vec4 follow(vec2 from, vec2 way, float end, ivec2 size, int number, inout uint steps) {
    // Where it leaves the picture.
    vec2 away = max(abs(way), vec2(1e-6)), room = mix(from, vec2(size) - from, greaterThan(way, vec2(0.0))) / away;
    float leaves = min(room.x, room.y) - 1e-3, last = min(end, leaves);
    if (leaves <= 0.0) return vec4(outside[skyOf(number)].rgb, 0.0);
    float t = 0.0, cells = float(size.y);
    bool met = false;
    for (int i = 0; i < 64 && t < last; ++i) {
        float d = texelFetch(flatField, ivec2(from + way * t), 0).r * cells;
        ++steps;
        met = d < 0.5;
        if (met) break;
        t += max(d - 0.7, 0.5);
    }
    if (!met) return leaves < end ? vec4(outside[skyOf(number)].rgb, 0.0) : vec4(0.0, 0.0, 0.0, 1.0);
    vec2 p = from + way * t;
    ivec2 cell = ivec2(p);
    vec4 body = texelFetch(surfaceLight, cell, 0);
    if (body.a > 2.5) { // a spot
        FlatLightData l = flatLights[int(body.a + 0.5) - 3];
        float cone = clamp((dot(-way, l.direction) - l.cosOuter) / max(1e-4, l.cosInner - l.cosOuter), 0.0, 1.0);
        body.rgb *= cone * cone;
    }
    // What a wall throws back is known before it.
    ivec2 before = ivec2(floor(p - way * 0.75));
    if (before == cell) before = ivec2(floor(p - way * 1.5));
    vec4 thrown = texelFetch(surfaceLight, clamp(before, ivec2(0), size - 1), 0);
    return vec4(body.rgb + (thrown.a == 0.0 ? thrown.rgb : vec3(0.0)), 0.0);
}

#ifndef LAST
/// The next level's probes about a point: where the first lies in its target, which they are, and what each counts.
struct Beyond {
    ivec2 block, probes, low;
    vec2 part;
    float step_;
};
Beyond beyond(vec2 from, int number, ivec2 size) {
    Beyond b;
    int next = level + 1;
    b.step_ = float(1 << next);
    b.probes = (size + (1 << next) - 1) >> next;
    ivec2 blocks = firstBlocks() << (next - 1);
    b.block = ivec2(number % blocks.x, number / blocks.x) * b.probes;
    vec2 at = from / b.step_ - 0.5;
    b.low = ivec2(floor(at));
    b.part = at - vec2(b.low);
    return b;
}
ivec2 probeOf(Beyond b, int k) { return clamp(b.low + ivec2(k & 1, k >> 1), ivec2(0), b.probes - 1); }
float weightOf(Beyond b, int k) {
    return ((k & 1) == 0 ? 1.0 - b.part.x : b.part.x) * ((k >> 1) == 0 ? 1.0 - b.part.y : b.part.y);
}
#endif

/// What comes along one of the probe's rays: from its interval, and from behind it.
vec3 along(vec2 from, int number, int count, float start, float end, ivec2 size, inout uint steps) {
    vec2 way = direction(number, count), first = from + way * start;
#ifdef LAST
    vec4 near = follow(first, way, end - start, size, number, steps);
    return near.a > 0.0 ? near.rgb + outside[skyOf(number)].rgb : near.rgb;
#else
    Beyond b = beyond(from, number, size);
    vec3 sum = vec3(0.0);
#ifdef AIMED
    // Each of the next level's four probes has a way of its own to where its rays begin, so that no light comes round a corner.
    for (int k = 0; k < 4; ++k) {
        ivec2 probe = probeOf(b, k);
        vec2 to = (vec2(probe) + 0.5) * b.step_ + way * end - first;
        float whole = length(to);
        vec4 near = follow(first, to / max(whole, 1e-4), whole, size, number, steps);
        if (near.a > 0.0) near.rgb += texelFetch(NEXT, b.block + probe, 0).rgb;
        sum += near.rgb * weightOf(b, k);
    }
#else
    vec4 near = follow(first, way, end - start, size, number, steps);
    if (near.a > 0.0)
        for (int k = 0; k < 4; ++k) sum += texelFetch(NEXT, b.block + probeOf(b, k), 0).rgb * weightOf(b, k);
    sum += near.rgb;
#endif
    return sum;
#endif
}

void main() {
    ivec2 size = textureSize(flatField, 0), at = ivec2(gl_GlobalInvocationID.xy);
    int step_ = 1 << level, count = firstRays() << (2 * level);
    ivec2 probes = (size + step_ - 1) / step_, blocks = level == 0 ? firstBlocks() : firstBlocks() << (level - 1);
    if (any(greaterThanEqual(at, probes * blocks))) return;
    ivec2 block = at / probes;
    int group = block.y * blocks.x + block.x;
    vec2 from = (vec2(at % probes) + 0.5) * float(step_);
    float start = parameters.cascadeShape.z * float((1 << (2 * level)) - 1) / 3.0, end = parameters.cascadeShape.z * float((1 << (2 * level + 2)) - 1) / 3.0;
#ifdef FIRST
    const int joined = 1;
#else
    const int joined = 4;
#endif
    vec3 sum = vec3(0.0);
    uint steps = 0u;
    for (int k = 0; k < joined; ++k)
        sum += along(from, group * joined + k, count, start, end, size, steps);
    #if defined(AIMED) && !defined(LAST)
    countOf(COUNTER_raysCast, uint(4 * joined));
#else
    countOf(COUNTER_raysCast, uint(joined));
#endif
    countOf(COUNTER_fieldSteps, steps);
    imageStore(TARGET, at, vec4(sum / float(joined), 1.0));
}
