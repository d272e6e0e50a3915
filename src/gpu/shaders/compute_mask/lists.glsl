#version 450 core
// Which lights touch which tile of 16 pixels: a lane makes one word of one tile, thirty-two lights; no lane waits for another.
layout(local_size_x = 64) in;
#define COMPUTE_STAGE
#include "compute_mask/order.glsl"
layout(std430) writeonly buffer FlatTileBuffer { uint listed[]; };
uniform int columns;
uniform int tiles;

void main() {
    int words = (orderCount + 31) / 32, at = int(gl_GlobalInvocationID.x);
    if (at >= tiles * words) return;
    int tile = at / words, first = at % words * 32;
    vec2 low = vec2(tile % columns, tile / columns) * 16.0, high = low + 16.0;
    uint bits = 0u;
    for (int i = first; i < min(first + 32, orderCount); ++i) {
        vec4 box = order[i].box;
        if (box.x < high.x && box.z > low.x && box.y < high.y && box.w > low.y) bits |= 1u << (i - first);
    }
    listed[at] = bits;
}
