// Whether a fragment is what the picture shows: panes, and surfaces behind others, are in no target of the screen. And its pixel there: layers may
// be drawn smaller than the picture.
#if defined(PASS_LAYERS) || defined(PASS_PROBE)
uniform sampler2D depthTexture;
#endif
#ifdef PASS_LAYERS
uniform vec2 shownScale; // pixels of the picture in one that is drawn
ivec2 shownPixel() { return min(ivec2(gl_FragCoord.xy * shownScale), ivec2(frame.width, frame.height) - 1); }
#else
ivec2 shownPixel() { return ivec2(gl_FragCoord.xy); }
#endif

bool isShown() {
#ifdef BLENDED
    return false;
#elif defined(PASS_LAYERS) || defined(PASS_PROBE)
    ivec2 texel = shownPixel();
    if (texel.x >= frame.width || texel.y >= frame.height) return false;
    float depth = texelFetch(depthTexture, texel, 0).r;
#ifdef PASS_LAYERS
    if (shownScale != vec2(1.0)) return abs(depth - gl_FragCoord.z) < 0.05 * depth; // another point of the same surface
#endif
    return depth == gl_FragCoord.z;
#else
    return true;
#endif
}
