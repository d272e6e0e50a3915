#version 450 core
// Deferred shading: the surface from the G-buffer, lit by every light (LISTS 0) or by those of its cell's list (LISTS 1).
// Ambient light and emission are in the scene target already; this is added to it.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/brdf.glsl"
#include "include/gbuffer.glsl"
#if LISTS
#include "include/lists.glsl"
#endif

layout(binding = 0) uniform sampler2D baseColorMetallic;
layout(binding = 1) uniform sampler2D normals;
layout(binding = 2) uniform sampler2D roughnessUnlit;
layout(binding = 3) uniform sampler2D depthTexture;
layout(location = 0) uniform uint firstBounded; // directional lights come first
layout(location = 1) uniform uint lightCount;
in vec2 ndc;
layout(location = 0) out vec4 outColor;

void main() {
    ivec2 p = ivec2(gl_FragCoord.xy);
    float depth = texelFetch(depthTexture, p, 0).r;
    vec2 roughness = texelFetch(roughnessUnlit, p, 0).rg;
    if (depth <= 0.0 || roughness.y > 0.5) {
        countWork(0u);
        discard;
    }
    vec4 base = texelFetch(baseColorMetallic, p, 0);
    vec3 baseColor = unpackColor(base.rgb);
    vec3 normal = unpackNormal(texelFetch(normals, p, 0));
    vec4 world = frame.inverseViewProjection * vec4(ndc, depth, 1.0);
    vec3 position = world.xyz / world.w;
    vec3 toEye = normalize(frame.eye.xyz - position);
    vec3 sum = vec3(0.0);
#if LISTS
    uint cell = cellOf(gl_FragCoord.xy, frame.forward.w / depth, frame.height);
    uint listed = listCount(cell), count = firstBounded + listed;
#else
    uint count = lightCount;
#endif
    countWork(count);
    for (uint i = 0u; i < count; ++i) {
#if LISTS
        uint l = i < firstBounded ? i : listLight(cell, i - firstBounded);
#else
        uint l = i;
#endif
        vec3 toLight, diffuse, specular;
        vec3 irradiance = normalIrradiance(lights[l], position, toLight);
        float facing = dot(normal, toLight);
        if (facing <= 0.0 || irradiance.r + irradiance.g + irradiance.b <= 0.0) continue;
        evaluateBrdf(SHADING_MODEL, baseColor, base.a, roughness.x, frame.exponent, NORMALISED == 1, normal, toLight, toEye, diffuse, specular);
        sum += (diffuse + specular) * irradiance * facing;
    }
    outColor = vec4(sum, 0.0);
}
