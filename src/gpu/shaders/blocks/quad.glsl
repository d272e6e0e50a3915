// One side of a pair: src/core/blocks/mesh.h holds Quad in C++.
layout(std430) readonly buffer BlockQuadBuffer { uvec2 blockQuads[]; };
