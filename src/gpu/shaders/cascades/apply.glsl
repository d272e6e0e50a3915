#version 450 core
// The scene times the light that comes by, no more than 1. A pixel takes it from the open cells about it; within a wall it has
// that of the nearest border, which fades to ambient light, unless shadows do not fall on its sprite.
#include "flat_stage/shown.glsl"
#include "include/occluder_grid.glsl"
uniform sampler2D planeLight;
uniform sampler2D openPlaces;

void main() {
    bool lit, receives = true;
    vec3 scene = unlitPixel(lit);
#ifdef SURFACE
    receives = flatSurfaceOf(texelFetch(flatSurface, stagePixel(), 0)).receives;
#endif
    ivec2 size = textureSize(planeLight, 0);
    vec2 at = gridAt(mix(parameters.flatWindow.xy, parameters.flatWindow.zw, (vec2(stagePixel()) + 0.5) / parameters.flatSize.xy), size);
    vec2 t = at - 0.5, f = fract(t);
    ivec2 low = ivec2(floor(t));
    vec4 sum = vec4(0.0);
    for (int k = 0; k < 4; ++k) {
        vec4 cell = texelFetch(planeLight, clamp(low + ivec2(k & 1, k >> 1), ivec2(0), size - 1), 0);
        float weight = ((k & 1) == 0 ? 1.0 - f.x : f.x) * ((k >> 1) == 0 ? 1.0 - f.y : f.y) * cell.a;
        sum += vec4(cell.rgb, 1.0) * weight;
    }
    vec3 light = parameters.flatLight.rgb;
    if (sum.a > 0.0) light = sum.rgb / sum.a;
    else {
        int open = int(texelFetch(openPlaces, clamp(ivec2(floor(at)), ivec2(0), size - 1), 0).r);
        ivec2 there = ivec2(open % size.x, open / size.x);
        float deep = max(distance(vec2(there) + 0.5, at) - 0.5, 0.0) / parameters.cascadeShape.w;
        if (open >= 0 && (!receives || deep < 1.0)) light = mix(texelFetch(planeLight, there, 0).rgb, light, receives ? deep : 0.0);
    }
    show(lit ? scene * clamp(light, 0.0, 1.0) : scene);
}
