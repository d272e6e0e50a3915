// Surfaces of the picture, for passes over the screen: where they lie, and which pixel stands for the four of a texel of a target of half size.
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

/// Along the view's axis, metres; 0: no surface.
float metresAt(ivec2 pixel) {
    float depth = texelFetch(depthTexture, pixel, 0).r;
    return depth > 0.0 ? frame.forward.w / depth : 0.0;
}

vec3 normalAt(ivec2 pixel) { return unpackNormal(texelFetch(normals, pixel, 0)); }

/// World directions through pixels, one metre along the view's axis: of the corner, and a pixel's width and height of them.
struct PixelRays {
    vec3 corner, across, up;
};

PixelRays pixelRays() {
    float depth = frame.forward.w; // of what is one metre away
    vec4 a = frame.inverseViewProjection * vec4(-1.0, -1.0, depth, 1.0), b = frame.inverseViewProjection * vec4(1.0, -1.0, depth, 1.0),
         c = frame.inverseViewProjection * vec4(-1.0, 1.0, depth, 1.0);
    vec3 corner = a.xyz / a.w;
    return PixelRays(corner - frame.eye.xyz, (b.xyz / b.w - corner) / float(frame.width), (c.xyz / c.w - corner) / float(frame.height));
}

/// From the eye to a pixel's surface, metres.
vec3 awayAt(PixelRays rays, ivec2 pixel, float metres) {
    vec2 at = vec2(pixel) + 0.5;
    return (rays.corner + rays.across * at.x + rays.up * at.y) * metres;
}

/// One of the four, another one from row to row and column to column, so that lines of one pixel are met in either direction.
ivec2 pixelOfHalf(ivec2 texel) { return min(2 * texel + (texel.yx & 1), ivec2(frame.width, frame.height) - 1); }
