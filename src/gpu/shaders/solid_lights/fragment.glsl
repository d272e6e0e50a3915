#version 450 core
// A solid-shape light's tint over what its stencil marked: the picture is multiplied with it. Where air is between, what the air adds
// stays as it is.
#undef LEDGER // its share is measured from outside, with this shader as it is
#include "include/structs.glsl"
layout(early_fragment_tests) in;
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/air.glsl"
uniform vec3 tint;
layout(location = 0, index = 0) out vec4 outAdds;
layout(location = 0, index = 1) out vec4 outKeeps;
#ifdef SLOT_AIR
uniform sampler2D depthTexture;
#endif

void main() {
    countWork(0u);
    countOf(COUNTER_solidFragments, 1u);
    outKeeps = vec4(tint, 1.0);
#ifdef SLOT_AIR
    vec2 ndc = 2.0 * gl_FragCoord.xy / vec2(frame.width, frame.height) - 1.0;
    vec4 p = frame.inverseViewProjection * vec4(ndc, texelFetch(depthTexture, ivec2(gl_FragCoord.xy), 0).r, 1.0);
    vec3 transmittance, scattered;
    airBefore(p.xyz / p.w, false, transmittance, scattered);
    outAdds = vec4(scattered * (1.0 - tint), 0.0);
#else
    outAdds = vec4(0.0);
#endif
}
