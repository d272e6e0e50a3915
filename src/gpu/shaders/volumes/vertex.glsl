#version 450 core
// A light's proxy mesh.
#include "include/structs.glsl"
layout(location = 0) in vec3 position;
uniform mat4 place; // unit mesh to world
invariant gl_Position; // marking and shading must land on the same depth

void main() { gl_Position = frame.viewProjection * (place * vec4(position, 1.0)); }
