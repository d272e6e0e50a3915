// Radiance that arrives at a surface with this normal, cd/m2. The reference in double is src/core/ambient/ambient_light.h.
// Three colours by the squared components of the normal, which sum to one (after Mitchell, McTaggart and Green 2006, six colours).
vec3 gradientRadiance(vec3 point, vec3 n) {
    float y2 = n.y * n.y;
    return parameters.ambientSide.rgb * (1.0 - y2) + (n.y > 0.0 ? parameters.ambientTop.rgb : parameters.ambientBottom.rgb) * y2;
}
