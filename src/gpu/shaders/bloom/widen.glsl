#version 450 core
// A level's share of the wider ones: blended over what the level holds by alpha.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/spread_light.glsl"
uniform sampler2D coarser;
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    countOf(COUNTER_bloomReads, 4u);
    outColor = vec4(doubledAt(coarser, ivec2(gl_FragCoord.xy)), parameters.bloom.w);
}
