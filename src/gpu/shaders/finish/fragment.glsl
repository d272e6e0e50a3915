#version 450 core
// Exposure, tone curve, sRGB and dither into 8 bits; rows are turned so that the first is the top one.
// CODED: left to a later pass to round.
// VIEW: 0 radiance, 1 linear colour, 2 signed vector, 3 plain numbers, 4 depth, 5 motion in pixels, 6 one channel, 7 bands of codes, 8 stops, 9 clips, 10 dither. STAGE: one pixel for its account. FINAL: the
// picture itself, not one of its layers. TAPS: box filter of TAPS x TAPS source texels a pixel.
#include "include/structs.glsl"
#include "include/tone.glsl"
#include "include/count.glsl"
#include "include/exposure.glsl"
#include "include/dither.glsl"
#include "generated/slots.glsl"
#ifndef VIEW
#define VIEW 0
#endif

uniform sampler2D sceneTexture;
uniform ivec2 outputSize;
layout(location = 0) out vec4 outColor;
#ifdef COLOR_TABLE
uniform sampler3D colorTable;
/// Between the entries: ColorTable::at of src/core/finish/color_table.cpp.
vec3 byTable(vec3 coded) {
    float n = parameters.tableLow.w;
    vec3 place = clamp((coded - parameters.tableLow.rgb) / (parameters.tableHigh.rgb - parameters.tableLow.rgb), 0.0, 1.0);
    return clamp(textureLod(colorTable, (place * (n - 1.0) + 0.5) / n, 0.0).rgb, 0.0, 1.0);
}
#endif
#if VIEW == 8
/// src/core/finish/tone_curve.cpp.
vec3 stopColor(float stops) {
    if (stops < -8.0) return vec3(0.0);
    if (stops >= 6.0) return vec3(1.0);
    float at = floor(stops + 0.5);
    if (at == 0.0) return vec3(0.5);
    float u = at < 0.0 ? 2.0 * (at + 8.0) / 7.0 : 2.0 * (at - 1.0) / 5.0;
    vec3 a = at < 0.0 ? vec3(0.10, 0.08, 0.30) : vec3(0.55, 0.72, 0.30), b = at < 0.0 ? vec3(0.16, 0.30, 0.70) : vec3(0.93, 0.72, 0.20),
         c = at < 0.0 ? vec3(0.25, 0.62, 0.72) : vec3(0.86, 0.25, 0.18);
    return u < 1.0 ? mix(a, b, u) : mix(b, c, u - 1.0);
}
#endif

#if VIEW == 7
int codeAt(ivec2 p) {
    if (any(lessThan(p, ivec2(0))) || any(greaterThanEqual(p, textureSize(sceneTexture, 0)))) return -1;
    return int(floor(255.0 * dot(texelFetch(sceneTexture, p, 0).rgb, vec3(0.2126, 0.7152, 0.0722)) + 0.5));
}
/// A step to the next pixel along an axis between two wide bands: src/core/finish/bands.cpp.
bool bandEdge(ivec2 p, ivec2 along) {
    int here = codeAt(p), next = codeAt(p + along), stepOf = abs(next - here), width = int(parameters.outputForm.y);
    if (next < 0 || stepOf < 1 || stepOf > int(parameters.outputForm.z)) return false;
    for (int i = 1; i < width; ++i)
        if (codeAt(p - i * along) != here || codeAt(p + (i + 1) * along) != next) return false;
    return true;
}
vec3 bands(ivec2 p) {
    int code = codeAt(p);
    if (bandEdge(p, ivec2(1, 0)) || bandEdge(p, ivec2(0, 1))) return vec3(1.0, 0.62, 0.1);
    int rough = 0; // where things are, rather than a gradient, codes drawn apart would be noise
    for (int i = 0; i < 4; ++i)
        rough = max(rough, abs(codeAt(p + (i < 2 ? ivec2(6 * i - 3, 0) : ivec2(0, 6 * i - 15))) - code));
    if (rough > 2 * int(parameters.outputForm.z)) return vec3(0.4 * float(code) / 255.0);
    return vec3(0.12 + 0.45 * float(abs((code & 15) - 8)) / 8.0); // to and fro in eight codes
}
#endif

vec3 shown(ivec2 texel) {
    vec4 v = texelFetch(sceneTexture, texel, 0);
#if VIEW == 0
#if defined(SLOT_POST) && defined(FINAL)
    v.rgb = slotPost(v.rgb, texel);
#endif
    return toned(max(v.rgb, vec3(0.0)) * exposureScale());
#elif VIEW == 8
    return stopColor(log2(max(dot(v.rgb, vec3(0.2126, 0.7152, 0.0722)) * exposureScale(), 1e-20) / 0.18));
#elif VIEW == 9
    vec3 sent = toned(max(v.rgb, vec3(0.0)) * exposureScale());
    if (parameters.outputForm.x != 0.0) sent = srgbEncode(sent);
    if (max(max(sent.r, sent.g), sent.b) >= 254.5 / 255.0) return vec3(1.0, 0.55, 0.1);
    if (max(max(sent.r, sent.g), sent.b) < 0.5 / 255.0) return vec3(0.15, 0.3, 0.85);
    return vec3(0.08 + 0.6 * dot(sent, vec3(0.2126, 0.7152, 0.0722)));
#elif VIEW == 2
    return v.a > 0.0 ? v.rgb * 0.5 + 0.5 : vec3(0.0);
#elif VIEW == 4
    float d = v.r > 0.0 ? frame.forward.w / v.r : 3.4e38; // metres along the view axis
    return vec3(1.0 - clamp((d - frame.depthNear) / max(frame.depthFar - frame.depthNear, 1e-6), 0.0, 1.0));
#elif VIEW == 5
    float hue = atan(v.g, v.r) / 6.2831853;
    vec3 color = clamp(abs(fract(hue + vec3(0.0, 2.0, 1.0) / 3.0) * 6.0 - 3.0) - 1.0, 0.0, 1.0);
    return mix(color, vec3(1.0), 0.25) * clamp(log2(1.0 + length(v.rg)) / 6.0, 0.0, 1.0);
#elif VIEW == 10
    return vec3(ditherAt(texel) + 0.5);
#elif VIEW == 6
    return vec3(clamp(v.r, 0.0, 1.0));
#else
    return clamp(v.rgb, 0.0, 1.0);
#endif
}

#ifdef STAGE
uniform ivec2 probed; // a texel of the picture's light
/// One pixel's value after a stage: 1 bloom and what else is laid over, 2 exposed, 3 balanced, 4 tone curve, 5 sRGB's code, 6 table.
vec3 stageValue() {
    vec3 v = texelFetch(sceneTexture, probed, 0).rgb;
#ifdef SLOT_POST
    v = slotPost(v, probed);
#endif
#if STAGE >= 2
    v = max(v, vec3(0.0)) * exposureScale();
#endif
#if STAGE == 3
    v *= parameters.toneBalance.rgb;
#elif STAGE >= 4
    v = toned(v);
#endif
#if STAGE >= 5
    if (parameters.outputForm.x != 0.0) v = srgbEncode(v);
#endif
#if STAGE >= 6 && defined(COLOR_TABLE)
    v = byTable(v);
#endif
    return v;
}
#endif

void main() {
#ifdef STAGE
    outColor = vec4(stageValue(), 1.0);
    return;
#endif
    countWork(0u);
    ivec2 size = textureSize(sceneTexture, 0);
    ivec2 p = ivec2(gl_FragCoord.xy);
    p.y = outputSize.y - 1 - p.y;
    vec3 sum;
#if VIEW == 7
    sum = bands(ivec2(gl_FragCoord.xy) * size / outputSize); // the picture's rows run from the top
#else
    if (size == outputSize) sum = shown(p);
    else {
        ivec2 low = p * size / outputSize, high = max(low + 1, (p + 1) * size / outputSize);
        sum = vec3(0.0);
        for (int y = low.y; y < high.y; ++y)
            for (int x = low.x; x < high.x; ++x)
                sum += shown(ivec2(x, y));
        sum /= float((high.x - low.x) * (high.y - low.y));
    }
#endif
#if VIEW == 0
    if (parameters.outputForm.x != 0.0) sum = srgbEncode(sum);
#ifdef COLOR_TABLE
    sum = byTable(sum);
#endif
#elif VIEW == 1
    sum = srgbEncode(sum);
#endif
#if VIEW == 7 || defined(CODED)
    outColor = vec4(sum, 1.0);
#else
    outColor = vec4(wholeCodes(sum, ivec2(gl_FragCoord.xy)), 1.0);
#endif
}
