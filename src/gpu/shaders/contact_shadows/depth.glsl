#version 450 core
// Distance along the view's axis, metres; 0 where no surface is.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
uniform sampler2D depthTexture;
layout(location = 0) out float outMetres;

void main() {
    float depth = texelFetch(depthTexture, ivec2(gl_FragCoord.xy), 0).r;
    countWork(0u);
    outMetres = depth > 0.0 ? frame.forward.w / depth : 0.0;
}
