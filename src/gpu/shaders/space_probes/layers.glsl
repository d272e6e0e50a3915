vec4 layer_spaceLight(LayerInput i) {
#ifdef SLOT_SPACE_DIFFUSE
    return vec4(spaceDiffuse(i.position, i.normal).rgb, 1.0);
#else
    return vec4(0.0, 0.0, 0.0, 1.0);
#endif
}
vec4 layer_probeLeak(LayerInput i) {
#ifdef SLOT_SPACE_DIFFUSE
    return vec4(max(spaceJoined(i.position, i.normal, false).rgb - spaceDiffuse(i.position, i.normal).rgb, vec3(0.0)), 1.0);
#else
    return vec4(0.0, 0.0, 0.0, 1.0);
#endif
}
