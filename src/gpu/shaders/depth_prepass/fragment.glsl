#version 450 core
// Lays depth only; masked surfaces are cut out.
#include "include/structs.glsl"
#ifdef COUNT
#ifndef ALPHA_MASK
layout(early_fragment_tests) in;
#endif
#endif
#include "include/count.glsl"
#ifdef ALPHA_MASK
#include "include/surface.glsl"
#endif

void main() {
#ifdef ALPHA_MASK
    readSurface();
#endif
    countWork(0u);
}
