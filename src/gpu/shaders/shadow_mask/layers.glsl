// The screen's mask of shadows as a picture: what each of its first four lights is kept from takes that light's hue.
vec4 layer_mask(LayerInput i) {
    vec3 shown = vec3(0.85) * (0.25 + 0.75 * abs(dot(i.normal, i.toEye)));
#ifdef SHADOW_MASKED
    const vec3 hues[4] = vec3[4](vec3(0.10, 0.30, 0.75), vec3(0.80, 0.45, 0.08), vec3(0.10, 0.55, 0.20), vec3(0.72, 0.16, 0.10));
    if (!isShown()) return vec4(shown * 0.3, 1.0);
    vec4 left = maskOfSet(0);
    for (int c = 0; c < 4; ++c)
        shown = mix(shown * hues[c], shown, left[c]);
#endif
    return vec4(shown, 1.0);
}
