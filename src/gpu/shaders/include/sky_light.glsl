// The sky's own light by direction, cd/m2, without discs and stars. The references in double are src/core/sky/sky.h and sky_model.h.
// SKY_KIND: 0 two colours by height, 1 fitted daylight, 2 the atmosphere, from its table or (SKY_MARCH) along the ray, 3 a picture.
#if SKY_KIND == 1 || SKY_KIND == 2
#include "include/atmosphere.glsl"
#endif
#if SKY_KIND == 2 && !defined(SKY_MARCH)
uniform sampler2D skyView;
#endif
#if SKY_KIND == 1
/// A. Preetham, P. Shirley and B. Smits, 1999: luminance and chromaticity at once.
vec3 fittedRadiance(vec3 d) {
    float c = clamp(dot(d, parameters.skySun.xyz), -1.0, 1.0), gamma = acos(c);
    vec3 v = parameters.skyFitZenith.xyz * (1.0 + parameters.skyFitA.xyz * exp(parameters.skyFitB.xyz / max(d.y, 0.01))) *
             (1.0 + parameters.skyFitC.xyz * exp(parameters.skyFitD.xyz * gamma) + parameters.skyFitE.xyz * (c * c));
    float Y = max(v.x, 0.0) * parameters.skyFitZenith.w, y = max(v.z, 1e-3), X = v.y / y * Y, Z = (1.0 - v.y - y) / y * Y;
    return max(vec3(3.2404542 * X - 1.5371385 * Y - 0.4985314 * Z, -0.9692660 * X + 1.8760108 * Y + 0.0415560 * Z,
                    0.0556434 * X - 0.2040259 * Y + 1.0572252 * Z), vec3(0.0));
}
#endif
#if SKY_KIND == 0
vec3 skyLight(vec3 d) {
    float height = 1.0 - exp(-4.0 * max(d.y, 0.0)); // haze thins out upward
    return mix(parameters.skyHorizon.rgb, parameters.skyZenith.rgb, height);
}
#elif SKY_KIND == 3
uniform sampler2D skyPicture;
vec3 skyLight(vec3 d) {
    vec2 place = vec2(0.5 + (atan(d.x, -d.z) - parameters.skyTurn.x) / 6.2831853, acos(clamp(d.y, -1.0, 1.0)) / 3.1415927);
    return textureLod(skyPicture, place, 0.0).rgb * parameters.skyTurn.y;
}
#else
vec3 skyLight(vec3 d) {
#if SKY_KIND == 1
    vec3 sum = fittedRadiance(d);
#elif defined(SKY_MARCH)
    vec3 sum = marchSky(parameters.skyLight.w, d, marchSteps);
#else
    vec3 sum = textureLod(skyView, viewPlace(d, parameters.skyLight.w), 0.0).rgb;
#endif
    if (d.y > 0.0) sum += parameters.skyNight.x;
    return sum;
}
#endif
