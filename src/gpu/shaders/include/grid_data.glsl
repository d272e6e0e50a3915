// How light lists lie. C++ side: src/gpu/frame/gpu_structs.h (GridData).
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
