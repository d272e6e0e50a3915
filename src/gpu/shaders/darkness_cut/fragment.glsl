#version 450 core
// The scene under the dark layer.
#include "flat_stage/shown.glsl"
uniform sampler2D darkness;

void main() {
    bool lit;
    vec3 scene = unlitPixel(lit);
    show(lit ? scene * (1.0 - clamp(stretched(darkness), 0.0, 1.0)) : scene);
}
