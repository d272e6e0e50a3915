// Layers of shadows.
float shareLeft(vec2 arrived) { return arrived.x > 0.0 ? arrived.y / arrived.x : 1.0; }
vec4 layer_shadow(LayerInput i) { return vec4(vec3(shareLeft(i.arrived)), 1.0); }
/// alpha: whether the light falls here at all.
vec4 layer_lightshadow(LayerInput i) { return vec4(vec3(shareLeft(i.chosenArrived)), i.chosenArrived.x > 0.0 ? 1.0 : 0.0); }

/// Which of a directional light's maps the point takes; parameters.shadowCascades.z: its place among the lights, plus one.
vec4 layer_cascades(LayerInput i) {
    float shape = 0.25 + 0.75 * abs(dot(i.normal, i.toEye));
    vec3 none = vec3(0.16);
#ifdef SHADOW_FILTER
    const vec3 hues[4] = vec3[4](vec3(0.10, 0.30, 0.75), vec3(0.10, 0.55, 0.20), vec3(0.80, 0.60, 0.08), vec3(0.72, 0.16, 0.10));
    if (parameters.shadowCascades.z > 0.0) {
        ShadowLight s = shadowLight(uint(parameters.shadowCascades.z) - 1u);
        float share;
        int at = s.maps > 0 && s.kind == 1 ? cascadeAt(s, viewDepthOf(i.position), share) : -1;
        if (at >= 0) return vec4(mix(hues[at], hues[min(at + 1, 3)], share) * shape, 1.0);
    }
#endif
    return vec4(none * shape, 1.0);
}
