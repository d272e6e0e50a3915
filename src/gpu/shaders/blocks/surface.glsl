#version 450 core
// A cell's face into targets: its material, which way it looks, and of which part it is.
#include "include/structs.glsl"
#include "include/count.glsl"
uniform int part;
in vec3 position;
flat in uint material;
flat in int face;
layout(location = 0) out vec4 outSurface;

void main() {
    countWork(0u);
    outSurface = vec4(float(material), float(face), float(part), 255.0) / 255.0;
}
