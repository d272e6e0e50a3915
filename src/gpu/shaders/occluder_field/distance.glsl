#version 450 core
// What the flood has found: the distance to the nearest wall, in parts of the picture's height (3 where there is none), and
// the nearest open cell's number.
layout(local_size_x = 16, local_size_y = 4) in;
#define COMPUTE_STAGE
#ifdef FROM_B
uniform sampler2D floodB;
#define KNOWN floodB
#else
uniform sampler2D floodA;
#define KNOWN floodA
#endif
layout(r32f) uniform writeonly image2D flatFieldImage;
layout(r32f) uniform writeonly image2D openPlacesImage;

void main() {
    ivec2 at = ivec2(gl_GlobalInvocationID.xy), size = imageSize(flatFieldImage);
    if (any(greaterThanEqual(at, size))) return;
    vec2 known = texelFetch(KNOWN, at, 0).rg;
    int wall = int(known.x);
    float far = known.x >= 0.0 ? distance(vec2(wall % size.x, wall / size.x), vec2(at)) / float(size.y) : 3.0;
    imageStore(flatFieldImage, at, vec4(far));
    imageStore(openPlacesImage, at, vec4(known.y));
}
