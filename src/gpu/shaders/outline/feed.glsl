// Lays the outline over the picture.
#include "include/exposure.glsl"
uniform sampler2D outlineRim;

vec3 withOutline(vec3 radiance, ivec2 texel) {
    float rim = texelFetch(outlineRim, ivec2((vec2(texel) + 0.5) * parameters.outline.zw), 0).r;
    return mix(radiance, parameters.outlineColor.rgb / exposureScale(), rim * parameters.outline.y);
}
