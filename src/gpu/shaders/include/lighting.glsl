// The one light loop of all paths. LIGHTS_OF says whose lights are taken up:
//   LIGHTS_OF_DRAW  those listed for the draw          LIGHTS_OF_CELL  those of the fragment's tile or cluster, directional ones before
//   LIGHTS_OF_ALL   the first `lightCount` of the view  LIGHTS_OF_ONE   the light `lightIndex`
#define LIGHTS_OF_DRAW 0
#define LIGHTS_OF_CELL 1
#define LIGHTS_OF_ALL 2
#define LIGHTS_OF_ONE 3
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/brdf.glsl"
#ifdef SUBSURFACE
#include "include/subsurface.glsl"
#endif
#include "include/ledger.glsl"
#include "include/air.glsl"
#if LIGHTS_OF == LIGHTS_OF_CELL
#include "include/lists.glsl"
#elif LIGHTS_OF == LIGHTS_OF_ALL
uniform uint lightCount;
#elif LIGHTS_OF == LIGHTS_OF_ONE
uniform uint lightIndex;
#endif

#ifndef SHADING_MODEL
#define SHADING_MODEL MODEL_GGX
#endif
#ifndef NORMALISED
#define NORMALISED 1
#endif

/// A surface as lights see it.
struct LitSurface {
    vec3 position;  // world, metres
    vec3 normal;    // world, unit
    vec3 toEye;     // unit
    vec3 baseColor; // linear
    float metallic;
    float roughness;
    OpticsData optics;
    float thickness; // metres, as the material tells it; 0: it does not
    float alpha;
    uint draw;       // place in DrawBuffer; of the draw's lights only
    float viewDepth; // metres; of a cell's lights only
    bool unlit;
};

LightData lightAt(uint index) {
#if LIGHTS_OF == LIGHTS_OF_ALL || LIGHTS_OF == LIGHTS_OF_ONE
    return lights[index]; // the same for all lanes
#else
    return fetchLight(index);
#endif
}

#ifdef PASS_LAYERS
vec2 arrived = vec2(0.0); // luminance of light that falls on the surface, before and after the slot of light factors
vec3 cameThrough = vec3(0.0); // cd/m2 of light from behind
#endif

/// Texel of the target of diffuse light: nothing of surfaces that let none in. number: of the optics, where a pass lays the surface.
vec4 diffuseApart(OpticsData optics, vec3 light, vec3 position, float number) {
    return optics.farthest > 0.0 ? vec4(dimmedByAir(light, position), number) : vec4(0.0);
}

/// What techniques leave of a light at a surface.
#ifdef SLOT_LIGHT_FACTOR
vec3 lightLeft(uint index, LightData light, LitSurface s, vec3 toLight) {
    vec3 point = s.position, normal = s.normal;
#ifdef SUBSURFACE_WRAPPED
    if (s.optics.farthest > 0.0) {
        point += toLight * s.optics.farthest; // what shades itself by less than light goes beneath does not
        if (dot(normal, toLight) < 0.0) normal = toLight;
    }
#endif
    return slotLightFactor(index, light, point, normal, toLight);
}
#endif

#ifdef SUBSURFACE_THICKNESS
/// Metres of the thing that a light behind the surface shines through (by its map, or as the material tells), and what techniques leave of
/// it where it goes in; x under 0: it does not come through.
vec2 wayThrough(uint index, LightData light, LitSurface s, vec3 toLight) {
    if (s.optics.farthest <= 0.0 || dot(s.normal, toLight) >= 0.0) return vec2(-1.0, 0.0);
    vec2 way = vec2(-1.0, 1.0);
#ifdef LEDGER
    ledgerLight = index;
#endif
#if SUBSURFACE_THICKNESS == 1
#ifdef SLOT_LIGHT_THICKNESS
    way.x = slotLightThickness(index, light, s.position, toLight);
#endif
#else
    if (s.thickness > 0.0) {
        way.x = s.thickness;
#ifdef SLOT_LIGHT_FACTOR
        way.y = slotLightFactor(index, light, s.position - s.normal * way.x, -s.normal, toLight).g;
#endif
    }
#endif
    return way;
}

/// Adds what of a light comes through from behind, and enters it in the ledger.
void addThrough(uint index, LitSurface s, inout vec3 diffuse) {
    LightData light = lightAt(index);
    vec3 toLight, irradiance = normalIrradiance(light, s.position, toLight);
    if (irradiance.r + irradiance.g + irradiance.b <= 0.0) return;
    vec2 way = wayThrough(index, light, s, toLight);
    if (way.x < 0.0) return;
    countOf(COUNTER_throughLights, 1u);
    vec3 through = irradiance * (-dot(s.normal, toLight) * way.y * light.diffuseShare) * throughSlab(way.x, s.optics.scatter) *
                   beneathLobe(SHADING_MODEL, s.baseColor, s.metallic, s.optics, dot(s.normal, s.toEye));
    diffuse += through;
#ifdef PASS_LAYERS
    cameThrough += through;
#endif
#ifdef LEDGER_BLENDED
    enterLuminance(index, dimmedByAir(through, s.position) * (s.alpha * texelFetch(ledgerTransmittance, ivec2(gl_FragCoord.xy), 0).r));
#else
    enterMore(index, dimmedByAir(through, s.position));
#endif
}
#endif

/// Adds one light's two lobes at the surface, and enters it in the ledger.
void addLight(uint index, LitSurface s, inout vec3 diffuse, inout vec3 specular) {
    vec3 toLight, d = vec3(0.0), p = vec3(0.0);
    LightData light = lightAt(index);
#ifdef LIGHT_MAP
    if (lightMapped && (light.type & inLightMap) != 0) return;
#endif
    vec3 irradiance = normalIrradiance(light, s.position, toLight);
    float facing = dot(s.normal, toLight), least = 0.0;
#ifdef SUBSURFACE_WRAPPED
    if (s.optics.farthest > 0.0) least = -parameters.subsurface.x;
#endif
    bool arrives = irradiance.r + irradiance.g + irradiance.b > 0.0; // in range and cone
    if (facing > least && arrives) {
        countReached();
#ifdef OPTICS
        countOf(COUNTER_coatLights, SHADING_MODEL == MODEL_GGX && s.optics.coat > 0.0 ? 1u : 0u);
#endif
        evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, s.roughness, s.optics, parameters.lobe.x, NORMALISED == 1, s.normal, toLight, s.toEye, d, p);
        vec3 left = vec3(1.0), ramp = vec3(max(facing, 0.0));
#ifdef SUBSURFACE_WRAPPED
        if (s.optics.farthest > 0.0) {
            ramp = wrappedRamp(facing, s.optics.scatter * (parameters.subsurface.x / s.optics.farthest));
            d = beneathLobe(SHADING_MODEL, s.baseColor, s.metallic, s.optics, dot(s.normal, s.toEye));
        }
#endif
#ifdef PASS_LAYERS
        arrived.x += dot(irradiance, vec3(0.2126, 0.7152, 0.0722)) * max(facing, 0.0);
#endif
#ifdef SLOT_LIGHT_FACTOR
#ifdef LEDGER
        ledgerLight = index;
#endif
        left = lightLeft(index, light, s, toLight);
#endif
#ifdef PASS_LAYERS
        arrived.y += dot(irradiance * left, vec3(0.2126, 0.7152, 0.0722)) * max(facing, 0.0);
#endif
        d *= irradiance * left * ramp * light.diffuseShare;
        p *= irradiance * left * (max(facing, 0.0) * light.specularShare);
    }
    diffuse += d;
    specular += p;
#ifdef LEDGER_BLENDED
    enterWeighted(index, dimmedByAir(d + p, s.position), s.alpha * texelFetch(ledgerTransmittance, ivec2(gl_FragCoord.xy), 0).r);
#else
    enterLight(index, dimmedByAir(d + p, s.position));
#endif
}

/// Sums of both lobes over the surface's lights, cd/m2; an unlit surface takes up none.
void lightSurface(LitSurface s, out vec3 diffuse, out vec3 specular) {
    diffuse = vec3(0.0);
    specular = vec3(0.0);
#if LIGHTS_OF == LIGHTS_OF_CELL
    uint cell = cellOf(gl_FragCoord.xy, s.viewDepth, frame.height), first = uint(grid.firstBounded);
    uint count = s.unlit ? 0u : first + listCount(cell);
#define LIGHT_OF(i) (i < first ? i : listLight(cell, i - first))
#elif LIGHTS_OF == LIGHTS_OF_DRAW
    uint first = draws[s.draw].lightOffset, count = s.unlit ? 0u : draws[s.draw].lightCount;
#define LIGHT_OF(i) (lightIndices[first + i])
#elif LIGHTS_OF == LIGHTS_OF_ALL
    uint count = lightCount;
#define LIGHT_OF(i) (i)
#else
    uint count = s.unlit ? 0u : 1u;
#define LIGHT_OF(i) (lightIndex)
#endif
    countWork(count);
    for (uint i = 0u; i < count; ++i)
        addLight(LIGHT_OF(i), s, diffuse, specular);
#ifdef SUBSURFACE_THICKNESS
    // A loop of its own: within the other it would cost a software device its time for every light of every surface.
    uint behind = s.optics.farthest > 0.0 ? count : 0u;
    for (uint i = 0u; i < behind; ++i)
        addThrough(LIGHT_OF(i), s, diffuse);
#endif
}
