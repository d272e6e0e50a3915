// Light lists of tiles and clusters. C++ side: src/gpu/frame/gpu_structs.h (GridData) and src/core/cull/light_grid.h (the reference).
// Cell index: (slice * rows + row) * columns + column; rows from the top of the picture.

struct GridData {
    int columns;
    int rows;
    int slices;
    int tile;          // pixels
    int capacity;      // most lights in a list
    int depthBounds;   // 0 off, 1 min-max, 2 mask
    int test;          // 0 sphere against planes, 1 sphere against box
    int coneTest;
    float sliceNear;   // metres
    float sliceFar;
    float cameraNear;
    int firstBounded;  // directional lights come before and are in no list
    int lightCount;    // of all lights
    int transparent;   // 1: a second half of the lists, without near bounds, for blended surfaces
    vec2 extent;       // half extents of the picture at depth 1
    float sliceExponent; // 1: slices are exponential
    int eyeStride;     // entries from the left eye's lists to the right one's
    float pad0;
    float pad1;
};

layout(std430) readonly buffer GridBuffer { GridData grid; };

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
