#version 450 core
// Bends one body's vertices, each in a lane, into the vertices that every later pass draws.
layout(local_size_x = 64) in;
#define COMPUTE_STAGE
#include "include/bend.glsl"
layout(std430) writeonly buffer VertexBuffer { float vertices[]; }; // thirteen words a vertex, as src/core/scene/scene.h has it
uniform uint body;

void main() {
    uint vertex = gl_GlobalInvocationID.x;
    if (vertex >= bodies[body].vertices) return;
    BentVertex v = bentVertex(body, vertex, false);
    uint at = 13u * (bodies[body].firstVertex + vertex);
    for (uint c = 0u; c < 3u; ++c) {
        vertices[at + c] = v.position[c];
        vertices[at + 3u + c] = v.normal[c];
        vertices[at + 6u + c] = v.tangent[c];
    }
    vertices[at + 9u] = v.tangent.w;
}
