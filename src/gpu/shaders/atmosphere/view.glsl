#version 450 core
// Radiance of the sky around the eye, without discs and stars.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/atmosphere.glsl"
layout(location = 0) out vec4 outRadiance;

void main() {
    outRadiance = vec4(marchSky(parameters.skyLight.w, viewDirection(gl_FragCoord.xy, parameters.skyLight.w), marchSteps), 1.0);
}
