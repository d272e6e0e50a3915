#version 450 core
// The draw that each pixel shows, plus one: for what is charged to objects where shading is done on the screen.
#include "include/structs.glsl"
#include "include/count.glsl"
#define VERTEX_INTERFACE in
#include "include/vertex_interface.glsl"
#ifdef ALPHA_MASK
#include "include/surface.glsl"
#endif
layout(location = 0) out float outDraw;

void main() {
#ifdef ALPHA_MASK
    readSurface();
#endif
    outDraw = float(vertex.draw + 1u);
}
