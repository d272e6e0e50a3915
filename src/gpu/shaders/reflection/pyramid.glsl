#version 450 core
// The nearest metres of each two by two texels: rays pass by all that lies behind it at once.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#ifdef FIRST
uniform sampler2D depthTexture;
#else
uniform sampler2D finer;
#endif
layout(location = 0) out float outNearest;

void main() {
    ivec2 texel = ivec2(gl_FragCoord.xy);
    countOf(COUNTER_fragments, 1u);
#ifdef FIRST
    float depth = texelFetch(depthTexture, texel, 0).r;
    outNearest = depth > 0.0 ? frame.forward.w / depth : 1e30;
#else
    ivec2 last = textureSize(finer, 0) - 1, base = 2 * texel;
    outNearest = 1e30;
    // An odd size leaves a row and a column over: the last texel takes them as well.
    int right = base.x + 2 == last.x ? 2 : 1, top = base.y + 2 == last.y ? 2 : 1;
    for (int y = 0; y <= top; ++y)
        for (int x = 0; x <= right; ++x)
            outNearest = min(outNearest, texelFetch(finer, min(base + ivec2(x, y), last), 0).r);
#endif
}
