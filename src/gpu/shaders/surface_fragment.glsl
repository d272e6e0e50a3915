#version 450 core
// Shades a surface. Variants:
//   PASS_FORWARD  ambient, emission and the draw's listed lights
//   PASS_AMBIENT  ambient and emission only
//   PASS_LIGHT    the one light `lightIndex`, to be added
//   PASS_LISTED   as PASS_FORWARD, with the lights of the fragment's cell
//   PASS_GBUFFER  the surface, and its ambient light and emission
//   PASS_LAYERS   the parts of PASS_FORWARD apart, one target each
//   PASS_PROBE    no picture: every surface that covers the pixel, into a buffer
//   PEEL          blended surfaces, only what lies behind the layer before
//   LEDGER_BLENDED  PASS_FORWARD or PASS_LISTED of the ledger: front to back, the target holds the transmittance
//   SHADING_MODEL, NORMALISED, WINDOW_SQUARED, NORMAL_MAPS, ALPHA_MASK, COUNT, LEDGER
#include "include/structs.glsl"
#if defined(COUNT) || defined(LEDGER)
#if !defined(ALPHA_MASK) && !defined(PEEL)
layout(early_fragment_tests) in; // counting must not switch early depth tests off
#endif
#endif
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/brdf.glsl"
#include "include/surface.glsl"
#include "include/ambient.glsl"
#define LEDGER_SURFACE
#include "include/ledger.glsl"
#ifdef PASS_PROBE
#include "include/probe.glsl"
#endif
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
#elif !defined(PASS_PROBE)
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
#ifdef PEEL
layout(location = 1) uniform int peelLayer;
layout(binding = 5) uniform sampler2D opaqueDepth;
layout(binding = 6) uniform sampler2D nearerDepth; // of the layer before
#endif

/// One light's two lobes at the surface, and its entry in the ledger.
void addLight(uint index, Surface s, vec3 toEye, inout vec3 diffuse, inout vec3 specular) {
    vec3 toLight, d = vec3(0.0), p = vec3(0.0);
#ifdef PASS_LIGHT
    LightData light = lights[index]; // the same for all
#else
    LightData light = fetchLight(index);
#endif
    vec3 irradiance = normalIrradiance(light, s.position, toLight);
    float facing = dot(s.normal, toLight);
    if (facing > 0.0 && irradiance.r + irradiance.g + irradiance.b > 0.0) { // in range, cone and horizon
        countReached();
        evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, s.roughness, frame.exponent, NORMALISED == 1, s.normal, toLight, toEye, d, p);
        vec3 received = irradiance * facing;
        d *= received;
        p *= received;
        diffuse += d;
        specular += p;
    }
#ifdef LEDGER_BLENDED
    enterWeighted(index, d + p, s.alpha * texelFetch(transmittance, ivec2(gl_FragCoord.xy), 0).r);
#else
    enterLight(index, d + p);
#endif
}

void main() {
#ifdef PEEL
    ivec2 texel = ivec2(gl_FragCoord.xy);
    if (gl_FragCoord.z <= texelFetch(opaqueDepth, texel, 0).r) discard; // hidden
    if (peelLayer > 0 && gl_FragCoord.z >= texelFetch(nearerDepth, texel, 0).r) discard; // in a layer already
#endif
    Surface s = readSurface();
    vec3 toEye = normalize(frame.eye.xyz - s.position);
    vec3 diffuse = vec3(0.0), specular = vec3(0.0);

#ifdef PASS_LIGHT
    countWork(1u);
    if (!s.unlit) addLight(lightIndex, s, toEye, diffuse, specular);
    outColor = vec4(diffuse + specular, 0.0);
#else
#if defined(PASS_LISTED)
    uint cell = cellOf(gl_FragCoord.xy, frame.forward.w / gl_FragCoord.z, frame.height);
    uint first = uint(grid.firstBounded), count = s.unlit ? 0u : first + listCount(cell);
    countWork(count);
    for (uint i = 0u; i < count; ++i)
        addLight(i < first ? i : listLight(cell, i - first), s, toEye, diffuse, specular);
#elif !defined(PASS_AMBIENT) && !defined(PASS_GBUFFER) && !defined(PASS_PROBE)
    uint first = draws[vertex.draw].lightOffset, count = s.unlit ? 0u : draws[vertex.draw].lightCount;
    countWork(count);
    for (uint i = 0u; i < count; ++i)
        addLight(lightIndices[first + i], s, toEye, diffuse, specular);
#else
    countWork(0u);
#endif
    vec3 ambient = s.unlit ? vec3(0.0) : ambientReflected(s.baseColor, s.metallic, s.occlusion, s.normal);
    vec3 emissive = s.unlit ? s.baseColor : s.emissive;
#ifdef PASS_PROBE
    enterSample(s, ambient, emissive, vertex.draw);
#elif defined(PASS_LAYERS)
    outAlbedo = vec4(s.baseColor, 1.0);
    outNormal = vec4(s.normal, 1.0);
    outMaterial = vec4(s.roughness, s.metallic, 0.0, 1.0);
    outAmbient = vec4(ambient, s.alpha);
    outDiffuse = vec4(diffuse, s.alpha);
    outSpecular = vec4(specular, s.alpha);
    outEmissive = vec4(emissive, s.alpha);
#elif defined(LEDGER_BLENDED)
    outColor = vec4(1.0 - s.alpha); // multiplies the transmittance
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
