// src/core/surface/subsurface.cpp
vec4 layer_through(LayerInput i) { return vec4(dimmedByAir(i.through, i.position), i.alpha); }
