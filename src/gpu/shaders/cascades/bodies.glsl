#version 450 core
// What leaves walls and lights, by cell: of solid cells what they send by themselves (a: 1, of a light 2, of a spot its place in the
// lights and 3), of open cells beside a wall what that wall throws back to them (with BOUNCE, from the directions of level 0).
layout(local_size_x = 16, local_size_y = 4) in;
#include "cascades/shape.glsl"
#include "include/plane_body.glsl"
uniform sampler2D flatOccluders;
uniform sampler2D flatField;
layout(rgba16f) uniform writeonly image2D surfaceLightImage;
#ifdef BOUNCE
uniform sampler2D cascadeFirst;

bool solid(ivec2 cell, ivec2 size) {
    return texelFetch(flatOccluders, clamp(cell, ivec2(0), size - 1), 0).r > 0.0;
}

/// Half the light that falls on a wall with this normal: what a wall sends that throws all of it back. Each direction of
/// level 0 stands for its part of the circle, over which the cosine is integrated.
vec3 fallsOn(ivec2 cell, vec2 normal, ivec2 size) {
    int count = firstRays();
    ivec2 blocks = firstBlocks();
    float facing = atan(normal.y, normal.x), part = TURN / float(count);
    vec3 sum = vec3(0.0);
    for (int i = 0; i < count; ++i) {
        float middle = (float(i) + 0.5) * part - facing;
        middle -= TURN * round(middle / TURN);
        float low = clamp(middle - 0.5 * part, -0.25 * TURN, 0.25 * TURN), high = clamp(middle + 0.5 * part, -0.25 * TURN, 0.25 * TURN);
        float weight = sin(high) - sin(low);
        if (weight > 0.0) sum += weight * texelFetch(cascadeFirst, cell + ivec2(i % blocks.x, i / blocks.x) * size, 0).rgb;
    }
    return 0.5 * sum;
}
#endif

void main() {
    ivec2 at = ivec2(gl_GlobalInvocationID.xy), size = imageSize(surfaceLightImage);
    if (any(greaterThanEqual(at, size))) return;
    int body = int(texelFetch(flatOccluders, at, 0).r);
    vec4 sent = vec4(0.0);
    if (body > 0) sent = bodies[body - 1].sends;
#ifdef BOUNCE
    else if (texelFetch(flatField, at, 0).r * float(size.y) < 1.5) {
        // The border's normal: away from where walls are about.
        vec2 normal = vec2(0.0);
        for (int y = -2; y <= 2; ++y)
            for (int x = -2; x <= 2; ++x)
                if ((x != 0 || y != 0) && solid(at + ivec2(x, y), size)) normal -= vec2(x, y) / float(x * x + y * y);
        if (dot(normal, normal) > 1e-4) {
            normal = normalize(normal);
            ivec2 back = at - ivec2(round(normal));
            for (int k = 0; k < 4 && !solid(back, size); ++k) back = at + ivec2(k == 0 ? 1 : k == 1 ? -1 : 0, k == 2 ? 1 : k == 3 ? -1 : 0);
            if (solid(back, size)) {
                int wall = int(texelFetch(flatOccluders, clamp(back, ivec2(0), size - 1), 0).r) - 1;
                sent.rgb = bodies[wall].reflects.rgb * fallsOn(at, normal, size);
            }
        }
    }
#endif
    imageStore(surfaceLightImage, at, sent);
}
