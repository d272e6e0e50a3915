vec4 layer_castShadow(BlockPixel p) { return vec4(vec3(castLight(p).x), 1.0); }
vec4 layer_castHighlight(BlockPixel p) { return vec4(vec3(castLight(p).y), 1.0); }
