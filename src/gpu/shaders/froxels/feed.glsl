// Air before a point from the cells' sums; behind the last slice, the scene's fog under light from everywhere.
#include "include/air_medium.glsl"
#include "froxels/grid.glsl"
#ifdef BOTH_EYES
uniform sampler2DArray airSums;
#define AIR_SUM(place) textureLod(airSums, vec3(place, float(EYE)), 0.0)
#else
uniform sampler2D airSums;
#define AIR_SUM(place) textureLod(airSums, place, 0.0)
#endif

void froxelAir(vec3 point, bool sky, inout vec3 transmittance, inout vec3 scattered) {
    countOf(COUNTER_airEvaluations, 1u);
    vec4 clip = frame.viewProjection * vec4(point, 1.0);
    vec2 column = (clip.xy / clip.w * 0.5 + 0.5) * vec2(frame.width, frame.height) / parameters.airDepths.z;
    column = clamp(column, vec2(0.5), vec2(froxelColumns(), froxelRows()) - 0.5);
    float metres = sky ? parameters.airDepths.x : distance(point, frame.eye.xyz);
    float slice = airSliceAt(metres);
    int far = clamp(int(slice), 0, froxelSlices() - 1), near = far - 1;
    // Between two ends of slices by metres: light of an even cell grows so where it is thin.
    float begin = airSliceBegin(float(far)), end = airSliceBegin(float(far) + 1.0), share = clamp((metres - begin) / (end - begin), 0.0, 1.0);
    vec4 a = near < 0 ? vec4(0.0, 0.0, 0.0, 1.0) : AIR_SUM((vec2(airSliceOrigin(near)) + column) / airTargetSize());
    vec4 sum = mix(a, AIR_SUM((vec2(airSliceOrigin(far)) + column) / airTargetSize()), share);
    if (sky || metres > parameters.airDepths.x) {
        vec3 way = normalize(point - frame.eye.xyz), at = frame.eye.xyz + way * parameters.airDepths.x;
        float rest = sky ? fogTransmittanceOfRay(at, way) : exp(-fogDepth(at, point));
        if (parameters.airFog.w <= 0.0) rest = 1.0;
        sum.rgb += deepFog() * (sum.a * (1.0 - rest));
        sum.a *= rest;
    }
    transmittance *= sum.a;
    scattered = scattered * sum.a + sum.rgb;
}
