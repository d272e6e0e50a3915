// Light lists of tiles and clusters. C++ side: src/gpu/frame/gpu_structs.h (GridData) and src/core/cull/light_grid.h (the reference).
// Cell index: (slice * rows + row) * columns + column; rows from the top of the picture.

#include "include/grid_data.glsl"

#ifndef GRID_BLOCK
#define GRID_BLOCK GridBuffer // whose lists: the surfaces', or others of the same form
#endif
layout(std430) readonly buffer GRID_BLOCK { GridData grid; };

/// The slice of a view depth in metres (Olsson, Billeter, Assarsson 2012).
int sliceOf(float depth) {
    if (grid.slices <= 1 || depth <= grid.sliceNear) return 0;
    float t = pow(log(depth / grid.sliceNear) / log(grid.sliceFar / grid.sliceNear), 1.0 / grid.sliceExponent);
    return clamp(int(t * float(grid.slices)), 0, grid.slices - 1);
}

/// The cell of a fragment: gl_FragCoord.xy (y up) and its view depth.
uint cellOf(vec2 fragCoord, float depth, int height) {
    ivec2 p = ivec2(int(fragCoord.x), height - 1 - int(fragCoord.y)) / grid.tile;
    return uint((sliceOf(depth) * grid.rows + p.y) * grid.columns + p.x);
}
