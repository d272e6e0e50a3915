#version 450 core
// One pixel's air: before points, and what it shows of each light. A lane a light, and before them one a point.
layout(local_size_x = 8) in;
#define COMPUTE_STAGE
#include "include/structs.glsl"
#include "froxels/from_light.glsl"
#include "froxels/feed.glsl"
layout(std430) readonly buffer ProbePointBuffer {
    vec4 points[]; // w: 1 the sky
};
layout(std430) buffer ProbeAirBuffer { vec4 air[]; }; // of points: what is added, and what comes through; of lights: what is added
uniform int pointCount;
uniform int probedLights;
uniform vec2 place;  // of the pixel's middle, from below
uniform float metres; // to what ends the pixel

void main() {
    int at = int(gl_GlobalInvocationID.x);
    if (at < pointCount) {
        vec3 through = vec3(1.0), added = vec3(0.0);
        froxelAir(points[at].xyz, points[at].w > 0.5, through, added);
        air[at] = vec4(added, through.g);
        return;
    }
    uint light = uint(at - pointCount);
    if (light >= uint(probedLights)) return;
    ivec2 column = ivec2(place / parameters.airDepths.z);
    vec3 sum = vec3(0.0);
    float before = 1.0;
    for (int i = 0; i < froxelSlices(); ++i) {
        AirCell c = airCellOf(column, i, 0.5);
        if (c.begin >= metres) break;
        float extinction;
        vec3 scattering, own;
        airAt(c.point, extinction, scattering, own);
        sum += fromLight(light, c) * scattering * shownOf(c, before, extinction, metres);
        before = texelFetch(airSums, airSliceOrigin(i) + column, 0).a;
    }
    air[at] = vec4(sum, 0.0);
}
