#version 450 core
// Puts the screen's answers in the place of what surfaces mirror of the surroundings, as far as they are sure.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/lighting.glsl"
#include "include/ambient.glsl"
#include "include/screen.glsl"

uniform sampler2D mirrorShares;
layout(location = 0) out vec4 outColor;

void main() {
    ivec2 pixel = ivec2(gl_FragCoord.xy);
    countWork(0u);
    vec4 share = texelFetch(mirrorShares, pixel, 0);
    vec3 point;
    if (dot(share.rgb, share.rgb) <= 0.0 || !pointAt(pixel, point)) discard;
    vec3 n = normalAt(pixel), toEye = normalize(frame.eye.xyz - point);
    vec4 seen = slotReflection(point, n, toEye, share.a);
    if (seen.a <= 0.0) discard;
    vec3 probes;
    vec3 change = share.rgb * share.rgb * (seen.rgb - seen.a * mirroredAround(point, n, toEye, share.a, probes));
    outColor = vec4(dimmedByAir(change, point), 0.0);
}
