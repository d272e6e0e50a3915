#version 450 core
// A level of the pyramid of farthest depths: each texel the farthest of the pixels (FIRST: 4x4 of the picture) or texels (2x2 of the level
// before) that it covers. Sizes are rounded up: src/core/visibility/visibility.cpp, pyramid_levels.
layout(local_size_x = 8, local_size_y = 8) in;
layout(std430) buffer OccluderPyramidBuffer { float pyramid[]; };
uniform ivec2 size;       // of the level
uniform int first;        // its first word
uniform ivec2 sizeBefore; // of what it is made from
#ifdef FIRST
uniform sampler2D occluderDepth;
const int across = 4;
float before(ivec2 at) { return texelFetch(occluderDepth, at, 0).r; }
#else
uniform int firstBefore;
const int across = 2;
float before(ivec2 at) { return pyramid[firstBefore + at.y * sizeBefore.x + at.x]; }
#endif

void main() {
    ivec2 at = ivec2(gl_GlobalInvocationID.xy);
    if (at.x >= size.x || at.y >= size.y) return;
    float farthest = 1.0; // reversed depth: 0 is far
    for (int y = 0; y < across; ++y)
        for (int x = 0; x < across; ++x)
            farthest = min(farthest, before(min(across * at + ivec2(x, y), sizeBefore - 1)));
    pyramid[first + at.y * size.x + at.x] = farthest;
}
