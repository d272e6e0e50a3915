// What a surface sends on of light from a map. The reference in double is src/core/bake/baked_shading.h; a test holds the two together.
#include "generated/slots.glsl"

#ifdef SLOT_BAKED
/// Share of light that comes from one direction, by the length of the mean direction: light from all around, by the cosine, has 2/3.
float bakedFocus(float alike) { return clamp(3.0 * alike - 2.0, 0.0, 1.0); }

/// Roughness under light whose directions are spread about their mean: the variance of half vectors added to that of facets. alike: of the mean direction, by
/// which the spread is told (A. Banerjee and others, Clustering on the Unit Hypersphere using von Mises-Fisher Distributions, 2005).
float spreadRoughness(float roughness, float alike) {
    float r = clamp(alike, 0.0, 0.9999), concentration = r * (3.0 - r * r) / (1.0 - r * r), a2 = roughness * roughness * roughness * roughness;
    return sqrt(sqrt(min(a2 + 0.5 / max(concentration, 1e-3), 1.0)));
}

/// What is mirrored of light that is even all around, of its radiance: as ambient light without a direction has it (ambient.glsl), so that metals are not
/// black. Where something else answers what surfaces mirror, nothing.
vec3 evenlyMirrored(LitSurface s) {
#if defined(SLOT_AMBIENT_SPECULAR) || SHADING_MODEL == MODEL_LAMBERT
    return vec3(0.0);
#else
    return mix(s.optics.f0, s.baseColor, s.metallic);
#endif
}

/// Adds both lobes of the channels of `mask`, whose light comes from `toward`, and what is mirrored of its even part. facing: the surface as its vertices face.
void addBaked(vec3 mask, vec3 light, vec3 toward, LitSurface s, vec3 facing, inout vec3 diffuse, inout vec3 specular, inout vec3 mirrored) {
    vec3 d, p;
    float alike = length(toward), focus = bakedFocus(alike);
    vec3 even = light * mask * (1.0 - focus);
    evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, s.roughness, s.optics, parameters.lobe.x, NORMALISED == 1, s.normal, s.normal, s.toEye, d, p);
    float around = 0.5 + 0.5 * dot(facing, s.normal);
    diffuse += d * even * around;
    mirrored += evenlyMirrored(s) * even * around / 3.14159265;
    if (focus <= 0.0) return;
    vec3 from = toward / alike;
    vec3 straight = light * mask * (focus / max(dot(facing, from), 0.05)) * max(dot(s.normal, from), 0.0);
    evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, spreadRoughness(s.roughness, alike), s.optics, parameters.lobe.x, NORMALISED == 1, s.normal, from, s.toEye, d, p);
    diffuse += d * straight;
    specular += p * straight;
}

/// Both lobes, and what is mirrored of light from all around, cd/m2. place: texels of the map.
void bakedLeaves(vec2 place, LitSurface s, vec3 facing, out vec3 diffuse, out vec3 specular, out vec3 mirrored) {
    diffuse = specular = mirrored = vec3(0.0);
    BakedLight baked = slotBaked(place);
#if MAP_DIRECTIONS == 3
    addBaked(vec3(1.0, 0.0, 0.0), baked.light, baked.toward[0], s, facing, diffuse, specular, mirrored);
    addBaked(vec3(0.0, 1.0, 0.0), baked.light, baked.toward[1], s, facing, diffuse, specular, mirrored);
    addBaked(vec3(0.0, 0.0, 1.0), baked.light, baked.toward[2], s, facing, diffuse, specular, mirrored);
#elif MAP_DIRECTIONS == 1
    addBaked(vec3(1.0), baked.light, baked.toward[0], s, facing, diffuse, specular, mirrored);
#else
    vec3 d, p;
    evaluateBrdf(SHADING_MODEL, s.baseColor, s.metallic, s.roughness, s.optics, parameters.lobe.x, NORMALISED == 1, s.normal, s.normal, s.toEye, d, p);
    diffuse = d * baked.light;
    mirrored = evenlyMirrored(s) * baked.light / 3.14159265;
#endif
}
#endif
