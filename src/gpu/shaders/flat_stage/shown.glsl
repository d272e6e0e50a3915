// How a small target is stretched over the picture, and what the last pass of a way writes.
#include "include/structs.glsl"
#include "include/count.glsl"
#include "include/flat.glsl"
uniform sampler2D flatScene;
#ifdef SURFACE
uniform sampler2D flatSurface;
#endif
#ifdef GLOW
uniform sampler2D flatGlow;
#endif
layout(location = 0) out vec4 outScene;

/// The stage's own pixel that shows here.
ivec2 stagePixel() {
    return ivec2(gl_FragCoord.xy * parameters.flatSize.xy / vec2(frame.width, frame.height));
}

/// The target at this pixel: its nearest texel, or bilinear with `flatMask.x`.
vec3 stretched(sampler2D target) {
    ivec2 size = textureSize(target, 0);
    vec2 at = (vec2(stagePixel()) + 0.5) / parameters.flatSize.xy * vec2(size);
    if (parameters.flatMask.x == 0.0 || parameters.flatMask.y == 1.0) return texelFetch(target, min(ivec2(at), size - 1), 0).rgb;
    vec2 t = at - 0.5, f = fract(t);
    ivec2 low = ivec2(floor(t));
#define TEXEL(x, y) texelFetch(target, clamp(low + ivec2(x, y), ivec2(0), size - 1), 0).rgb
    return mix(mix(TEXEL(0, 0), TEXEL(1, 0), f.x), mix(TEXEL(0, 1), TEXEL(1, 1), f.x), f.y);
#undef TEXEL
}

/// The scene's pixel; `lit` is false where its layer shows sheets as they are.
vec3 unlitPixel(out bool lit) {
    ivec2 p = stagePixel();
    lit = true;
#ifdef SURFACE
    lit = flatSurfaceOf(texelFetch(flatSurface, p, 0)).lit;
#endif
    return texelFetch(flatScene, p, 0).rgb;
}

void show(vec3 light) {
    countWork(0u);
    vec3 glow = vec3(0.0);
#ifdef GLOW
    glow = texelFetch(flatGlow, stagePixel(), 0).rgb;
#endif
    outScene = vec4(light + glow, 1.0);
}
