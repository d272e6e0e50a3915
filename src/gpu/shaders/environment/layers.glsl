vec4 layer_environment(LayerInput i) { return vec4(dimmedByAir(i.mirrored, i.position), i.alpha); }
vec4 layer_ambientDiffuse(LayerInput i) { return vec4(dimmedByAir(i.ambient - i.mirrored, i.position), i.alpha); }
