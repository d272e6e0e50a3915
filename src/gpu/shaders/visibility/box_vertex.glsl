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
    // Of a face seen all but edge on, a pixel may get a depth nearer than any of its corners. An object of many pixels shows by others;
    // a small one is asked for at its nearest corner, less its own depth.
    float nearest = 3e38, farthest = -3e38;
    vec2 low = vec2(3e38), high = vec2(-3e38);
    for (int c = 0; c < 8; ++c) {
        vec4 corner = frame.viewProjection * vec4((c & 1) != 0 ? boxes[box].high.x : boxes[box].low.x,
                                                  (c & 2) != 0 ? boxes[box].high.y : boxes[box].low.y,
                                                  (c & 4) != 0 ? boxes[box].high.z : boxes[box].low.z, 1.0);
        nearest = min(nearest, corner.w);
        farthest = max(farthest, corner.w);
        low = min(low, corner.xy / corner.w);
        high = max(high, corner.xy / corner.w);
    }
    vec2 pixels = 0.5 * (high - low) * vec2(frame.width, frame.height);
    if (nearest > frame.forward.w && max(pixels.x, pixels.y) < 16.0)
        gl_Position.z *= gl_Position.w / max(2.0 * nearest - farthest, frame.forward.w); // depth is near over distance
}
