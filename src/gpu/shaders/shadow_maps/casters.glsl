// Objects that cast. C++ side: gpu/frame/gpu_structs.h (CasterData).
#include "include/structs.glsl"
struct CasterData {
    mat4 model;
    uint material;
    uint body; // from 1; 0: rigid
    uint pad0;
    uint pad1;
};
layout(std430) readonly buffer CasterBuffer { CasterData casters[]; };
