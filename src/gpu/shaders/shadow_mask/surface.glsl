// Surfaces of the picture for the mask of shadows, and which pixel stands for the four of a texel of the half mask.
#include "include/gbuffer.glsl"
uniform sampler2D depthTexture;
uniform sampler2D normals;

/// False where no surface is.
bool pointAt(ivec2 pixel, out vec3 point) {
    float depth = texelFetch(depthTexture, pixel, 0).r;
    vec2 ndc = (vec2(pixel) + 0.5) / vec2(frame.width, frame.height) * 2.0 - 1.0;
    vec4 world = frame.inverseViewProjection * vec4(ndc, depth, 1.0);
    point = world.xyz / world.w;
    return depth > 0.0;
}

vec3 normalAt(ivec2 pixel) { return unpackNormal(texelFetch(normals, pixel, 0)); }

/// One of the four, another one from row to row and column to column, so that lines of one pixel are met in either direction.
ivec2 pixelOfHalf(ivec2 texel) { return min(2 * texel + (texel.yx & 1), ivec2(frame.width, frame.height) - 1); }
