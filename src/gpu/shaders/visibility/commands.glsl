#version 450 core
// The frame's draw commands without the objects that are not marked as visible: a lane a command, which keeps its place and the order of
// its instances.
#include "include/structs.glsl"
layout(local_size_x = 64) in;
struct Command {     // src/gpu/frame/gpu_structs.h: DrawCommand
    uint count, instances, firstIndex;
    int baseVertex;
    uint baseInstance;
};
layout(std430) readonly buffer AllCommandBuffer { Command allCommands[]; };
struct Instance {    // InstanceData, 100 bytes: no vectors, or there were gaps
    float model[12], normal[9];
    uint number, body, map, openness;
};
layout(std430) readonly buffer AllInstanceBuffer { Instance allInstances[]; };
layout(std430) writeonly buffer ShownCommandBuffer { Command shownCommands[]; };
layout(std430) writeonly buffer ShownInstanceBuffer { Instance shownInstances[]; };
layout(std430) readonly buffer VisibleObjectBuffer { uint visibleObjects[]; };
uniform int count;

void main() {
    uint i = gl_GlobalInvocationID.x;
    if (i >= uint(count)) return;
    Command c = allCommands[i];
    uint kept = 0u;
    for (uint k = 0u; k < c.instances; ++k) {
        Instance one = allInstances[c.baseInstance + k];
        if (visibleObjects[draws[one.number].object] != 0u) shownInstances[c.baseInstance + kept++] = one;
    }
    c.instances = kept;
    shownCommands[i] = c;
}
