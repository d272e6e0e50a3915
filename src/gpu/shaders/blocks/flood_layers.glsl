vec4 layer_floodLevels(BlockPixel p) {
    uint w = lightWord(cellBefore(p));
    return vec4(vec3(levelOf(w, 0), levelOf(w, 1), levelOf(w, 2)) / 63.0, 1.0);
}
vec4 layer_floodSun(BlockPixel p) { return vec4(vec3(levelOf(lightWord(cellBefore(p)), 3)) / 63.0, 1.0); }
vec4 layer_floodShut(BlockPixel p) {
    ivec3 front = cellBefore(p);
    float shut = 0.0;
    for (int i = 0; i < 27; ++i)
        if (i != 13) shut += stopsLight(lightWord(front + ivec3(i % 3, i / 3 % 3, i / 9) - 1)) ? 1.0 : 0.0;
    return vec4(vec3(shut / 26.0), 1.0);
}
