#version 450 core
// Which surfaces ask the screen for their mirror image, and how much they take of it: by roughness, and by how far their mirrored ray turns back
// to the eye, where the picture holds only backs.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/screen.glsl"

uniform sampler2D mirrorShares;
layout(location = 0) out vec2 outMask; // how much; roughness

void main() {
    ivec2 pixel = ivec2(gl_FragCoord.xy);
#ifdef HALF
    pixel = pixelOfHalf(pixel);
#endif
    countOf(COUNTER_fragments, 1u);
    vec4 share = texelFetch(mirrorShares, pixel, 0); // square roots of the share; roughness
    float metres = metresAt(pixel), roughest = parameters.reflectionMask.x;
    outMask = vec2(0.0, share.a);
    if (metres <= 0.0 || dot(share.rgb, share.rgb) < 1e-4 || share.a >= roughest) return;
    vec3 toEye = -normalize(awayAt(pixelRays(), pixel, metres)), to = reflect(-toEye, normalAt(pixel));
    float smoothEnough = clamp((roughest - share.a) / (0.3 * roughest), 0.0, 1.0); // fades over the last part
    float turned = 1.0 - smoothstep(0.25, 0.75, dot(to, toEye));
    outMask.x = smoothEnough * turned;
}
