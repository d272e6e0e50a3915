#version 450 core
// Shades a surface. Variants:
//   PASS_FORWARD  ambient, emission and the draw's listed lights
//   PASS_AMBIENT  ambient and emission only
//   PASS_LIGHT    the one light `lightIndex`, to be added
//   PASS_LISTED   as PASS_FORWARD, with the lights of the fragment's cell
//   PASS_GBUFFER  the surface, and its ambient light and emission
//   PASS_LAYERS   the parts of PASS_FORWARD apart, one target each
//   SHADING_MODEL, NORMALISED, WINDOW_SQUARED, NORMAL_MAPS, ALPHA_MASK, COUNT
#include "include/structs.glsl"
#ifdef COUNT
#ifndef ALPHA_MASK
layout(early_fragment_tests) in; // counting must not switch early depth tests off
#endif
#endif
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/brdf.glsl"
#include "include/surface.glsl"
#include "include/ambient.glsl"
#ifdef PASS_LISTED
#include "include/lists.glsl"
#endif
#ifdef PASS_GBUFFER
#include "include/gbuffer.glsl"
#endif

#ifndef SHADING_MODEL
#define SHADING_MODEL MODEL_GGX
#endif
#ifndef NORMALISED
#define NORMALISED 1
#endif

#ifdef PASS_LAYERS
layout(location = 0) out vec4 outAlbedo;
layout(location = 1) out vec4 outNormal;
layout(location = 2) out vec4 outMaterial;
layout(location = 3) out vec4 outAmbient;
layout(location = 4) out vec4 outDiffuse;
layout(location = 5) out vec4 outSpecular;
layout(location = 6) out vec4 outEmissive;
#else
layout(location = 0) out vec4 outColor;
#ifdef PASS_GBUFFER
layout(location = 1) out vec4 outBase;
layout(location = 2) out vec4 outNormal;
layout(location = 3) out vec4 outRoughness;
#endif
#endif
#ifdef PASS_LIGHT
layout(location = 0) uniform uint lightIndex;
#endif

void addLight(LightData light, Surface s, vec3 toEye, inout vec3 diffuse, inout vec3 specular) {
    vec3 toLight;
    vec3 irradiance = normalIrradiance(light, s.position, toLight);
    float facing = dot(s.normal, toLight);
    if (facing <= 0.0 || irradiance.r + irradiance.g + irradiance.b <= 0.0) return; // out of range, cone or horizon
    vec3 d, p;
    evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, s.roughness, frame.exponent, NORMALISED == 1, s.normal, toLight, toEye, d, p);
    vec3 received = irradiance * facing;
    diffuse += d * received;
    specular += p * received;
}

void main() {
    Surface s = readSurface();
    vec3 toEye = normalize(frame.eye.xyz - s.position);
    vec3 diffuse = vec3(0.0), specular = vec3(0.0);

#ifdef PASS_LIGHT
    countWork(1u);
    if (!s.unlit) addLight(lights[lightIndex], s, toEye, diffuse, specular);
    outColor = vec4(diffuse + specular, 0.0);
#else
#if defined(PASS_LISTED)
    uint cell = cellOf(gl_FragCoord.xy, frame.forward.w / gl_FragCoord.z, frame.height);
    uint first = uint(grid.firstBounded), count = s.unlit ? 0u : first + listCount(cell);
    countWork(count);
    for (uint i = 0u; i < count; ++i)
        addLight(lights[i < first ? i : listLight(cell, i - first)], s, toEye, diffuse, specular);
#elif !defined(PASS_AMBIENT) && !defined(PASS_GBUFFER)
    uint first = draws[vertex.draw].lightOffset, count = s.unlit ? 0u : draws[vertex.draw].lightCount;
    countWork(count);
    for (uint i = 0u; i < count; ++i)
        addLight(lights[lightIndices[first + i]], s, toEye, diffuse, specular);
#else
    countWork(0u);
#endif
    vec3 ambient = s.unlit ? vec3(0.0) : ambientReflected(s.baseColor, s.metallic, s.occlusion, s.normal);
    vec3 emissive = s.unlit ? s.baseColor : s.emissive;
#ifdef PASS_LAYERS
    outAlbedo = vec4(s.baseColor, 1.0);
    outNormal = vec4(s.normal, 1.0);
    outMaterial = vec4(s.roughness, s.metallic, 0.0, 1.0);
    outAmbient = vec4(ambient, s.alpha);
    outDiffuse = vec4(diffuse, s.alpha);
    outSpecular = vec4(specular, s.alpha);
    outEmissive = vec4(emissive, s.alpha);
#else
    outColor = vec4(ambient + emissive + diffuse + specular, s.alpha);
#endif
#ifdef PASS_GBUFFER
    outBase = vec4(packColor(s.baseColor), s.metallic);
    outNormal = packNormal(s.normal);
    outRoughness = vec4(s.roughness, s.unlit ? 1.0 : 0.0, 0.0, 1.0);
#endif
#endif
}
