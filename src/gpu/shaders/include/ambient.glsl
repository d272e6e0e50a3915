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
    vec3 probes;    // of the sum, what probes give
    vec3 share;     // of mirrored radiance that it sends on; 0: it mirrors nothing
    float roughness; // of its lobe
};
const AmbientLeaves noAmbient = AmbientLeaves(vec3(0.0), vec3(0.0), vec3(0.0), vec3(0.0), vec3(0.0), 1.0);

#ifdef SLOT_AMBIENT_SPECULAR
/// What the surroundings, and probes before them, have where a surface mirrors them; probes: their part of it.
vec3 mirroredAround(vec3 point, vec3 n, vec3 toEye, float roughness, out vec3 probes) {
    probes = vec3(0.0);
    float left = 1.0;
#ifdef SLOT_PROBE_SPECULAR
    vec4 near = slotProbeSpecular(point, n, toEye, roughness);
    probes = codedRadiance(near.rgb);
    left -= near.a;
    if (left <= 0.0) return probes;
#endif
    return probes + left * codedRadiance(slotAmbientSpecular(point, n, toEye, roughness));
}

/// Adds what the surroundings, or the screen before them, have where a surface mirrors them by `a.share`.
void mirrorAmbient(vec3 point, vec3 n, vec3 toEye, float roughness, inout AmbientLeaves a) {
    vec3 probes, around = mirroredAround(point, n, toEye, roughness, probes);
#if defined(SLOT_REFLECTION) && (defined(PASS_LAYERS) || defined(PASS_PROBE))
    vec4 seen = slotReflection(point, n, toEye, roughness); // else a pass of its own puts it in
    a.reflected = a.share * seen.rgb;
    around = around * (1.0 - seen.a) + seen.rgb;
    probes *= 1.0 - seen.a;
#endif
    a.probes += a.share * probes;
    a.mirrored += a.share * around;
    a.roughness = roughness;
}
#endif

/// Where nobody feeds a specular part, diffuse albedo plus F0 times the diffuse one, so that metals are not black (no lobe, no direction). baked: the
/// material's occlusion.
AmbientLeaves ambientReflected(vec3 point, vec3 baseColor, float metallic, float roughness, OpticsData optics, float baked, vec3 n, vec3 toEye) {
    AmbientLeaves a = noAmbient;
#ifdef SLOT_AMBIENT_DIFFUSE
    vec3 around = lightMapped ? vec3(0.0) : codedRadiance(slotAmbientDiffuse(point, n)); // a map holds that light
#else
    vec3 around = vec3(0.0);
#endif
    vec3 ofProbes = vec3(0.0);
#ifdef SLOT_SPACE_DIFFUSE
    if (!lightMapped) {
        vec4 space = slotSpaceDiffuse(point, n);
        around = around * (1.0 - space.a) + codedRadiance(space.rgb);
    }
#endif
#ifdef SLOT_PROBE_DIFFUSE
    vec4 near = lightMapped ? vec4(0.0) : slotProbeDiffuse(point, n);
    ofProbes = codedRadiance(near.rgb);
    around = around * (1.0 - near.a) + ofProbes;
#endif
    vec3 f0 = mix(optics.f0, baseColor, metallic), base = baseColor * (1.0 - metallic);
#ifdef SLOT_OCCLUSION
#ifdef BLENDED
    const float screen = 1.0;
#else
    float screen = slotOcclusion(point, n);
#endif
    float open = mixedOcclusion(screen, baked), lobeOpen = open;
#ifdef OCCLUSION_BOUNCED
    vec3 kept = bouncedOcclusion(open, base + f0);
#else
    float kept = open;
#endif
#ifdef OCCLUSION_OF_MIRRORED
    lobeOpen = OCCLUSION_OF_MIRRORED(dot(n, toEye), open, roughness);
#endif
#else
    float open = baked, kept = baked, lobeOpen = baked;
#endif
    around *= kept;
    ofProbes *= kept;
#ifdef SLOT_AMBIENT_SPECULAR
#if SHADING_MODEL == MODEL_GGX
    vec3 sums = readSplitSums(dot(n, toEye), max(roughness, leastRoughness));
    float f90 = mix(optics.f90, 1.0, metallic), under = 1.0;
    vec3 once = f0 * sums.x + f90 * sums.y;
#ifdef OPTICS
    if (optics.coat > 0.0) { // the screen answers the coat; what lies beneath mirrors the surroundings alone
        float coat = coatMirrors(optics, max(dot(n, toEye), 1e-4)), c = max(optics.coatRoughness, leastRoughness);
        under = 1.0 - coat;
        vec3 probes, around = mirroredAround(point, n, toEye, max(roughness, leastRoughness), probes);
        a.mirrored = once * lobeOpen * under * around;
        a.probes = once * lobeOpen * under * probes;
        vec3 coatSums = readSplitSums(dot(n, toEye), c);
        float coatOpen = open;
#ifdef OCCLUSION_OF_MIRRORED
        coatOpen = OCCLUSION_OF_MIRRORED(dot(n, toEye), open, c);
#endif
        a.share = vec3(coat * (coatSums.x + coatSums.y) * coatOpen);
        mirrorAmbient(point, n, toEye, c, a);
    } else
#endif
    {
        a.share = once * lobeOpen;
        mirrorAmbient(point, n, toEye, max(roughness, leastRoughness), a);
    }
#ifdef AMBIENT_COMPENSATED // C. Fdez-Aguera, 2019
    float lost = 1.0 - (sums.x + sums.y);
    vec3 average = f0 + (f90 - f0) / 21.0, more = once * average / (1.0 - average * lost) * lost;
    vec3 sent = (more + base * (1.0 - once - more)) * under;
#else
    vec3 sent = base * ((1.0 - mix(largest(optics.f0), optics.f90, sums.z)) * under);
#endif
#else
    a.share = f0 * lobeOpen;
    mirrorAmbient(point, n, toEye, sqrt(sqrt(2.0 / (parameters.lobe.x + 2.0))), a); // B. Walter et al., 2007
    vec3 sent = base;
#endif
#elif SHADING_MODEL == MODEL_LAMBERT
    vec3 sent = baseColor;
#else
    vec3 sent = base + f0;
#endif
    a.sum = a.mirrored + sent * around;
    a.probes += sent * ofProbes;
    return a;
}
