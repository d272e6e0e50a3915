#version 450 core
// Chosen surfaces; masked ones are cut out. SEEN: where the frame's depth is theirs.
#include "include/structs.glsl"
#include "include/count.glsl"
#define VERTEX_INTERFACE in
#include "include/vertex_interface.glsl"
#ifdef ALPHA_MASK
#include "include/surface.glsl"
#endif
#ifdef SEEN
uniform sampler2D depthTexture;
#endif
layout(location = 0) out vec2 outMask;

void main() {
#ifdef ALPHA_MASK
    readSurface();
#endif
#ifdef SEEN
    if (gl_FragCoord.z < texelFetch(depthTexture, ivec2(gl_FragCoord.xy), 0).r) discard; // panes lie before what the depth holds
#endif
    countWork(0u);
    outMask = vec2(1.0);
}
