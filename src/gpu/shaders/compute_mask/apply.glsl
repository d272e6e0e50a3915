#version 450 core
// The scene times ambient and lights, no more than 1.
#include "flat_stage/shown.glsl"
uniform sampler2D computedMask;

void main() {
    bool lit;
    vec3 scene = unlitPixel(lit), sum = texelFetch(computedMask, stagePixel(), 0).rgb;
    show(lit ? scene * clamp(parameters.flatLight.rgb + sum, 0.0, 1.0) : scene);
}
