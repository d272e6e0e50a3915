#version 450 core
// A face of a cell that lets light through, over what lies behind.
#include "blocks/shade.glsl"
#include "include/count.glsl"
uniform int part;
in vec3 position;
flat in uint material;
flat in int face;
layout(location = 0) out vec4 outScene;

void main() {
    countWork(0u);
    BlockPixel p = blockPixel(position, material, face, part);
    outScene = vec4(blockRadiance(p, normalize(frame.eye.xyz - position)), blockPalette[material].color.a);
}
