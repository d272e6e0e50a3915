#version 450 core
// One round of a flood by jumps (G. Rong and T.-S. Tan, Jump Flooding in GPU with Applications to Voronoi Diagram and Distance
// Transform, 2006): each cell asks nine for the nearest wall and the nearest open cell that they know of. FIRST: from the
// occluders, without a jump.
layout(local_size_x = 16, local_size_y = 4) in;
#define COMPUTE_STAGE
#include "include/structs.glsl"
#include "include/count.glsl"
#if defined(FIRST)
uniform sampler2D flatOccluders;
layout(rg32f) uniform writeonly image2D floodAImage;
#define TARGET floodAImage
#elif defined(INTO_B)
uniform sampler2D floodA;
layout(rg32f) uniform writeonly image2D floodBImage;
#define KNOWN floodA
#define TARGET floodBImage
#else
uniform sampler2D floodB;
layout(rg32f) uniform writeonly image2D floodAImage;
#define KNOWN floodB
#define TARGET floodAImage
#endif
uniform int jump;

/// A cell of that number; a division of floats, put right where it was rounded into the row before or after.
vec2 cellOf(float number, float width) {
    float row = floor((number + 0.5) / width), column = number - row * width;
    float off = column < 0.0 ? -1.0 : column >= width ? 1.0 : 0.0;
    return vec2(column - off * width, row + off);
}

void main() {
    ivec2 at = ivec2(gl_GlobalInvocationID.xy), size = imageSize(TARGET);
    if (any(greaterThanEqual(at, size))) return;
    // A cell's number in rows: exact in a float up to 2^24.
#ifdef FIRST
    float self = float(at.y * size.x + at.x);
    bool solid = texelFetch(flatOccluders, at, 0).r > 0.0;
    imageStore(TARGET, at, vec4(solid ? self : -1.0, solid ? -1.0 : self, 0.0, 0.0));
#else
    float width = float(size.x);
    vec2 self = vec2(at), best = vec2(-1.0), least = vec2(3.0e38);
    for (int y = -1; y <= 1; ++y)
        for (int x = -1; x <= 1; ++x) {
            ivec2 other = at + ivec2(x, y) * jump;
            if (any(lessThan(other, ivec2(0))) || any(greaterThanEqual(other, size))) continue;
            vec2 known = texelFetch(KNOWN, other, 0).rg;
            vec2 toWall = cellOf(known.x, width) - self, toOpen = cellOf(known.y, width) - self;
            float wall = dot(toWall, toWall), open = dot(toOpen, toOpen);
            if (known.x >= 0.0 && wall < least.x) {
                least.x = wall;
                best.x = known.x;
            }
            if (known.y >= 0.0 && open < least.y) {
                least.y = open;
                best.y = known.y;
            }
        }
    imageStore(TARGET, at, vec4(best, 0.0, 0.0));
#endif
    countOf(COUNTER_cellsFlooded, 1u);
}
