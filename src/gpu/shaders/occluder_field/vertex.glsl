#version 450 core
// Walls and lights as triangles of the small picture.
#include "include/structs.glsl"
struct OccluderPoint {
    vec2 place;  // units
    float body;  // into the bodies, and one
    float pad;
};
layout(std430) readonly buffer OccluderPointBuffer { OccluderPoint corners[]; };
flat out float body;

void main() {
    OccluderPoint p = corners[gl_VertexID];
    body = p.body;
    vec4 g = parameters.flatGrid;
    gl_Position = vec4((p.place - g.xy) / (g.zw - g.xy) * 2.0 - 1.0, 0.0, 1.0);
}
