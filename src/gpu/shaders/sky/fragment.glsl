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
#include "include/sky_light.glsl"
#include "include/coded.glsl"
#if SKY_KIND == 1 || SKY_KIND == 2
#include "include/stars.glsl"
#endif
in vec2 ndc;
layout(location = 0) out vec4 outColor;

#if SKY_KIND == 0 || SKY_KIND == 3
vec3 skyRadiance(vec3 d) { return min(skyLight(d), vec3(60000.0)); } // what the target holds
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
vec3 skyRadiance(vec3 d) {
    float eye = parameters.skyLight.w, pixel = parameters.skyNight.w, x;
    vec3 sum = skyLight(d);
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
    vec3 radiance = codedRadiance(skyRadiance(d));
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
