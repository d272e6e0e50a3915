#version 450 core
#include "include/structs.glsl"
#include "include/count.glsl"
flat in float body;
layout(location = 0) out vec4 outBody;

void main() {
    countWork(0u);
    outBody = vec4(body);
}
