#version 450 core
// Lamplight over the graded scene, rightly or in one of the wrong ways; core/flat/time_grade.h holds the same in double.
#include "flat_stage/shown.glsl"
uniform sampler2D gradedScene;
uniform sampler2D lampSum;

void main() {
    bool lit;
    vec3 base = unlitPixel(lit), dark = texelFetch(gradedScene, ivec2(gl_FragCoord.xy), 0).rgb;
    vec3 l = stretched(lampSum) * parameters.gradeShape.w;
    float largest = max(max(l.r, l.g), l.b);
    float lum = parameters.gradeMix.z != 0.0 ? (l.r + l.g + l.b) / 3.0 : dot(l, vec3(0.2126, 0.7152, 0.0722));
    int form = int(parameters.gradeMix.x);
    vec3 color = vec3(0.0);
    if (form == 0) color = mix(dark, base * l / max(largest, parameters.gradeShape.z), min(lum, 1.0));
    else if (form == 1) color = dark * l;
    else if (form == 2) color = dark * (1.0 + l);
    else if (form == 3) color = dark + l;
    else if (largest > 0.0) color = mix(dark, base * l / largest, min(lum, 1.0));
    show(parameters.gradeMix.y != 0.0 ? max(color, dark) : color);
}
