#version 450 core
// Grows a mask by a disc, one axis after the other: grown_mask of src/core/finish/outline.cpp. DOWN: the height.
#include "include/structs.glsl"
#include "include/count.glsl"
#ifdef DOWN
uniform sampler2D grownAcross;
#define FROM grownAcross
const ivec2 along = ivec2(0, 1);
#else
uniform sampler2D outlineMask;
#define FROM outlineMask
const ivec2 along = ivec2(1, 0);
#endif
layout(location = 0) out vec2 outGrown;

void main() {
    countWork(0u);
    int radius = int(parameters.outline.x);
    float narrow = 1.0 / float(radius * radius), most = 0.0;
    ivec2 p = ivec2(gl_FragCoord.xy), last = textureSize(FROM, 0) - 1;
    for (int i = -radius; i <= radius; ++i)
        most = max(most, texelFetch(FROM, clamp(p + i * along, ivec2(0), last), 0).r - float(i * i) * narrow);
    outGrown = vec2(most);
}
