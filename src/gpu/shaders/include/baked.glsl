// What a surface sends on of light from a map. The reference in double is src/core/bake/baked_shading.h; a test holds the two together.
#include "generated/slots.glsl"

#ifdef SLOT_BAKED
/// Share of light that comes from one direction, by the length of the mean direction: light from all around, by the cosine, has 2/3.
float bakedFocus(float alike) { return clamp(3.0 * alike - 2.0, 0.0, 1.0); }

/// Adds both lobes of the channels of `mask`, whose light comes from `toward`. facing: the surface as its vertices face.
void addBaked(vec3 mask, vec3 light, vec3 toward, LitSurface s, vec3 facing, inout vec3 diffuse, inout vec3 specular) {
    vec3 d, p;
    float alike = length(toward), focus = bakedFocus(alike);
    vec3 even = light * mask * (1.0 - focus);
    evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, s.roughness, s.optics, parameters.lobe.x, NORMALISED == 1, s.normal, s.normal, s.toEye, d, p);
    diffuse += d * even * (0.5 + 0.5 * dot(facing, s.normal));
    if (focus <= 0.0) return;
    vec3 from = toward / alike;
    vec3 straight = light * mask * (focus / max(dot(facing, from), 0.05)) * max(dot(s.normal, from), 0.0);
    evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, s.roughness, s.optics, parameters.lobe.x, NORMALISED == 1, s.normal, from, s.toEye, d, p);
    diffuse += d * straight;
    specular += p * straight;
}

/// Both lobes, cd/m2. place: texels of the map.
void bakedLeaves(vec2 place, LitSurface s, vec3 facing, out vec3 diffuse, out vec3 specular) {
    diffuse = specular = vec3(0.0);
    BakedLight baked = slotBaked(place);
#if MAP_DIRECTIONS == 3
    addBaked(vec3(1.0, 0.0, 0.0), baked.light, baked.toward[0], s, facing, diffuse, specular);
    addBaked(vec3(0.0, 1.0, 0.0), baked.light, baked.toward[1], s, facing, diffuse, specular);
    addBaked(vec3(0.0, 0.0, 1.0), baked.light, baked.toward[2], s, facing, diffuse, specular);
#elif MAP_DIRECTIONS == 1
    addBaked(vec3(1.0), baked.light, baked.toward[0], s, facing, diffuse, specular);
#else
    vec3 d, p;
    evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, s.roughness, s.optics, parameters.lobe.x, NORMALISED == 1, s.normal, s.normal, s.toEye, d, p);
    diffuse = d * baked.light;
#endif
}
#endif
