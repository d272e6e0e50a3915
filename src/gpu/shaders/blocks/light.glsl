#version 450 core
// The picture's light: of cells by the way, and the sky where none is.
#include "blocks/target.glsl"
#include "blocks/shade.glsl"
#include "include/count.glsl"
in vec2 ndc;
layout(location = 0) out vec4 outScene;

void main() {
    countWork(0u);
    BlockPixel p;
    if (readBlockPixel(ivec2(gl_FragCoord.xy), p)) {
        outScene = vec4(blockRadiance(p, normalize(frame.eye.xyz - p.position)), 1.0);
        return;
    }
    vec4 far = frame.inverseViewProjection * vec4(ndc, 1.0, 1.0); // a point on the near plane
    float up = normalize(far.xyz / far.w - frame.eye.xyz).y;
    outScene = vec4(mix(parameters.blockHorizon.rgb, parameters.blockZenith.rgb, sqrt(clamp(up, 0.0, 1.0))), 1.0);
}
