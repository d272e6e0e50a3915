#version 450 core
// Cells of a sheet, an instance each.
#include "include/structs.glsl"
#include "flat_stage/quad.glsl"
uniform int firstQuad;
out vec2 uv;
flat out uint quadOfFragment;

void main() {
    Quad q = quads[firstQuad + gl_InstanceID];
    vec2 corner = vec2(gl_VertexID & 1, gl_VertexID >> 1) * 2.0 - 1.0;
    vec2 at = q.middle + corner.x * q.right + corner.y * q.up;
    uv = q.uvLow + q.uvSize * vec2(corner.x * 0.5 + 0.5, 0.5 - corner.y * 0.5);
    quadOfFragment = uint(firstQuad + gl_InstanceID);
    vec4 w = parameters.flatWindow;
    gl_Position = vec4((at - w.xy) / (w.zw - w.xy) * 2.0 - 1.0, 0.0, 1.0);
}
