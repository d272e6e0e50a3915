vec4 layer_floodLevels(BlockPixel p) {
    uint w = lightWord(cellBefore(p));
    return vec4(vec3(levelOf(w, 0), levelOf(w, 1), levelOf(w, 2)) / 63.0, 1.0);
}
vec4 layer_floodSun(BlockPixel p) { return vec4(vec3(levelOf(lightWord(cellBefore(p)), 3)) / 63.0, 1.0); }
