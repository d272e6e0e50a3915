// Screen reflections pass by pass: what surfaces show of them, which ask, and what came of each ray.
vec4 layer_reflection(LayerInput i) {
#ifdef SLOT_REFLECTION
    return vec4(dimmedByAir(i.reflected, i.position), 1.0);
#else
    return vec4(0.0, 0.0, 0.0, 1.0);
#endif
}
#ifdef SLOT_REFLECTION
uniform sampler2D reflectionMask;
ivec2 reflectionTexel() {
#ifdef REFLECTION_HALF
    return shownPixel() / 2;
#else
    return shownPixel();
#endif
}
#endif
vec4 layer_reflectionMask(LayerInput i) {
#ifdef SLOT_REFLECTION
    if (isShown() && !i.unlit) return vec4(vec3(texelFetch(reflectionMask, reflectionTexel(), 0).r), 1.0);
#endif
    return vec4(0.0, 0.0, 0.0, 1.0);
}
/// Green: a hit, the darker the farther; blue: it leaves the picture; violet: toward the eye; orange: behind something; red: a back; grey: nothing within reach.
vec4 layer_reflectionHits(LayerInput i) {
    vec3 shown = vec3(0.85) * (0.15 + 0.35 * abs(dot(i.normal, i.toEye)));
#ifdef SLOT_REFLECTION
    if (!isShown() || i.unlit) return vec4(shown * 0.4, 1.0);
    vec4 hit = texelFetch(reflectionHits, reflectionTexel(), 0);
    if (hit.w == ANSWER_HIT) shown = vec3(0.05, 0.55, 0.25) * (0.25 + 0.75 / (1.0 + 0.25 * hit.z));
    else if (hit.w == ANSWER_LEFT) shown = vec3(0.06, 0.22, 0.60);
    else if (hit.w == ANSWER_TOWARD_EYE) shown = vec3(0.33, 0.10, 0.50);
    else if (hit.w == ANSWER_HIDDEN) shown = vec3(0.80, 0.38, 0.04);
    else if (hit.w == ANSWER_BACK) shown = vec3(0.62, 0.08, 0.06);
    else if (hit.w == ANSWER_TOO_FAR) shown = vec3(0.30);
#endif
    return vec4(shown, 1.0);
}
