// The sky's layer: surfaces are black in it.
vec4 layer_sky(LayerInput i) { return vec4(0.0, 0.0, 0.0, i.alpha); }
