// What stands in a cell of the occluder picture.
// One side of a pair: src/core/flat/occluder_picture.h holds PlaneBody in C++, and a test compares every offset.
#ifndef PLANE_BODY_GLSL
#define PLANE_BODY_GLSL
struct PlaneBody {
    vec4 sends;    // rgb: radiance, a: 1, of a light 2, of a spot its place in the view's lights and 3
    vec4 reflects; // rgb, a: height in units, 0: without end
};
layout(std430) readonly buffer PlaneBodyBuffer { PlaneBody bodies[]; };
#endif
