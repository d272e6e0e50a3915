#version 450 core
// Motion of what is infinitely far away: only the camera's turning moves it.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "motion/motion.glsl"
in vec2 ndc;
layout(location = 0) out vec2 outMotion;

void main() {
    countWork(0u);
    vec4 p = frame.inverseViewProjection * vec4(ndc, 1.0, 1.0); // a point on the near plane
    vec4 direction = vec4(p.xyz / p.w - frame.eye.xyz, 0.0);
    outMotion = motionBetween(motionEyes[EYE].before * direction, motionEyes[EYE].now * direction);
}
