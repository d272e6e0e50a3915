#version 450 core
// Joins a frame with those before it. Each frame looks past another place of the pixel (frame.time.zw); history is looked up where the
// surface stood, kept within what the frame's surroundings allow (M. Salvi, An Excursion in Temporal Supersampling, 2016), and counts
// for as many frames as it holds, up to temporal.x.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/spread_light.glsl"
#include "include/sample_map.glsl"
uniform sampler2D sceneTexture;
uniform sampler2D depthTexture;
uniform sampler2D motionTexture;       // pixels to the right and down, of what is rendered
uniform sampler2D accumulatedPrevious; // alpha: frames that it holds
layout(location = 0) out vec4 outAccumulated;
layout(location = 1) out vec2 outGhosts;

/// Between the texels of the frame before, by Catmull and Rom's cubic (1974), without its undershoot.
vec4 before(vec2 at) {
    vec2 texel = at - 0.5, low = floor(texel), f = texel - low;
    vec2 w[4] = vec2[](f * (-0.5 + f * (1.0 - 0.5 * f)), 1.0 + f * f * (-2.5 + 1.5 * f), f * (0.5 + f * (2.0 - 1.5 * f)), f * f * (-0.5 + 0.5 * f));
    ivec2 last = textureSize(accumulatedPrevious, 0) - 1;
    vec4 sum = vec4(0.0);
    for (int j = 0; j < 4; ++j)
        for (int i = 0; i < 4; ++i)
            sum += w[i].x * w[j].y * texelFetch(accumulatedPrevious, clamp(ivec2(low) + ivec2(i - 1, j - 1), ivec2(0), last), 0);
    return max(sum, 0.0);
}

void main() {
    countWork(0u);
    ivec2 size = textureSize(sceneTexture, 0), shown = textureSize(accumulatedPrevious, 0);
    vec2 ratio = vec2(size) / vec2(shown), place = gl_FragCoord.xy * ratio, jitter = frame.time.zw;
    ivec2 texel = clamp(ivec2(floor(place + jitter)), ivec2(0), size - 1);
    vec2 off = (vec2(texel) + 0.5 - jitter - place) / ratio; // of the sample from the pixel's middle, in shown pixels
    float counts = max(abs(off.x), abs(off.y)) < 0.5001 ? 1.0 : 0.02; // one outside only fills what nothing has filled
    float scale = sampleScale();

    vec3 here = vec3(0.0), sum = vec3(0.0), squares = vec3(0.0);
    ivec2 nearest = texel;
    float nearestDepth = -1.0;
    for (int j = -1; j <= 1; ++j)
        for (int i = -1; i <= 1; ++i) {
            ivec2 t = clamp(texel + ivec2(i, j), ivec2(0), size - 1);
            vec3 v = mappedSample(soundLight(texelFetch(sceneTexture, t, 0).rgb), scale);
            float depth = texelFetch(depthTexture, t, 0).r;
            if (i == 0 && j == 0) here = v;
            if (depth > nearestDepth) { // an edge moves with what is before it
                nearestDepth = depth;
                nearest = t;
            }
            sum += v;
            squares += v * v;
        }
    vec3 mean = sum / 9.0, deviation = sqrt(max(squares / 9.0 - mean * mean, 0.0));

    vec2 moved = parameters.temporal.z > 0.0 ? texelFetch(motionTexture, nearest, 0).rg : vec2(0.0);
    vec2 from = gl_FragCoord.xy - vec2(moved.x, -moved.y) / ratio;
    vec4 held = vec4(0.0);
    if (all(greaterThan(from, vec2(0.0))) && all(lessThan(from, vec2(shown))))
        held = max(abs(moved.x), abs(moved.y)) < 1e-4 ? texelFetch(accumulatedPrevious, ivec2(gl_FragCoord.xy), 0) : before(from);
    vec3 history = mappedSample(held.rgb, scale), away = history - mean;
    float clip = parameters.temporal.y, frames = min(held.a, parameters.temporal.x);
    vec3 room = abs(away) / max((clip > 0.0 ? clip : 1.25) * deviation, vec3(1e-3 / max(scale, 1e-6)));
    float beyond = frames > 0.0 ? max(max(room.r, room.g), max(room.b, 1.0)) : 1.0;
    vec3 ghost = away * (1.0 - 1.0 / beyond);
    if (clip > 0.0) {
        history -= ghost;
        frames /= beyond;
    }
    vec3 joined = (history * frames + here * counts) / (frames + counts);
    outAccumulated = vec4(unmappedSample(joined, scale), frames + counts);
    outGhosts = vec2(sqrt(clamp(scale * max(max(abs(ghost.r), abs(ghost.g)), abs(ghost.b)), 0.0, 1.0)), frames / (frames + counts));
}
