/// Light from the map, as surfaces send it on.
vec4 layer_baked(LayerInput i) { return vec4(dimmedByAir(i.baked, i.position), i.alpha); }
vec4 layer_bakedSpecular(LayerInput i) { return vec4(dimmedByAir(i.bakedSpecular, i.position), i.alpha); }
/// Texels of the map: a checker of them, in a hue by how many a metre there are; grey where a surface has no place in it.
vec4 layer_mapTexels(LayerInput i) {
    float shade = 0.55 + 0.45 * abs(dot(i.normal, i.toEye));
    if (!i.mapped) return vec4(vec3(0.18 * shade), 0.0);
    vec2 t = floor(i.place);
    float odd = mod(t.x + t.y, 2.0), dense = i.density;
    // A step of hue for each power of two: 1 red, 4 yellow, 16 green, 64 blue.
    float hue = clamp(log2(max(dense, 1e-3)) / 6.0, 0.0, 1.0) * 0.66;
    vec3 color = clamp(abs(fract(hue + vec3(0.0, 2.0, 1.0) / 3.0) * 6.0 - 3.0) - 1.0, 0.0, 1.0);
    return vec4(mix(vec3(0.25), color, 0.65) * shade * (odd > 0.5 ? 1.0 : 0.45), dense);
}
/// Charts of the map: a colour each.
vec4 layer_mapCharts(LayerInput i) {
    float shade = 0.55 + 0.45 * abs(dot(i.normal, i.toEye));
    if (!i.mapped) return vec4(vec3(0.18 * shade), 0.0);
    float hue = fract(i.chart * 0.6180339887 + float(i.object) * 0.2763932);
    vec3 color = clamp(abs(fract(hue + vec3(0.0, 2.0, 1.0) / 3.0) * 6.0 - 3.0) - 1.0, 0.0, 1.0);
    return vec4(mix(vec3(0.5), color, 0.6) * shade, 1.0);
}
