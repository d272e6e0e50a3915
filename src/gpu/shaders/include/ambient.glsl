// Light from everywhere, as techniques feed it.
#include "generated/slots.glsl"

/// Reflected ambient light: diffuse albedo plus F0, so that metals are not black (no lobe, no direction) where nobody feeds a specular part.
vec3 ambientReflected(vec3 point, vec3 baseColor, float metallic, float occlusion, vec3 n, vec3 toEye) {
#ifdef SLOT_AMBIENT_DIFFUSE
    vec3 around = slotAmbientDiffuse(point, n);
#else
    const vec3 around = vec3(0.0);
#endif
#ifdef SLOT_AMBIENT_SPECULAR
    return (baseColor * (1.0 - metallic) * around + mix(vec3(0.04), baseColor, metallic) * slotAmbientSpecular(point, n, toEye)) * occlusion;
#else
    vec3 reflectance = baseColor * (1.0 - metallic) + mix(vec3(0.04), baseColor, metallic);
    return reflectance * around * occlusion;
#endif
}
