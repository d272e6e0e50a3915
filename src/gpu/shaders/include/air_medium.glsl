// The air of the setup, as src/core/air/medium.h has it in double: fog over the whole scene, and clouds in volumes.
#include "include/structs.glsl"

float lobeOfAir(float g, float cosine) {
    float d = 1.0 + g * g - 2.0 * g * cosine;
    return (1.0 - g * g) / (12.5663706 * d * sqrt(d));
}
/// 1/sr; cosine: between the way that light travels and the way that it goes on.
float phaseOfAir(float cosine) {
    float first = lobeOfAir(parameters.airPhase.x, cosine);
    return parameters.airPhase.z <= 0.0 ? first : mix(first, lobeOfAir(parameters.airPhase.y, cosine), parameters.airPhase.z);
}

float fogDensity(float y) { return parameters.airShape.z < 0.5 ? 1.0 : exp(-max(y - parameters.airShape.x, 0.0) / parameters.airShape.y); }
float fogColumn(float y) {
    float over = y - parameters.airShape.x;
    return over < 0.0 ? over : parameters.airShape.y * (1.0 - exp(-over / parameters.airShape.y));
}
/// Extinction times metres of the scene's fog between two points.
float fogDepth(vec3 from, vec3 to) {
    float metres = distance(from, to), rise = to.y - from.y, mean = 1.0;
    if (parameters.airShape.z > 0.5)
        mean = abs(rise) < 1e-3 * (1.0 + abs(from.y)) ? fogDensity(0.5 * (from.y + to.y)) : (fogColumn(to.y) - fogColumn(from.y)) / rise;
    return parameters.airFog.w * mean * metres;
}
/// What a ray without end meets of it.
float fogTransmittanceOfRay(vec3 from, vec3 direction) {
    if (parameters.airShape.z < 0.5 || direction.y <= 0.0) return 0.0;
    return exp(-parameters.airFog.w * (parameters.airShape.y - fogColumn(from.y)) / direction.y);
}
/// Share of a light that the fog leaves on its way to a point; a directional one comes from where the air around the scene ends.
float fogToLight(LightData light, vec3 point, vec3 toLight) {
    if ((light.type & 3) != 0) return exp(-fogDepth(point, light.position));
    vec3 o = point - parameters.airBall.xyz;
    float b = dot(o, toLight), c = dot(o, o) - parameters.airBall.w * parameters.airBall.w;
    return exp(-fogDepth(point, point + toLight * max(0.0, -b + sqrt(max(0.0, b * b - c)))));
}

#ifdef AIR_VOLUMES
#include "include/air_noise.glsl"
struct AirVolumeData {
    vec4 center;     // metres; w: 0 box, 1 sphere
    vec4 half_;      // metres; w: metres of falloff
    vec4 turn;       // cosine and sine of the turn; extinction in its middle, 1/m; noise
    vec4 albedo;     // w: 1 over the metres of a patch
    vec4 emission;   // cd/m2 a metre
    vec4 drifted;    // metres that its patches have moved
};
layout(std430) readonly buffer AirVolumeBuffer { AirVolumeData airVolumes[]; };

float volumeDensity(AirVolumeData v, vec3 point) {
    vec3 p = point - v.center.xyz, half_ = max(v.half_.xyz, vec3(1e-4));
    p = vec3(v.turn.x * p.x - v.turn.y * p.z, p.y, v.turn.y * p.x + v.turn.x * p.z);
    vec3 d = half_ - abs(p);
    float inside = v.center.w < 0.5 ? min(d.x, min(d.y, d.z)) : (1.0 - length(p / half_)) * min(half_.x, min(half_.y, half_.z));
    if (inside <= 0.0) return 0.0;
    float share = v.half_.w > 0.0 ? min(inside / v.half_.w, 1.0) : 1.0;
    share *= share * (3.0 - 2.0 * share);
    if (v.turn.w > 0.0) share *= mix(1.0, clamp(4.0 * airNoise((point - v.drifted.xyz) * v.albedo.w) - 1.5, 0.0, 1.0), v.turn.w);
    return share;
}
#endif

/// What the air does at a point: extinction and scattering in 1/m, emission in cd/m2 a metre.
void airAt(vec3 point, out float extinction, out vec3 scattering, out vec3 emission) {
    float here = fogDensity(point.y);
    extinction = parameters.airFog.w * here;
    scattering = parameters.airFog.xyz * extinction;
    emission = parameters.airEmission.xyz * here;
#ifdef AIR_VOLUMES
    for (int i = 0; i < int(parameters.airShape.w); ++i) {
        AirVolumeData v = airVolumes[i];
        float share = volumeDensity(v, point), there = v.turn.z * share;
        extinction += there;
        scattering += v.albedo.xyz * there;
        emission += v.emission.xyz * share;
    }
#endif
}

/// What a deep layer of the scene's fog shows, cd/m2.
vec3 deepFog() { return parameters.airFog.xyz * parameters.airAmbient.xyz + parameters.airEmission.xyz / max(parameters.airFog.w, 1e-9); }
