#version 450 core
// One value over a whole target: where a group of lights has lifted it no higher than that.
uniform vec3 value;
layout(location = 0) out vec4 outValue;

void main() {
    outValue = vec4(value, 1.0);
}
