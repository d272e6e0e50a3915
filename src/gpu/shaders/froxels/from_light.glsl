// One light at one cell of air.
#include "include/count.glsl"
#include "include/light.glsl"
#include "include/ledger.glsl"
#include "include/air_medium.glsl"
#include "include/air_lists.glsl"
#include "froxels/grid.glsl"
#ifdef AIR_SHADOWS
#include "shadow_maps/lookup.glsl"
#endif

/// A cell: its middle or where this frame looks, and its size.
struct AirCell {
    vec3 point;
    vec3 way;         // from the eye, unit
    float at;         // metres from the eye
    float begin, end; // of its slice
    float metres;     // from begin to end
    float across;     // metres that it is wide
    float radius;     // of a ball as large
};
AirCell airCellOf(ivec2 column, int slice, float place) {
    AirCell c;
    c.way = airWay((vec2(column) + 0.5) * parameters.airDepths.z);
    c.begin = airSliceBegin(float(slice));
    c.end = airSliceBegin(float(slice) + 1.0);
    c.at = mix(c.begin, c.end, place);
    c.point = frame.eye.xyz + c.way * c.at;
    c.metres = c.end - c.begin;
    c.across = parameters.airDepths.z * (c.begin + c.end) * 0.5 * dot(c.way, frame.forward.xyz) * parameters.airDepths.w;
    c.radius = pow(0.2387324 * c.across * c.across * c.metres, 1.0 / 3.0);
    return c;
}

/// What a metre of air here sends of one light toward the eye, for each 1/m of scattering. Near a lamp the cell is as wide as what changes in
/// it: the mean of eight places, each no brighter than a ball of an eighth of the cell is on the average, 3 / radius^2.
vec3 fromLight(uint index, AirCell c) {
    float share = texelFetch(airShares, int(index)).r;
    if (share <= 0.0) return vec3(0.0);
    LightData light = fetchLight(index);
    vec3 v = light.position - c.point, sum = vec3(0.0);
    bool near = (light.type & 3) != 0 && dot(v, v) < 64.0 * c.radius * c.radius;
    int places = near ? 8 : 1;
    countOf(COUNTER_airInjections, uint(places));
    vec3 right = normalize(cross(c.way, abs(c.way.y) < 0.9 ? vec3(0.0, 1.0, 0.0) : vec3(1.0, 0.0, 0.0))), up = cross(right, c.way);
    float least = near ? 0.25 * c.radius * c.radius : 0.0;
    for (int i = 0; i < places; ++i) {
        vec3 offset = near ? 0.25 * ((i & 1) == 0 ? -1.0 : 1.0) * c.across * right + 0.25 * ((i & 2) == 0 ? -1.0 : 1.0) * c.across * up +
                                 0.25 * ((i & 4) == 0 ? -1.0 : 1.0) * c.metres * c.way : vec3(0.0);
        vec3 point = c.point + offset, toLight;
        vec3 arrives = normalIrradiance(light, point, toLight);
        if (arrives.r + arrives.g + arrives.b <= 0.0) continue;
        v = light.position - point;
        if (near) arrives *= min(1.0, 3.0 * max(dot(v, v), leastDistance * leastDistance) / least);
        arrives *= phaseOfAir(dot(toLight, c.way)) * fogToLight(light, point, toLight);
#ifdef AIR_SHADOWS
#ifdef LEDGER
        ledgerLight = index;
#endif
        arrives *= shadowFactor(index, light, point, toLight, toLight);
#endif
        sum += arrives;
    }
    return sum * (share / float(places));
}

/// How much of a metre's light in a cell reaches the eye from before a distance, times metres.
float shownOf(AirCell c, float before, float extinction, float distance_) {
    float seen = clamp(distance_ - c.begin, 0.0, c.metres);
    return before * (extinction > 1e-6 ? (1.0 - exp(-extinction * seen)) / extinction : seen);
}
