#version 450 core
#extension GL_ARB_shader_viewport_layer_array : require
// One triangle over the whole of each eye's layer.
out vec2 ndc;

void main() {
    vec2 p = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
    ndc = p;
    gl_Position = vec4(p, 0.0, 1.0);
    gl_Layer = gl_InstanceID;
}
