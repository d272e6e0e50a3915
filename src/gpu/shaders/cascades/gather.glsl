#version 450 core
// The mean over all directions of level 0: the light at each cell. a: 1 where no wall fills the cell.
layout(local_size_x = 16, local_size_y = 4) in;
#include "cascades/shape.glsl"
uniform sampler2D cascadeFirst;
uniform sampler2D surfaceLight;
layout(rgba16f) uniform writeonly image2D planeLightImage;

void main() {
    ivec2 at = ivec2(gl_GlobalInvocationID.xy), size = imageSize(planeLightImage), blocks = firstBlocks();
    if (any(greaterThanEqual(at, size))) return;
    vec3 sum = vec3(0.0);
    for (int i = 0; i < firstRays(); ++i)
        sum += texelFetch(cascadeFirst, at + ivec2(i % blocks.x, i / blocks.x) * size, 0).rgb;
    imageStore(planeLightImage, at, vec4(sum / float(firstRays()), texelFetch(surfaceLight, at, 0).a == 1.0 ? 0.0 : 1.0));
}
