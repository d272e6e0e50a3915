#version 450 core
// Surroundings averaged over the lobe of a roughness, seen along its axis. The reference in double is src/core/ambient/environment.h.
// MIRROR: the lobe is one direction.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "environment/face.glsl"
uniform samplerCube surroundings;
uniform int firstSample, samples;
uniform samplerBuffer lobeSamples; // x and y of a direction about +Z, its share of the sum, mip of the surroundings whose texel is as wide as it stands for
uniform float heldScale; // what the target holds radiance divided by
uniform int firstBright, brights;
uniform vec2 lobeForm; // alpha of the lobe; 1 over its measure
uniform samplerBuffer brightSources; // two texels each: toward it; radiance times solid angle
layout(location = 0) out vec4 outColor;

void main() {
    vec3 n = faceDirection();
#ifdef MIRROR
    countOf(COUNTER_environmentSamples, 1u);
    outColor = vec4(min(textureLod(surroundings, n, 0.0).rgb / heldScale, vec3(65000.0)), 1.0); // what the target holds
#else
    countOf(COUNTER_environmentSamples, uint(samples + brights));
    vec3 t = normalize(cross(abs(n.y) < 0.9 ? vec3(0.0, 1.0, 0.0) : vec3(1.0, 0.0, 0.0), n)), b = cross(n, t);
    vec3 sum = vec3(0.0);
    for (int i = 0; i < samples; ++i) {
        vec4 l = texelFetch(lobeSamples, firstSample + i);
        sum += textureLod(surroundings, t * l.x + b * l.y + n * sqrt(max(0.0, 1.0 - l.x * l.x - l.y * l.y)), l.w).rgb * l.z;
    }
    float a2 = lobeForm.x * lobeForm.x;
    for (int i = 0; i < brights; ++i) { // GGX's distribution by the half vector's cosine
        vec3 to = texelFetch(brightSources, firstBright + 2 * i).xyz, away = n - to;
        float sine2 = 0.25 * dot(away, away), u = a2 * (1.0 - sine2) + sine2;
        sum += texelFetch(brightSources, firstBright + 2 * i + 1).rgb * (max(dot(n, to), 0.0) * lobeForm.y * a2 / (3.14159265 * u * u));
    }
    outColor = vec4(min(sum / heldScale, vec3(65000.0)), 1.0);
#endif
}
