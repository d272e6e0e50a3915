#version 450 core
// The scene under the time of day; core/flat/time_grade.h holds the same in double.
#include "flat_stage/shown.glsl"

void main() {
    bool lit;
    vec4 tint = parameters.gradeTint, shape = parameters.gradeShape;
    vec3 c = unlitPixel(lit) * tint.rgb;
    c = mix(vec3(dot(c, vec3(0.2126, 0.7152, 0.0722))), c, tint.a);
    c = 0.18 + (c - 0.18) * shape.x;
    c = shape.y + max(c, vec3(0.0)) * (1.0 - shape.y);
    show(lit ? c : c * parameters.gradeSky.a + parameters.gradeSky.rgb);
}
