// Air of the atmosphere before a surface (aerial perspective), from its table. The sky has it already.
#include "include/perspective_table.glsl"
#ifdef BOTH_EYES
uniform sampler2DArray airAdded, airPassed;
#define AIR_TEXEL(place) vec3(place, float(EYE))
#else
uniform sampler2D airAdded, airPassed;
#define AIR_TEXEL(place) (place)
#endif

void atmosphereAir(vec3 point, bool sky, inout vec3 transmittance, inout vec3 scattered) {
    if (sky) return;
    countOf(COUNTER_airEvaluations, 1u);
    vec4 clip = frame.viewProjection * vec4(point, 1.0);
    vec2 column = clamp((clip.xy / clip.w * 0.5 + 0.5) * float(airColumns), 0.5, float(airColumns) - 0.5);
    float metres = min(distance(point, frame.eye.xyz), parameters.skyMore.w);
    float slice = sqrt(metres / parameters.skyMore.w) * float(airSlices) - 1.0;
    int far = clamp(int(ceil(slice)), 0, airSlices - 1), near = max(far - 1, 0);
    vec2 size = vec2(8.0, 4.0) * float(airColumns), a = (vec2(sliceOrigin(near)) + column) / size, b = (vec2(sliceOrigin(far)) + column) / size;
    // Before the first slice from nothing to what it holds.
    bool first = far == 0;
    float from = first ? 0.0 : sliceDistance(near), share = (metres - from) / (sliceDistance(far) - from);
    vec3 added = first ? vec3(0.0) : textureLod(airAdded, AIR_TEXEL(a), 0.0).rgb;
    vec3 passed = first ? vec3(1.0) : textureLod(airPassed, AIR_TEXEL(a), 0.0).rgb;
    added = mix(added, textureLod(airAdded, AIR_TEXEL(b), 0.0).rgb, share);
    passed = mix(passed, textureLod(airPassed, AIR_TEXEL(b), 0.0).rgb, share);
    transmittance *= passed;
    scattered = scattered * passed + added;
}
