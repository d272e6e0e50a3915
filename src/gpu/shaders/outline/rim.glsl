#version 450 core
// The length of Sobel's gradient of the grown mask, cut to within a pixel of its rim: rim_of of src/core/finish/outline.cpp.
#include "include/structs.glsl"
#include "include/count.glsl"
uniform sampler2D grownMask;
layout(location = 0) out vec2 outRim;

float cutAt(ivec2 p) {
    float r = parameters.outline.x;
    return clamp(texelFetch(grownMask, clamp(p, ivec2(0), textureSize(grownMask, 0) - 1), 0).r * r * r / (2.0 * r - 1.0), 0.0, 1.0);
}

void main() {
    countWork(0u);
    ivec2 p = ivec2(gl_FragCoord.xy);
    float nw = cutAt(p + ivec2(-1, -1)), n = cutAt(p + ivec2(0, -1)), ne = cutAt(p + ivec2(1, -1)), w = cutAt(p + ivec2(-1, 0)),
          e = cutAt(p + ivec2(1, 0)), sw = cutAt(p + ivec2(-1, 1)), s = cutAt(p + ivec2(0, 1)), se = cutAt(p + ivec2(1, 1));
    outRim = vec2(min(1.0, length(vec2(ne + 2.0 * e + se - nw - 2.0 * w - sw, sw + 2.0 * s + se - nw - 2.0 * n - ne)) / 4.0));
}
