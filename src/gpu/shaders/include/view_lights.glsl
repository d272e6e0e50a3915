// View-locked lights: colour ramps over how a surface faces the eye. C++ side: gpu/passes/view_lights.cpp; the reference in double is
// src/core/light/cheap_light.h.
struct ViewLightData {
    vec4 toward;   // world, unit: where the ramp ends; w: 0 add, 1 multiply, 2 screen, 3 mix
    vec4 stops[4]; // colour; w: amount
    vec4 at;       // where the stops lie, ascending, 0 to 1
    vec4 more;     // x: cd/m2 of the colour 1, y: how many stops
};
const int mostViewLights = 32;
layout(std430) readonly buffer ViewLightBuffer { ViewLightData viewLights[]; };      // so many an eye
layout(std430) readonly buffer ViewLightObjectBuffer { uint viewLightsOfObject[]; }; // a bit for each that lies on the object

vec4 rampAt(ViewLightData l, float x) {
    vec4 c = l.stops[0];
    for (int i = 1; i < int(l.more.y); ++i)
        if (x > l.at[i - 1]) c = mix(l.stops[i - 1], l.stops[i], clamp((x - l.at[i - 1]) / max(l.at[i] - l.at[i - 1], 1e-6), 0.0, 1.0));
    return c;
}

/// What the lights of these bits do to radiance, one after the other: radiance * keeps + adds. normal: world, unit.
void changeByViewLights(uint bits, vec3 normal, inout vec3 keeps, inout vec3 adds) {
    for (; bits != 0u; bits &= bits - 1u) {
        countOf(COUNTER_rampReads, 1u);
        ViewLightData l = viewLights[EYE * mostViewLights + findLSB(bits)];
        vec4 c = rampAt(l, 0.5 + 0.5 * dot(normal, l.toward.xyz));
        vec3 k = vec3(1.0), a = vec3(0.0);
        if (l.toward.w < 0.5)
            a = c.rgb * (c.a * l.more.x);
        else if (l.toward.w < 1.5)
            k = mix(vec3(1.0), c.rgb, c.a);
        else if (l.toward.w < 2.5) {
            vec3 share = min(c.rgb * c.a, 1.0);
            k = 1.0 - share;
            a = share * l.more.x;
        } else {
            k = vec3(1.0 - c.a);
            a = c.rgb * (c.a * l.more.x);
        }
        keeps *= k;
        adds = adds * k + a;
    }
}
