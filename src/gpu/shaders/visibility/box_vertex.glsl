#version 450 core
// An object's box, as 12 triangles.
#include "include/structs.glsl"
#include "visibility/boxes.glsl"
uniform int box;
const int corners[36] = int[36](0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6, 1, 3, 5, 3, 7, 5);

void main() {
    int k = corners[gl_VertexID];
    vec3 at = vec3((k & 1) != 0 ? boxes[box].high.x : boxes[box].low.x, (k & 2) != 0 ? boxes[box].high.y : boxes[box].low.y,
                   (k & 4) != 0 ? boxes[box].high.z : boxes[box].low.z);
    gl_Position = frame.viewProjection * vec4(at, 1.0);
}
