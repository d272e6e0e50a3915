// Occlusion as a picture: both as they are mixed, the screen's alone, the material's alone. 1: open.
#include "include/occlusion.glsl"
vec4 layer_screenOcclusion(LayerInput i) {
#ifdef SLOT_OCCLUSION
    return vec4(vec3(i.unlit ? 1.0 : slotOcclusion(i.position, i.normal)), 1.0);
#else
    return vec4(1.0);
#endif
}
vec4 layer_bakedOcclusion(LayerInput i) { return vec4(vec3(i.unlit ? 1.0 : i.occlusion), 1.0); }
vec4 layer_occlusion(LayerInput i) {
    float baked = layer_bakedOcclusion(i).r;
#ifdef SLOT_OCCLUSION
    baked = mixedOcclusion(layer_screenOcclusion(i).r, baked);
#endif
    return vec4(vec3(baked), 1.0);
}
