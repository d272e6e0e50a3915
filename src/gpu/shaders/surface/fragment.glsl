#version 450 core
// Shades a surface. Variants:
//   PASS_LIT      ambient, emission and the lights that LIGHTS_OF names
//   PASS_AMBIENT  ambient and emission only
//   PASS_LIGHT    the one light `lightIndex`, to be added
//   PASS_GBUFFER  the surface, and its ambient light (not with AMBIENT_LATER) and emission
//   PASS_LAYERS   layers of the surface, one target each
//   PASS_PROBE    no picture: every surface that covers the pixel, into a buffer
//   BLENDED       of surfaces that the picture's depth does not hold
//   COVERING      blended surfaces that cover enough to count as what is seen
//   PEEL          blended surfaces, only what lies behind the layer before
//   LEDGER_BLENDED  PASS_LIT of the ledger: front to back, the target holds the transmittance
//   LIGHTS_OF, SHADING_MODEL, NORMALISED, WINDOW_SQUARED, NORMAL_MAPS, ALPHA_MASK, COUNT, LEDGER
#include "include/structs.glsl"
#if defined(COUNT) || defined(LEDGER)
#if !defined(ALPHA_MASK) && !defined(PEEL)
layout(early_fragment_tests) in; // counting must not switch early depth tests off
#endif
#endif
#ifndef LIGHTS_OF
#define LIGHTS_OF 0
#endif
#define LEDGER_SURFACE
#include "include/lighting.glsl"
#include "include/surface.glsl"
#include "include/ambient.glsl"
#include "include/baked.glsl"
#ifdef PASS_PROBE
#include "include/probe.glsl"
#endif
#ifdef PASS_GBUFFER
#include "include/gbuffer.glsl"
#endif
#ifdef PASS_LAYERS
#include "generated/layers.glsl"
uniform uint chosenLight; // of the layer `light`; all bits: none
uniform uint firstBlended; // of the draws
#elif !defined(PASS_PROBE)
layout(location = 0) out vec4 outColor;
#ifdef MIRROR_SHARES
#ifdef PASS_GBUFFER
layout(location = 4) out vec4 outShare;
#else
layout(location = 1) out vec4 outShare;
#endif
#endif
#ifdef DIFFUSE_TARGET
layout(location = DIFFUSE_TARGET) out vec4 outDiffuse; // of surfaces that let light in; alpha: number of their optics
#endif
#ifdef PASS_GBUFFER
layout(location = 1) out vec4 outBase;
layout(location = 2) out vec4 outNormal;
layout(location = 3) out vec4 outRoughness;
#ifdef PLACE_TARGET
layout(location = PLACE_TARGET) out vec4 outPlace; // in what was baked by texel, over its size
#endif
#endif
#endif
#ifdef PEEL
uniform int peelLayer;
uniform sampler2D depthTexture;
uniform sampler2D nearerDepth; // of the layer before
#endif

/// Of the thickness that the material tells, what lies here.
float thicknessShare(Surface s) { return s.optics.thickness > 0.0 ? s.thickness / s.optics.thickness : 0.0; }

void main() {
#ifdef PEEL
    ivec2 texel = ivec2(gl_FragCoord.xy);
    if (gl_FragCoord.z <= texelFetch(depthTexture, texel, 0).r) discard; // hidden
    if (peelLayer > 0 && gl_FragCoord.z >= texelFetch(nearerDepth, texel, 0).r) discard; // in a layer already
#endif
    Surface s = readSurface();
#ifdef COVERING
    if (s.alpha < 0.1) discard; // src/core/rays/ray_scene.h: least_cover
#endif
    enterFragment(vertex.draw);
    receivesShadows = draws[vertex.draw].unshadowed == 0u;
    vec3 diffuse = vec3(0.0), specular = vec3(0.0);
#ifdef MAP_PLACES
    placed = vertex.mapped != 0u;
    placeHere = vertex.place.xy;
#ifdef LIGHT_MAP
    lightMapped = placed;
#endif
#endif
#if defined(SLOT_BAKED_OCCLUSION) && !defined(BLENDED) && !defined(PASS_LIGHT)
#ifdef OPEN_VERTICES
    opennessHere = vertex.openness;
    bakedOpen = slotBakedOcclusion(vec2(0.0));
#elif defined(MAP_PLACES)
    if (placed) bakedOpen = slotBakedOcclusion(placeHere);
#endif
    s.occlusion *= bakedOpen;
#endif
#if defined(PASS_LIT) || defined(PASS_LIGHT) || defined(PASS_LAYERS) || defined(SLOT_BAKED)
    LitSurface lit = LitSurface(s.position, s.normal, normalize(frame.eye.xyz - s.position), s.baseColor, s.metallic, s.roughness, s.optics, s.thickness, s.alpha, vertex.draw,
                                frame.forward.w / gl_FragCoord.z, s.unlit);
#endif
#if defined(PASS_LIT) || defined(PASS_LIGHT) || defined(PASS_LAYERS)
    lightSurface(lit, diffuse, specular);
#else
    countWork(0u);
#endif
#ifdef PASS_LIGHT
    outColor = vec4(dimmedByAir(diffuse + specular, s.position), 0.0);
#ifdef DIFFUSE_TARGET
    outDiffuse = diffuseApart(s.optics, diffuse, s.position, 0.0);
#endif
#else
    vec3 toEye = normalize(frame.eye.xyz - s.position);
    AmbientLeaves ambient = noAmbient;
#if !defined(PASS_GBUFFER) || !defined(AMBIENT_LATER)
    if (!s.unlit) ambient = ambientReflected(s.position, s.baseColor, s.metallic, s.roughness, s.optics, s.occlusion, s.normal, toEye);
#endif
    vec3 bakedDiffuse = vec3(0.0), bakedSpecular = vec3(0.0), bakedMirrored = vec3(0.0);
#ifdef SLOT_BAKED
    if (lightMapped && !s.unlit) {
        vec3 facing = normalize(vertex.normal);
        bakedLeaves(vertex.place.xy, lit, gl_FrontFacing ? facing : -facing, bakedDiffuse, bakedSpecular, bakedMirrored);
    }
#endif
    vec3 baked = bakedDiffuse + bakedSpecular + bakedMirrored;
    vec3 emissive = s.unlit ? s.baseColor : s.emissive;
#ifdef PASS_PROBE
    enterSample(s, toEye, ambient, emissive, baked, vertex.draw);
#elif defined(PASS_LAYERS)
    vec3 chosenDiffuse = vec3(0.0), chosenSpecular = vec3(0.0);
    vec2 allArrived = arrived;
    arrived = vec2(0.0);
    vec3 allThrough = cameThrough;
    if (!s.unlit && chosenLight != 0xFFFFFFFFu) {
        addLight(chosenLight, lit, chosenDiffuse, chosenSpecular);
#ifdef SUBSURFACE_THICKNESS
        addThrough(chosenLight, lit, chosenDiffuse);
#endif
    }
    float density = 0.0, chart = 0.0;
    vec2 mapPlace = vec2(0.0);
#ifdef MAP_PLACES
    vec2 across = dFdx(vertex.place.xy), up = dFdy(vertex.place.xy);
    density = sqrt(abs(across.x * up.y - across.y * up.x) / max(length(cross(dFdx(s.position), dFdy(s.position))), 1e-12));
    mapPlace = vertex.place.xy;
    chart = vertex.place.z;
#endif
    writeLayers(LayerInput(s.position, s.normal, toEye, s.baseColor, s.metallic, s.roughness, s.occlusion, s.alpha, ambient.sum, ambient.mirrored, ambient.reflected, ambient.probes, diffuse, specular, emissive,
                           draws[vertex.draw].object, chosenDiffuse + chosenSpecular, allArrived, arrived, s.unlit, vertex.draw >= firstBlended, allThrough, baked, bakedSpecular, placed, mapPlace, density, chart));
#elif defined(LEDGER_BLENDED)
    outColor = vec4(1.0 - s.alpha); // multiplies the transmittance
#else
    outColor = vec4(throughAir(ambient.sum + baked + emissive + diffuse + specular, s.position), s.alpha);
#endif
#ifdef MIRROR_SHARES
    outShare = vec4(sqrt(ambient.share), ambient.roughness);
#endif
#ifdef DIFFUSE_TARGET
    outDiffuse = diffuseApart(s.optics, diffuse + bakedDiffuse + ambient.sum - ambient.mirrored, s.position, float(s.opticsNumber));
#endif
#ifdef PLACE_TARGET
    outPlace = vec4(placed ? vertex.place.xy / parameters.mapSize.xy : vec2(0.0), 0.0, 0.0);
#endif
#ifdef PASS_GBUFFER
    outBase = vec4(packColor(s.baseColor), s.optics.farthest > 0.0 ? thicknessShare(s) : s.metallic); // no metal lets light in
    outNormal = packNormal(s.normal);
    outRoughness = vec4(s.roughness, (s.unlit ? 1.0 : receivesShadows ? 0.0 : 0.5) + (placed && !s.unlit ? 0.125 : 0.0), s.occlusion, float(s.opticsNumber) / 255.0);
#endif
#endif
}
