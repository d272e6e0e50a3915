// Probes in space as surfaces ask them. The reference in double is src/core/bake/probe_grid.cpp (probe_answer); a test holds the two together.
uniform sampler2DArray probeLight; // a texel for each probe, a layer for each number; a: 0 where it takes no part
#if PROBE_VISIBILITY
uniform sampler2D probeDistances; // octahedra of 8x8 with a border: mean distance and mean square, over the farthest
#endif

vec3 spaceProbe(ivec2 texel, vec3 n, out float open) {
    vec4 first = texelFetch(probeLight, ivec3(texel, 0), 0);
    open = first.a;
    vec3 sum = 0.282095 * first.rgb;
    sum += 0.488603 * (n.y * texelFetch(probeLight, ivec3(texel, 1), 0).rgb + n.z * texelFetch(probeLight, ivec3(texel, 2), 0).rgb +
                       n.x * texelFetch(probeLight, ivec3(texel, 3), 0).rgb);
#if PROBE_ORDER == 2
    sum += 1.092548 * (n.x * n.y * texelFetch(probeLight, ivec3(texel, 4), 0).rgb + n.y * n.z * texelFetch(probeLight, ivec3(texel, 5), 0).rgb +
                       n.x * n.z * texelFetch(probeLight, ivec3(texel, 7), 0).rgb);
    sum += 0.315392 * (3.0 * n.z * n.z - 1.0) * texelFetch(probeLight, ivec3(texel, 6), 0).rgb +
           0.546274 * (n.x * n.x - n.y * n.y) * texelFetch(probeLight, ivec3(texel, 8), 0).rgb;
#endif
    return max(sum, vec3(0.0));
}

#if PROBE_VISIBILITY
/// Share of light toward a direction that goes so far, by Chebyshev's bound.
float spaceSeen(ivec2 texel, vec3 way, float metres) {
    vec2 p = way.xy / (abs(way.x) + abs(way.y) + abs(way.z));
    if (way.z < 0.0) p = (1.0 - abs(p.yx)) * vec2(p.x >= 0.0 ? 1.0 : -1.0, p.y >= 0.0 ? 1.0 : -1.0);
    vec2 at = (vec2(texel) * 10.0 + 1.0 + (p * 0.5 + 0.5) * 8.0) / vec2(textureSize(probeDistances, 0));
    float far = parameters.probeGridForm.z;
    vec2 seen = textureLod(probeDistances, at, 0.0).xy * vec2(far, far * far);
    if (metres <= seen.x) return 1.0;
    float spacing = parameters.probeGridLow.w, beyond = metres - seen.x;
    float variance = max(seen.y - seen.x * seen.x, 1e-4 * spacing * spacing);
    float share = variance / (variance + beyond * beyond);
    return max(share * share * share, 1e-4);
}
#endif

vec3 probesLight; // of those that were asked, by their weights
float probesWeights;

/// Adds what a probe gives a surface that counts it so much by where it stands; returns how surely it sees the point.
float spaceAdd(int i, vec3 place, float w, vec3 asked, vec3 normal, bool sees) {
    int across = int(parameters.probeGridCount.w);
    ivec2 texel = ivec2(i % across, i / across);
    float open;
    vec3 own = spaceProbe(texel, normal, open);
    countOf(COUNTER_gridReads, 1u);
    if (open <= 0.0) return 0.0;
    float sure = 1.0;
#if PROBE_VISIBILITY
    if (sees) {
        vec3 from = asked - place;
        float metres = max(length(from), 1e-6), before = 0.5 * (1.0 - dot(from / metres, normal));
        sure = spaceSeen(texel, from / metres, metres);
        w *= (before * before + 0.05) * sure;
    }
#endif
    probesLight += w * own;
    probesWeights += w;
    return sure;
}

#ifdef PROBE_PLACES
layout(std430) readonly buffer ProbePlaceBuffer { vec4 probePlaces[]; };

/// Irradiance over pi of probes that were placed by hand; a: the share of ambient light that it stands for.
vec4 spaceJoined(vec3 point, vec3 normal, bool sees) {
    vec3 asked = point + normal * min(0.1 * parameters.probeGridLow.w, 0.1);
    float nearest = 0.0;
    probesLight = vec3(0.0);
    probesWeights = 0.0;
    for (int i = 0; i < PROBE_PLACES; ++i) {
        vec3 place = probePlaces[i].xyz;
        float near = 1.0 - distance(point, place) / parameters.probeGridForm.w;
        if (near <= 0.0) continue;
        nearest = max(nearest, near * max(0.0, 2.0 * spaceAdd(i, place, near * near, asked, normal, sees) - 1.0));
    }
    float share = min(1.0, 2.0 * nearest);
    return probesWeights > 0.0 ? vec4(probesLight / probesWeights * share, share) : vec4(0.0);
}
#else
/// Irradiance over pi; a: the share of ambient light that it stands for.
vec4 spaceJoined(vec3 point, vec3 normal, bool sees) {
    float spacing = parameters.probeGridLow.w;
    vec3 last = parameters.probeGridCount.xyz - 1.0, at = (point - parameters.probeGridLow.xyz) / spacing;
    vec3 beyond = max(-at, at - last);
    float share = clamp(1.0 - max(beyond.x, max(beyond.y, beyond.z)), 0.0, 1.0);
    if (share <= 0.0) return vec4(0.0);
    vec3 inside = clamp(at, vec3(0.0), last);
    ivec3 first = min(ivec3(floor(inside)), max(ivec3(parameters.probeGridCount.xyz) - 2, ivec3(0)));
    vec3 f = inside - vec3(first), asked = point + normal * (0.1 * spacing);
    probesLight = vec3(0.0);
    probesWeights = 0.0;
    for (int k = 0; k < 8; ++k) {
        ivec3 corner = ivec3(k & 1, (k >> 1) & 1, k >> 2), cell = min(first + corner, ivec3(last));
        vec3 near = mix(1.0 - f, f, vec3(corner));
        float w = near.x * near.y * near.z;
        if (w <= 0.0) continue;
        int i = (cell.z * int(parameters.probeGridCount.y) + cell.y) * int(parameters.probeGridCount.x) + cell.x;
        spaceAdd(i, parameters.probeGridLow.xyz + spacing * vec3(cell), w, asked, normal, sees);
    }
    return probesWeights > 0.0 ? vec4(probesLight / probesWeights * share, share) : vec4(0.0);
}
#endif

vec4 spaceDiffuse(vec3 point, vec3 normal) { return spaceJoined(point, normal, true); }
