#version 450 core
// Groups that do next to nothing: what a dispatch costs.
layout(local_size_x = LANES) in;
layout(std430) buffer Counters { uint counters[1024]; };
shared uint sum;

void main() {
    if (gl_LocalInvocationID.x == 0u) sum = gl_WorkGroupID.x;
    barrier();
    if (gl_LocalInvocationID.x == 0u) counters[gl_WorkGroupID.x & 1023u] = sum;
}
