#version 450 core
// Rectangles of cells, an instance each.
#include "blocks/world.glsl"
#include "blocks/quad.glsl"
uniform int firstQuad;
uniform int part;
out vec3 position;
flat out uint material;
flat out int face;

void main() {
    uvec2 q = blockQuads[firstQuad + gl_InstanceID];
    ivec3 cell = ivec3(q.x & 1023u, q.x >> 10 & 1023u, q.x >> 20 & 1023u);
    face = int(q.x >> 30 | (q.y & 1u) << 2);
    material = q.y >> 11 & 255u;
    vec2 size = vec2(q.y >> 1 & 31u, q.y >> 6 & 31u) + 1.0;
    ivec2 axes = blockAxes[face >> 1];
    vec3 at = vec3(cell);
    at[face >> 1] += (face & 1) == 0 ? 1.0 : 0.0;
    at[axes.x] += size.x * float(gl_VertexID & 1);
    at[axes.y] += size.y * float(gl_VertexID >> 1);
    position = (blockParts[part].toWorld * vec4(at, 1.0)).xyz;
    gl_Position = frame.viewProjection * vec4(position, 1.0);
}
