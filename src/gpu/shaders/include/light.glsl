// Light reaching a point. The reference in double is src/core/light/falloff.h; a test holds the two together.

const float leastDistance = 0.01; // metres

#ifndef WINDOW_SQUARED
#define WINDOW_SQUARED 1
#endif

uniform samplerBuffer lightTexels; // LightBuffer again, four texels a light

/// A light by an index that differs between lanes: a fetch moves four values where a divergent buffer read moves one.
LightData fetchLight(uint index) {
    int at = int(index) * 4;
    vec4 a = texelFetch(lightTexels, at), b = texelFetch(lightTexels, at + 1), c = texelFetch(lightTexels, at + 2), d = texelFetch(lightTexels, at + 3);
    return LightData(a.xyz, a.w, b.xyz, b.w, c.xyz, floatBitsToInt(c.w), d.x, d.y, d.z, d.w);
}

/// Share of 1/d^2 that the range leaves (squared: Karis 2013; else KHR_lights_punctual). range 0: all.
float rangeWindow(float d, float range, bool squared) {
    if (range <= 0.0) return 1.0;
    float q = d / range;
    float q2 = q * q;
    float w = clamp(1.0 - q2 * q2, 0.0, 1.0);
    return squared ? w * w : w;
}

/// Irradiance at normal incidence for 1 cd at distance d.
float distanceAttenuation(float d, float range, float reach, bool squared) {
    if (reach > 0.0 && d > reach) return 0.0;
    float c = max(d, leastDistance);
    return rangeWindow(d, range, squared) / (c * c);
}

/// KHR_lights_punctual's cone: 1 inside inner, 0 outside outer.
float coneAttenuation(float cosAngle, float cosInner, float cosOuter) {
    float scale = 1.0 / max(0.001, cosInner - cosOuter);
    float a = clamp((cosAngle - cosOuter) * scale, 0.0, 1.0);
    return a * a;
}

/// Irradiance at normal incidence (lx per channel) and the unit direction toward the light.
vec3 normalIrradiance(LightData light, vec3 point, out vec3 toLight) {
    if ((light.type & 3) == 0) {
        toLight = -light.direction;
        return light.intensity;
    }
    vec3 v = light.position - point;
    float d = length(v);
    toLight = v / max(d, 1e-6);
    float share = distanceAttenuation(d, light.range, light.reach, WINDOW_SQUARED == 1);
    if ((light.type & 3) == 2) share *= coneAttenuation(-dot(toLight, light.direction), light.cosInner, light.cosOuter);
    return light.intensity * share;
}
