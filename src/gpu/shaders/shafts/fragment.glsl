#version 450 core
// Shafts in screen space: from each pixel toward the sun in the picture, the share of places at which the sky is open (K. Mitchell, Volumetric
// Light Scattering as a Post-Process, 2007).
#include "include/structs.glsl"
#include "include/count.glsl"
uniform sampler2D depthTexture;
layout(location = 0) out vec4 outColor;

void main() {
    countWork(0u);
    vec2 size = vec2(frame.width, frame.height), from = (floor(gl_FragCoord.xy) * 2.0 + 1.0) / size;
    vec2 step_ = (parameters.shaftSource.xy - from) * parameters.shaftSource.z;
    int samples = int(parameters.shaftLight.w);
    countOf(COUNTER_shaftSamples, uint(samples));
    float open_ = 0.0, whole = 0.0;
    for (int i = 0; i < samples; ++i) {
        float s = (float(i) + 0.5) / float(samples), weight = exp(-parameters.shaftSource.w * s);
        vec2 at = from + step_ * s;
        bool inside = all(greaterThanEqual(at, vec2(0.0))) && all(lessThan(at, vec2(1.0)));
        open_ += inside && texelFetch(depthTexture, ivec2(at * size), 0).r == 0.0 ? weight : 0.0;
        whole += weight;
    }
    outColor = vec4(parameters.shaftLight.rgb * (open_ / whole), 1.0);
}
