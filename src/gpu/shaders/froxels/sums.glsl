#version 450 core
// From the eye on along each column: what the cells up to each slice's end send, and what they let through. A cell is even in itself, so its
// own part is summed exactly (S. Hillaire, Physically Based and Unified Volumetric Rendering, 2015).
layout(local_size_x = 8, local_size_y = 8) in;
#define COMPUTE_STAGE
#include "include/structs.glsl"
#include "include/count.glsl"
#include "froxels/grid.glsl"
uniform sampler2D airCells;
layout(rgba16f) uniform writeonly image2D airSumsImage;

void main() {
    ivec2 column = ivec2(gl_GlobalInvocationID.xy);
    if (column.x >= froxelColumns() || column.y >= froxelRows()) return;
    float begin = 0.0, through = 1.0;
    vec3 sum = vec3(0.0);
    for (int i = 0; i < froxelSlices(); ++i) {
        vec4 cell = texelFetch(airCells, airSliceOrigin(i) + column, 0);
        float end = airSliceBegin(float(i) + 1.0), metres = end - begin, here = exp(-cell.a * metres);
        sum += cell.rgb * (through * (cell.a > 1e-6 ? (1.0 - here) / cell.a : metres));
        through *= here;
        begin = end;
        imageStore(airSumsImage, airSliceOrigin(i) + column, vec4(min(sum, vec3(60000.0)), through));
    }
    countOf(COUNTER_airSteps, uint(froxelSlices()));
}
