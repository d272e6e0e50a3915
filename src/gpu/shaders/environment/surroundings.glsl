#version 450 core
// Radiance of the sky around the eye on a face of a cube, without discs and stars, which light as lamps do.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/sky_light.glsl"
#include "environment/face.glsl"
layout(location = 0) out vec4 outColor;

void main() {
    outColor = vec4(skyLight(faceDirection()), 1.0);
}
