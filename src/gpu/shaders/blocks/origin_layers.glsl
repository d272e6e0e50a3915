vec4 layer_originDirection(BlockPixel p) {
    CellOrigin o = cellOrigin(cellBefore(p), 0);
    return o.level == 0u ? vec4(0.0) : vec4(o.via == vec3(0.0) ? p.normal : normalize(o.via), 1.0);
}
vec4 layer_originLamp(BlockPixel p) {
    CellOrigin o = cellOrigin(cellBefore(p), 0);
    return o.level == 0u ? vec4(0.0) : vec4(o.lamp == vec3(0.0) ? p.normal : normalize(o.lamp), 1.0);
}
vec4 layer_originLevel(BlockPixel p) { return vec4(vec3(float(cellOrigin(cellBefore(p), 0).level) / 63.0), 1.0); }
vec4 layer_originSecond(BlockPixel p) {
    CellOrigin o = cellOrigin(cellBefore(p), 1);
    return o.level == 0u ? vec4(0.0) : vec4(o.via == vec3(0.0) ? p.normal : normalize(o.via), 1.0);
}
vec4 layer_originDistance(BlockPixel p) {
    CellOrigin o = cellOrigin(cellBefore(p), 0);
    return o.level == 0u ? vec4(0.0) : vec4(vec3((blockPalette[o.material].lamp.w - float(o.level)) / 63.0), 1.0);
}
