// Light from everywhere. Radiance that arrives at a surface with this normal, cd/m2.
// Three colours by the squared components of the normal, which sum to one (after Mitchell, McTaggart and Green 2006, six colours).
vec3 ambientRadiance(vec3 n) {
    float y2 = n.y * n.y;
    return frame.ambientSide.rgb * (1.0 - y2) + (n.y > 0.0 ? frame.ambientTop.rgb : frame.ambientBottom.rgb) * y2;
}

/// Reflected ambient light: diffuse albedo plus F0, so that metals are not black (no lobe, no direction).
vec3 ambientReflected(vec3 baseColor, float metallic, float occlusion, vec3 n) {
    vec3 reflectance = baseColor * (1.0 - metallic) + mix(vec3(0.04), baseColor, metallic);
    return reflectance * ambientRadiance(n) * occlusion;
}
