/// The first sheet of masks on what has a place in it.
vec4 layer_bakedMasks(LayerInput i) {
    float shade = 0.55 + 0.45 * abs(dot(i.normal, i.toEye));
#ifdef BAKED_MASKS
    if (placed) return vec4(textureLod(bakedMasks, vec3(placeInMasks(), 0.0), 0.0).rgb * shade, 1.0);
#endif
    return vec4(vec3(0.18 * shade), 0.0);
}
