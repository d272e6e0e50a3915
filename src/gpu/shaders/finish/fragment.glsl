#version 450 core
// Exposure, tone curve, sRGB and dither into 8 bits; rows are turned so that the first is the top one.
// VIEW: 0 radiance, 1 linear colour, 2 signed vector, 3 plain numbers, 4 depth, 5 motion in pixels, 6 one channel. TAPS: box filter of TAPS x TAPS source texels a pixel.
#include "include/structs.glsl"
#include "include/tone.glsl"
#include "include/count.glsl"
#include "generated/slots.glsl"
#ifndef VIEW
#define VIEW 0
#endif

uniform sampler2D sceneTexture;
uniform ivec2 outputSize;
layout(location = 0) out vec4 outColor;

vec3 shown(ivec2 texel) {
    vec4 v = texelFetch(sceneTexture, texel, 0);
#if VIEW == 0
    #ifdef SLOT_POST
    v.rgb = slotPost(v.rgb, texel);
#endif
    return toneCurve(int(parameters.tone.z), v.rgb * parameters.tone.x, parameters.tone.y);
#elif VIEW == 2
    return v.a > 0.0 ? v.rgb * 0.5 + 0.5 : vec3(0.0);
#elif VIEW == 4
    float d = v.r > 0.0 ? frame.forward.w / v.r : 3.4e38; // metres along the view axis
    return vec3(1.0 - clamp((d - frame.depthNear) / max(frame.depthFar - frame.depthNear, 1e-6), 0.0, 1.0));
#elif VIEW == 5
    float hue = atan(v.g, v.r) / 6.2831853;
    vec3 color = clamp(abs(fract(hue + vec3(0.0, 2.0, 1.0) / 3.0) * 6.0 - 3.0) - 1.0, 0.0, 1.0);
    return mix(color, vec3(1.0), 0.25) * clamp(log2(1.0 + length(v.rg)) / 6.0, 0.0, 1.0);
#elif VIEW == 6
    return vec3(clamp(v.r, 0.0, 1.0));
#else
    return clamp(v.rgb, 0.0, 1.0);
#endif
}

void main() {
    countWork(0u);
    ivec2 size = textureSize(sceneTexture, 0);
    ivec2 p = ivec2(gl_FragCoord.xy);
    p.y = outputSize.y - 1 - p.y;
    vec3 sum;
    if (size == outputSize) sum = shown(p);
    else {
        ivec2 low = p * size / outputSize, high = max(low + 1, (p + 1) * size / outputSize);
        sum = vec3(0.0);
        for (int y = low.y; y < high.y; ++y)
            for (int x = low.x; x < high.x; ++x)
                sum += shown(ivec2(x, y));
        sum /= float((high.x - low.x) * (high.y - low.y));
    }
#if VIEW == 0
    if (parameters.outputForm.x != 0.0) sum = srgbEncode(sum);
#elif VIEW == 1
    sum = srgbEncode(sum);
#endif
    if (parameters.tone.w != 0.0) sum += orderedPattern(ivec2(gl_FragCoord.xy)) / 255.0;
    outColor = vec4(sum, 1.0);
}
