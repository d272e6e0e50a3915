// Light from everywhere, as techniques feed it. The reference in double is src/core/ambient/split_sum.h.
#include "generated/slots.glsl"
#include "include/occlusion.glsl"
#include "include/coded.glsl"

#ifdef SLOT_AMBIENT_SPECULAR
uniform sampler2D splitSums; // by the cosine to the eye and roughness: scale and bias of F0, what Fresnel takes of Lambert's lobe

vec3 readSplitSums(float cosView, float roughness) {
    const float last = 63.0; // texel
    return textureLod(splitSums, (clamp(vec2(cosView, roughness), 0.0, 1.0) * last + 0.5) / (last + 1.0), 0.0).rgb;
}
#endif

/// Ambient light as a surface sends it on, cd/m2.
struct AmbientLeaves {
    vec3 sum;
    vec3 mirrored;  // the part of its specular lobe
    vec3 reflected; // of that, what the screen answers
    vec3 share;     // of mirrored radiance that it sends on; 0: it mirrors nothing
    float roughness; // of its lobe
};
const AmbientLeaves noAmbient = AmbientLeaves(vec3(0.0), vec3(0.0), vec3(0.0), vec3(0.0), 1.0);

#ifdef SLOT_AMBIENT_SPECULAR
/// What the surroundings, or the screen before them, have where a surface mirrors them.
void mirrorAmbient(vec3 point, vec3 n, vec3 toEye, float roughness, inout AmbientLeaves a) {
    vec3 around = codedRadiance(slotAmbientSpecular(point, n, toEye, roughness));
#if defined(SLOT_REFLECTION) && (defined(PASS_LAYERS) || defined(PASS_PROBE))
    vec4 seen = slotReflection(point, n, toEye, roughness); // else a pass of its own puts it in
    a.reflected = a.share * seen.rgb;
    around = around * (1.0 - seen.a) + seen.rgb;
#endif
    a.mirrored = a.share * around;
    a.roughness = roughness;
}
#endif

/// Where nobody feeds a specular part, diffuse albedo plus F0 times the diffuse one, so that metals are not black (no lobe, no direction). baked: the
/// material's occlusion.
AmbientLeaves ambientReflected(vec3 point, vec3 baseColor, float metallic, float roughness, float baked, vec3 n, vec3 toEye) {
    AmbientLeaves a = noAmbient;
#ifdef SLOT_AMBIENT_DIFFUSE
    vec3 around = codedRadiance(slotAmbientDiffuse(point, n));
#else
    vec3 around = vec3(0.0);
#endif
    vec3 f0 = mix(vec3(0.04), baseColor, metallic), base = baseColor * (1.0 - metallic);
#ifdef SLOT_OCCLUSION
#ifdef BLENDED
    const float screen = 1.0;
#else
    float screen = slotOcclusion(point, n);
#endif
    float open = mixedOcclusion(screen, baked), lobeOpen = open;
#ifdef OCCLUSION_BOUNCED
    around *= bouncedOcclusion(open, base + f0);
#else
    around *= open;
#endif
#ifdef OCCLUSION_OF_MIRRORED
    lobeOpen = OCCLUSION_OF_MIRRORED(dot(n, toEye), open, roughness);
#endif
#else
    around *= baked;
    float lobeOpen = baked;
#endif
#ifdef SLOT_AMBIENT_SPECULAR
#if SHADING_MODEL == MODEL_GGX
    vec3 sums = readSplitSums(dot(n, toEye), max(roughness, leastRoughness)), once = f0 * sums.x + sums.y;
    a.share = once * lobeOpen;
    mirrorAmbient(point, n, toEye, max(roughness, leastRoughness), a);
#ifdef AMBIENT_COMPENSATED // C. Fdez-Aguera, 2019
    float lost = 1.0 - (sums.x + sums.y);
    vec3 average = f0 + (1.0 - f0) / 21.0, more = once * average / (1.0 - average * lost) * lost;
    a.sum = a.mirrored + (more + base * (1.0 - once - more)) * around;
#else
    a.sum = a.mirrored + base * (1.0 - f0 - (1.0 - f0) * sums.z) * around;
#endif
#else
    a.share = f0 * lobeOpen;
    mirrorAmbient(point, n, toEye, sqrt(sqrt(2.0 / (parameters.lobe.x + 2.0))), a); // B. Walter et al., 2007
    a.sum = a.mirrored + base * around;
#endif
#elif SHADING_MODEL == MODEL_LAMBERT
    a.sum = baseColor * around;
#else
    a.sum = (base + f0) * around;
#endif
    return a;
}
