#version 450 core
// What no surface covers (depth still 0): the sky. The references in double are src/core/sky/sky.h and sky_model.h.
// SKY_KIND: 0 two colours by height, 1 fitted daylight, 2 the atmosphere, from its table or (SKY_MARCH) along every pixel's ray, 3 a picture.
// SKY_PART: of layers: 1 the sky's own light as it comes through the air, 2 what the air sends; else both.
#include "include/structs.glsl"
#ifdef COUNT
layout(early_fragment_tests) in;
#endif
#include "include/count.glsl"
#include "include/air.glsl"
#if SKY_KIND == 1 || SKY_KIND == 2
#include "include/atmosphere.glsl"
#include "include/stars.glsl"
#endif
#if SKY_KIND == 2 && !defined(SKY_MARCH)
uniform sampler2D skyView;
#endif
in vec2 ndc;
layout(location = 0) out vec4 outColor;

#if SKY_KIND == 0
vec3 skyRadiance(vec3 d) {
    float height = 1.0 - exp(-4.0 * max(d.y, 0.0)); // haze thins out upward
    return mix(parameters.skyHorizon.rgb, parameters.skyZenith.rgb, height);
}
#elif SKY_KIND == 3
uniform sampler2D skyPicture;
vec3 skyRadiance(vec3 d) {
    vec2 place = vec2(0.5 + (atan(d.x, -d.z) - parameters.skyTurn.x) / 6.2831853, acos(clamp(d.y, -1.0, 1.0)) / 3.1415927);
    return min(textureLod(skyPicture, place, 0.0).rgb * parameters.skyTurn.y, vec3(60000.0)); // what the target holds
}
#else
/// Share of a disc's middle that a pixel covers, and how far out it lies (0 middle, 1 edge).
float discCover(vec3 d, vec3 direction, float angle, float pixel, out float x) {
    float off = 2.0 * asin(min(0.5 * length(d - direction), 1.0)), half_ = 0.5 * angle;
    x = min(off / half_, 1.0);
    return clamp((half_ - off) / pixel + 0.5, 0.0, 1.0);
}
vec3 discEven(vec3 passed, float illuminance, float angle) {
    float s = sin(0.25 * angle);
    return passed * (illuminance / (4.0 * PI_SKY * s * s));
}
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
vec3 skyRadiance(vec3 d) {
    float eye = parameters.skyLight.w, pixel = parameters.skyNight.w, x;
#if SKY_KIND == 1
    vec3 sum = fittedRadiance(d);
#elif defined(SKY_MARCH)
    vec3 sum = marchSky(eye, d, marchSteps);
#else
    vec3 sum = textureLod(skyView, viewPlace(d, eye), 0.0).rgb;
#endif
    if (d.y > 0.0) sum += parameters.skyNight.x;
    vec3 passed = transmittanceOut(eye, d.y), toSun = parameters.skySun.xyz, toMoon = parameters.skyMoon.xyz;
    float covers = discCover(d, toSun, parameters.skySun.w, pixel, x);
    if (covers > 0.0) { // D. Hestroffer and C. Magnan, 1998
        const vec3 a = vec3(0.397, 0.503, 0.652);
        sum += discEven(passed, parameters.skyLight.x * covers, parameters.skySun.w) * (0.5 * a + 1.0) * pow(vec3(max(1.0 - x * x, 1e-4)), 0.5 * a);
    }
    covers = discCover(d, toMoon, parameters.skyMoon.w, pixel, x);
    if (covers > 0.0) { // the part that the sun lights, evenly bright
        float lit = 0.5 * (1.0 - dot(toMoon, toSun));
        vec3 side = d - toMoon * dot(d, toMoon);
        float out_ = length(side);
        vec3 surface = (out_ > 0.0 ? side / out_ : side) * x - toMoon * sqrt(1.0 - x * x);
        sum += discEven(passed, parameters.skyLight.y * covers, parameters.skyMoon.w) * clamp(dot(surface, toSun) * 12.0 + 0.5, 0.0, 1.0) / max(lit, 0.01);
    }
    if (parameters.skyNight.y > -10.0 && length(d - toMoon) > 0.5 * parameters.skyMoon.w)
        sum += starRadiance(d, pixel, uint(parameters.skyNight.z), parameters.skyNight.y) * passed;
    return min(sum, vec3(parameters.skyLight.z)); // what the target holds
}
#endif

void main() {
    countWork(0u);
    vec4 p = frame.inverseViewProjection * vec4(ndc, 1.0, 1.0); // a point on the near plane
    vec3 d = normalize(p.xyz / p.w - frame.eye.xyz);
    vec3 radiance = skyRadiance(d);
#if defined(SLOT_AIR) || defined(SKY_PART)
    vec3 transmittance, scattered;
    airBefore(p.xyz / p.w, true, transmittance, scattered);
#if !defined(SKY_PART)
    radiance = radiance * transmittance + scattered;
#elif SKY_PART == 1
    radiance *= transmittance;
#else
    radiance = scattered;
#endif
#endif
    outColor = vec4(radiance, 1.0);
}
