#version 450 core
// Air before surfaces: what it adds and lets through, by place in the picture and distance. One lane a column of the view; slices lie side
// by side in the two targets (include/perspective_table.glsl says where).
layout(local_size_x = 8, local_size_y = 8) in;
#include "include/structs.glsl"
#define COMPUTE_STAGE
#include "include/count.glsl"
#include "include/atmosphere.glsl"
#include "include/perspective_table.glsl"
layout(rgba32f) uniform writeonly image2D airAddedImage;
layout(rgba32f) uniform writeonly image2D airPassedImage;

void main() {
    ivec2 column = ivec2(gl_GlobalInvocationID.xy);
    vec2 ndc = (vec2(column) + 0.5) / float(airColumns) * 2.0 - 1.0;
    vec4 p = frame.inverseViewProjection * vec4(ndc, 1.0, 1.0);
    vec3 d = normalize(p.xyz / p.w - frame.eye.xyz);
    AirPath path = AirPath(parameters.skyLight.w, d.y);
    float toSun = dot(d, theSun().direction), toMoon = dot(d, theMoon().direction), before = 0.0;
    vec3 sum = vec3(0.0), through = vec3(1.0);
    for (int i = 0; i < airSlices; ++i) {
        float t = sliceDistance(i);
        addPiece(path, before, t, toSun, toMoon, sum, through);
        before = t;
        ivec2 texel = sliceOrigin(i) + column;
        imageStore(airAddedImage, texel, vec4(sum, 1.0));
        imageStore(airPassedImage, texel, vec4(through, 1.0));
    }
    countOf(COUNTER_skySteps, uint(airSlices));
}
