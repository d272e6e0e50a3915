// What the pass that drew cells left at a pixel.
#include "blocks/world.glsl"
uniform sampler2D blockSurface;
uniform sampler2D depthTexture;

/// False where the sky is seen.
bool readBlockPixel(ivec2 texel, out BlockPixel p) {
    float depth = texelFetch(depthTexture, texel, 0).r;
    if (depth <= 0.0) return false;
    vec4 s = texelFetch(blockSurface, texel, 0) * 255.0 + 0.5;
    vec4 at = frame.inverseViewProjection * vec4((vec2(texel) + 0.5) / vec2(frame.width, frame.height) * 2.0 - 1.0, depth, 1.0);
    p = blockPixel(at.xyz / at.w, uint(s.r), int(s.g), int(s.b));
    return true;
}
