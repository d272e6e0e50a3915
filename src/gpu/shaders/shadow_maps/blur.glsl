#version 450 core
// Makes a shadow map ready to be asked for all depths around a place. STEP 0: depths of the atlas, warped and blurred along rows; 1: along
// columns; 2: a coarser level.
#define COMPUTE_STAGE
#include "include/count.glsl"
#include "shadow_maps/filterable.glsl"
layout(local_size_x = 16, local_size_y = 8) in;

uniform ivec3 place;    // x, y and side of the map in what is written
uniform vec4 scale;     // x: metres: near plane of a perspective map, whole range of another; y: its reach; z: 1: perspective; w: exponent
uniform int radius;     // texels
uniform int level;      // that is written
uniform ivec2 origin;   // of the map in what is read
#if FILTERABLE == 4
layout(rg32f) writeonly uniform image2D into;
#else
layout(rgba32f) writeonly uniform image2D into;
#endif

#if STEP == 0
uniform sampler2D shadowAtlas;
vec4 held(ivec2 at) {
    float depth = texelFetch(shadowAtlas, origin + clamp(at, ivec2(0), ivec2(place.z - 1)), 0).r;
    float metres = scale.z > 0.5 ? scale.x / max(depth, 1e-7) : (1.0 - depth) * scale.x;
    return filterableOf(clamp(2.0 * metres / scale.y - 1.0, -1.0, 1.0), scale.w);
}
const ivec2 along = ivec2(1, 0);
#elif STEP == 1
uniform sampler2D shadowsAcross;
vec4 held(ivec2 at) { return texelFetch(shadowsAcross, clamp(at, ivec2(0), ivec2(place.z - 1)), 0); }
const ivec2 along = ivec2(0, 1);
#else
uniform sampler2D blurredShadows;
vec4 held(ivec2 at) { return texelFetch(blurredShadows, origin + at, level - 1); }
#endif

void main() {
    ivec2 at = ivec2(gl_GlobalInvocationID.xy);
    if (max(at.x, at.y) >= place.z) return;
#if STEP == 2
    vec4 sum = 0.25 * (held(2 * at) + held(2 * at + ivec2(1, 0)) + held(2 * at + ivec2(0, 1)) + held(2 * at + ivec2(1, 1)));
    countOf(COUNTER_shadowBlurs, 4u);
#else
    float width = max(0.5 * float(radius), 0.5), weights = 1.0;
    vec4 sum = held(at);
    for (int i = 1; i <= radius; ++i) {
        float weight = exp(-0.5 * float(i * i) / (width * width));
        sum += weight * (held(at + i * along) + held(at - i * along));
        weights += 2.0 * weight;
    }
    sum /= weights;
    countOf(COUNTER_shadowBlurs, uint(2 * radius + 1));
#endif
    imageStore(into, place.xy + at, sum);
}
