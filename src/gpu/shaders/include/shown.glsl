// Whether a fragment is what the picture shows: panes, and surfaces behind others, are in no target of the screen.
#if defined(PASS_LAYERS) || defined(PASS_PROBE)
uniform sampler2D depthTexture;
#endif

bool isShown() {
#ifdef BLENDED
    return false;
#elif defined(PASS_LAYERS) || defined(PASS_PROBE)
    ivec2 texel = ivec2(gl_FragCoord.xy);
    return texel.x < frame.width && texel.y < frame.height && texelFetch(depthTexture, texel, 0).r == gl_FragCoord.z;
#else
    return true;
#endif
}
