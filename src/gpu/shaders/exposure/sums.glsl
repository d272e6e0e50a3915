#version 450 core
// Sums the meter's cells in blocks.
#include "include/structs.glsl"
#include "include/count.glsl"
uniform sampler2D meterCells;
uniform ivec2 blocks;
layout(location = 0) out vec2 outSums;

void main() {
    countWork(0u);
    ivec2 size = textureSize(meterCells, 0), block = ivec2(gl_FragCoord.xy);
    ivec2 low = block * size / blocks, high = (block + 1) * size / blocks;
    vec2 sums = vec2(0.0);
    for (int y = low.y; y < high.y; ++y)
        for (int x = low.x; x < high.x; ++x)
            sums += texelFetch(meterCells, ivec2(x, y), 0).rg;
    outSums = sums;
}
