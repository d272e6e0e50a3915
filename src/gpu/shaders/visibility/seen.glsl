#version 450 core
// Counts the pixels that show each object: those that no opaque surface lies before.
#include "include/structs.glsl"
#define VERTEX_INTERFACE in
#include "include/vertex_interface.glsl"
#ifdef ALPHA_MASK
#include "include/count.glsl"
#include "include/surface.glsl"
#endif
layout(std430) buffer SeenPixelBuffer { uint seenPixels[]; }; // by object
uniform sampler2D seenDepth;

void main() {
#ifdef ALPHA_MASK
    readSurface();
#endif
    if (gl_FragCoord.z >= texelFetch(seenDepth, ivec2(gl_FragCoord.xy), 0).r) atomicAdd(seenPixels[draws[vertex.draw].object], 1u);
}
