#version 450 core
// A bell of radius bloomParts.z, three of its standard deviations, along one axis. DOWN: the height.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/spread_light.glsl"
#ifdef DOWN
uniform sampler2D glowAcross;
#define FROM glowAcross
const ivec2 along = ivec2(0, 1);
#else
uniform sampler2D brightParts;
#define FROM brightParts
const ivec2 along = ivec2(1, 0);
#endif
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    int radius = int(parameters.bloomParts.z);
    float narrow = -4.5 / (parameters.bloomParts.z * parameters.bloomParts.z);
    vec4 sum = vec4(0.0);
    for (int i = -radius; i <= radius; ++i)
        sum += exp(narrow * float(i * i)) * vec4(edgeTexel(FROM, ivec2(gl_FragCoord.xy) + i * along), 1.0);
    countOf(COUNTER_bloomReads, uint(2 * radius + 1));
    outColor = vec4(sum.rgb / sum.a, 1.0);
}
