#version 450 core
// Motion of opaque surfaces; masked ones are cut out.
#include "include/structs.glsl"
#ifdef COUNT
#ifndef ALPHA_MASK
layout(early_fragment_tests) in;
#endif
#endif
#include "include/count.glsl"
#define VERTEX_INTERFACE in
#include "include/vertex_interface.glsl"
#ifdef ALPHA_MASK
#include "include/surface.glsl"
#endif
#include "motion/motion.glsl"
layout(location = 0) out vec2 outMotion;

void main() {
#ifdef ALPHA_MASK
    readSurface();
#endif
    countWork(0u);
    vec4 world = vec4(vertex.position, 1.0);
#ifdef BEND_BEFORE
    vec4 bent = vec4(vertex.before, 1.0);
#else
    vec4 bent = world;
#endif
    outMotion = motionBetween(motionEyes[EYE].before * (toBefore[vertex.draw] * bent), motionEyes[EYE].now * world);
}
