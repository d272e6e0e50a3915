#version 450 core
// One triangle over the whole target, at the far plane of reversed depth.
out vec2 ndc;

void main() {
    vec2 p = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
    ndc = p;
    gl_Position = vec4(p, 0.0, 1.0);
}
