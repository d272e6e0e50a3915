#version 450 core
// The scene times its mask, the mask no more than 1.
#include "flat_stage/shown.glsl"
uniform sampler2D lightMask;

void main() {
    bool lit;
    vec3 scene = unlitPixel(lit);
    show(lit ? scene * clamp(stretched(lightMask), 0.0, 1.0) : scene);
}
