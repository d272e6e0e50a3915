// View-locked lights: colour ramps over how a surface faces the eye. C++ side: gpu/passes/view_lights.cpp; the reference in double is
// src/core/light/cheap_light.h.
struct ViewLightData {
    vec4 toward;   // world, unit: where the ramp ends; w: what its colour times amount is cut at
    vec4 stops[4]; // colour; w: amount; the last one repeats
    vec4 at;       // where the stops lie, 0 to 1
    vec4 slope;    // one over the way from each to the next
    vec4 blend;    // how far it multiplies, screens and covers; w: cd/m2 that its colour adds
};

/// What a light does to radiance: radiance * keeps + adds. normal: world, unit. No branches: neighbours take different ones.
void changeByViewLight(ViewLightData l, vec3 normal, inout vec3 keeps, inout vec3 adds) {
    countOf(COUNTER_rampReads, 1u);
    float x = 0.5 + 0.5 * dot(normal, l.toward.xyz);
    vec4 c = l.stops[0];
    for (int i = 0; i < 3; ++i) c = mix(c, l.stops[i + 1], clamp((x - l.at[i]) * l.slope[i], 0.0, 1.0));
    vec3 share = min(c.rgb * c.a, l.toward.w);
    vec3 k = 1.0 + l.blend.x * c.a * (c.rgb - 1.0) - l.blend.y * share - l.blend.z * c.a;
    keeps *= k;
    adds = adds * k + l.blend.w * share;
}
