// What occlusion leaves of ambient light. The reference in double is src/core/ambient/occlusion.h.
#define OCCLUSION_PRODUCT 0
#define OCCLUSION_LEAST 1
#define OCCLUSION_SCREEN 2
#define OCCLUSION_TEXTURE 3

/// The screen's and the material's share in one.
float mixedOcclusion(float screen, float baked) {
    int mixed = int(parameters.occlusionUse.y);
    return mixed == OCCLUSION_PRODUCT ? screen * baked : mixed == OCCLUSION_LEAST ? min(screen, baked) : mixed == OCCLUSION_SCREEN ? screen : baked;
}

/// Light that bounces between what closes a surface and the surface, if both have its colour (J. Jimenez et al., 2016, a fit).
vec3 bouncedOcclusion(float open, vec3 albedo) {
    vec3 a = 2.0404 * albedo - 0.3324, b = -4.7951 * albedo + 0.6417, c = 2.7552 * albedo + 0.6903;
    return clamp(((open * a + b) * open + c) * open, vec3(open), vec3(1.0));
}

/// Of a lobe about the mirrored direction (S. Lagarde and C. de Rousiers, course notes on physically based shading, 2014): narrow lobes of open
/// surfaces keep what wide ones lose.
float mirroredOcclusion(float cosView, float open, float roughness) {
    return clamp(pow(max(cosView, 0.0) + open, exp2(-16.0 * roughness - 1.0)) - 1.0 + open, 0.0, 1.0);
}
