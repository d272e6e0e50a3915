#version 450 core
// Lays depth, with NORMALS the surfaces' normals too; masked surfaces are cut out.
#include "include/structs.glsl"
#ifdef COUNT
#ifndef ALPHA_MASK
layout(early_fragment_tests) in;
#endif
#endif
#include "include/count.glsl"
#if defined(ALPHA_MASK) || defined(NORMALS)
#include "include/surface.glsl"
#endif
#ifdef NORMALS
#include "include/gbuffer.glsl"
layout(location = 0) out vec4 outNormal;
#endif

void main() {
#ifdef NORMALS
    outNormal = packNormal(readSurface().normal);
#elif defined(ALPHA_MASK)
    readSurface();
#endif
    countWork(0u);
}
