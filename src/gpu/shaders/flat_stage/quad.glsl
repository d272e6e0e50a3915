// One side of a pair: src/core/flat/flat_view.h holds Quad in C++, and a test compares every offset.
struct Quad {
    vec2 middle; // units
    vec2 right;  // half its width
    vec2 up;     // half its height
    vec2 uvLow;
    vec2 uvSize;
    vec2 glow;   // x: multiplies emission, y: normal scale
    vec4 tint;
    uint layer;
    uint flags;  // 1 lit, 2 has normals, 4 has emission, 8 shadows fall on it
    uint sprite;
    uint pad[5];
};
layout(std430) readonly buffer QuadBuffer { Quad quads[]; };
