#version 450 core
// Adds the shafts, which are half as large, to the picture.
#include "include/structs.glsl"
#include "include/count.glsl"
uniform sampler2D shaftsTexture;
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    vec2 size = vec2(textureSize(shaftsTexture, 0)), at = clamp(gl_FragCoord.xy * 0.5, vec2(0.5), size - 0.5);
    outColor = vec4(textureLod(shaftsTexture, at / size, 0.0).rgb, 0.0);
}
