// Light of lamps that even fog scatters once toward the eye, in closed form (B. Sun, R. Ramamoorthi, S. Narasimhan and S. Nayar, A Practical
// Analytic Single Scattering Model for Real Time Rendering, 2005). The reference in double is src/core/air/lamp_air.h.
#include "include/structs.glsl"
#include "include/light.glsl"
#include "include/air_lists.glsl"
uniform sampler2D airIntegrals; // integral of exp(-u tan x) over x from 0 to v, in rows of sqrt(u / (1 + u)) and columns of v

/// u from 0 up, v from 0 to pi/2.
float airIntegral(float u, float v) {
    const vec2 size = vec2(textureSize(airIntegrals, 0));
    vec2 place = vec2(v / 1.5707963, sqrt(u / (1.0 + u)));
    return textureLod(airIntegrals, (place * (size - 1.0) + 0.5) / size, 0.0).r;
}

/// The part of a ray within a lamp's reach and cone, and what it is worth there on the average.
bool litPart(LightData l, vec3 o, vec3 d, float cosine, inout float from, inout float to) {
    vec3 w = o - l.position;
    float reach = l.reach > 0.0 ? l.reach : l.range;
    if (reach > 0.0) {
        float nearest = -dot(w, d), rest = reach * reach - (dot(w, w) - nearest * nearest);
        if (rest <= 0.0) return false;
        from = max(from, nearest - sqrt(rest));
        to = min(to, nearest + sqrt(rest));
    }
    if ((l.type & 3) == 2 && cosine > 1e-6) {
        float da = dot(d, l.direction), wa = dot(w, l.direction), c2 = cosine * cosine, a = da * da - c2, b = da * wa - c2 * dot(d, w),
              c = wa * wa - c2 * dot(w, w), rest = b * b - a * c;
        if (abs(a) > 1e-7 && rest >= 0.0) {
            float root = (a < 0.0 ? -1.0 : 1.0) * sqrt(rest), low = (-b - root) / a, high = (-b + root) / a;
            if (a < 0.0) {
                if (wa + 0.5 * (low + high) * da <= 0.0) return false;
                from = max(from, low);
                to = min(to, high);
            } else if (da > 0.0)
                from = max(from, high);
            else
                to = min(to, low);
        } else if (a < 0.0)
            return false;
    }
    return to > from;
}

/// What the air between two distances of a ray sends back of 1 cd, per unit of scattering; isotropic.
float lampInAir(vec3 lamp, vec3 o, vec3 d, float from, float to) {
    float extinction = parameters.airFog.w, nearest = dot(lamp - o, d);
    float beside = max(length(lamp - o - d * nearest), 1e-3), u = extinction * beside;
    // Angles at the lamp, measured from the nearest point; the integral runs over half of 90 degrees more.
    float first = 0.5 * atan((from - nearest) / beside) + 0.7853982, last = 0.5 * atan((to - nearest) / beside) + 0.7853982;
    return exp(-extinction * nearest) / (6.2831853 * beside) * (airIntegral(u, last) - airIntegral(u, first));
}

void lampAir(vec3 point, bool sky, inout vec3 transmittance, inout vec3 scattered) {
    vec3 way = point - frame.eye.xyz, d = normalize(way);
    vec4 clip = frame.viewProjection * vec4(point, 1.0);
    int list = airList((clip.xy / clip.w * 0.5 + 0.5) * vec2(frame.width, frame.height), 1.0);
    uint count = airListCount(list);
    vec3 sum = vec3(0.0);
    countOf(COUNTER_lampsInAir, count);
    for (uint k = 0u; k < count; ++k) {
        uint index = airListLight(list, k);
        LightData l = fetchLight(index);
        float share = texelFetch(airShares, int(index)).r;
        float part = 0.0, most = sky ? 1e5 : length(way);
        // A soft cone as one of its mean width.
        float from = 0.0, to = most;
        if (share > 0.0 && litPart(l, frame.eye.xyz, d, 0.5 * (l.cosInner + l.cosOuter), from, to))
            part = lampInAir(l.position, frame.eye.xyz, d, from, to);
        sum += l.intensity * (part * share);
    }
    scattered += sum * (parameters.airFog.xyz * parameters.airFog.w);
}
