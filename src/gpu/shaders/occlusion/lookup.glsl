// The share of ambient light that what stands close by leaves to a surface, as far as the picture shows it.
#include "include/shown.glsl"
uniform sampler2D screenOcclusion;

float openOnScreen(vec3 point, vec3 normal) {
    if (!isShown()) return 1.0;
    return pow(texelFetch(screenOcclusion, shownPixel(), 0).r, parameters.occlusionUse.x);
}
