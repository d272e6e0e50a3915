#version 450 core
// One light at a pixel of a mask; blending joins it to the others. With CLAMPED no more than 1, as screens need it.
#define FLAT_STAGE
#include "flat_stage/lit.glsl"
uniform ivec2 maskSize;
flat in uint lightOfFragment;
flat in uint whole;
layout(location = 0) out vec4 outLight;

void main() {
    countWork(1u);
    vec2 share = gl_FragCoord.xy / vec2(maskSize);
    float pixels = float(frame.width * frame.height) / float(maskSize.x * maskSize.y);
    vec2 point = mix(parameters.flatWindow.xy, parameters.flatWindow.zw, share);
    outLight = vec4(litBy(lightOfFragment, ivec2(share * parameters.flatSize.xy), point, whole != 0u, pixels), 0.0);
}
