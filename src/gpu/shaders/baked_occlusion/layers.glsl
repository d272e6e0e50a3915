/// How open surfaces are, as it was baked.
vec4 layer_bakedOpen(LayerInput i) { return vec4(vec3(bakedOpen), 1.0); }
