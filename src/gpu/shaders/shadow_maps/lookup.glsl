// The share of a light that its shadow leaves at a point. Where maps lie and how the world falls on them: core/shadow/shadow_set.h.
//   SHADOW_FILTER  0 hard, 1 bilinear, 2 disc, 3 percentage-closer soft shadows, 4 variance, 5 exponential, 6 moments;
//   SHADOW_FILTER_OF_LIGHT: each light's own
//   SHADOW_TAPS, SHADOW_RECEIVER_PLANE
#include "shadow_maps/noise.glsl"
#ifdef LEDGER
#define countTaps(n) enterTaps(n)
#else
#define countTaps(n) countOf(COUNTER_shadowTaps, n)
#endif
uniform samplerBuffer shadowTexels;    // three texels a light, then seven a map
uniform sampler2D shadowAtlas;
uniform sampler2DShadow shadowCompare; // the same: share of four texels, weighed, that lie no nearer to the light

#ifdef SHADOW_CUBES
uniform samplerCubeArray shadowCubes;
uniform samplerCubeArrayShadow shadowCubesCompare;
#endif

#ifndef SHADOW_FILTER // of a shader that lights nothing
#define SHADOW_FILTER 0
#define SHADOW_TAPS 1
#define SHADOW_RECEIVER_PLANE 0
#endif
#if SHADOW_FILTER == 2 || SHADOW_FILTER == 3 || defined(SHADOW_FILTER_OF_LIGHT)
#define SHADOW_SPREAD
#endif
#if SHADOW_FILTER >= 4
#define FILTERABLE SHADOW_FILTER
#include "shadow_maps/filterable.glsl"
uniform sampler2D blurredShadows; // means of what filterableOf() makes of depths around, with coarser levels
#endif

struct ShadowLight {
    int first;          // texel of its first map
    int maps;           // 0: none
    int kind;           // 1 cascades, 2 one map, 3 six faces
    int filtering;      // as SHADOW_FILTER
    float opacity;
    float source;       // diameter in metres; in the sky twice the tangent of half its angle
    float bias;         // metres
    float slopeBias;    // texels
    float normalOffset; // texels
};

ShadowLight shadowLight(uint light) {
    vec4 a = texelFetch(shadowTexels, int(light) * 3);
    ShadowLight s;
    s.maps = int(a.y);
    if (s.maps == 0) return s;
    vec4 b = texelFetch(shadowTexels, int(light) * 3 + 1);
    s.first = int(a.x);
    s.kind = int(a.z);
    s.filtering = int(a.w);
    s.opacity = b.x;
    s.source = b.y;
    s.bias = b.z;
    s.slopeBias = b.w;
    s.normalOffset = texelFetch(shadowTexels, int(light) * 3 + 2).x;
    return s;
}

/// A map, and a point's place in it.
struct ShadowPlace {
    mat4 toMap;       // clip space: depth 1 at the near end, falling away from the light
    vec2 low;         // texels of the atlas
    float texels;     // along a side
    float range;      // metres: near plane of a perspective map, whole range of another
    float tangent;    // half the width at distance 1; of a cascade in metres
    float reach;      // metres along the axis
    bool perspective;
    float cube;       // number of the cube that it is a face of; -1: it lies in the atlas
    vec2 at;          // -1 to 1
    float metres;     // along the axis, from the light or the near end
    float depth;      // with the bias
    vec2 slope;       // of the receiver's plane: depth for each unit of `at`
};

/// near / distance, or evenly over the range.
float mapDepth(ShadowPlace m, float metres) { return m.perspective ? m.range / max(metres, 1e-4) : 1.0 - metres / m.range; }
float mapMetres(ShadowPlace m, float depth) { return m.perspective ? m.range / max(depth, 1e-7) : (1.0 - depth) * m.range; }

ShadowPlace shadowMap(int map) {
    ShadowPlace m;
    m.toMap = mat4(texelFetch(shadowTexels, map), texelFetch(shadowTexels, map + 1), texelFetch(shadowTexels, map + 2), texelFetch(shadowTexels, map + 3));
    vec4 place = texelFetch(shadowTexels, map + 4), scale = texelFetch(shadowTexels, map + 5);
    m.low = place.xy;
    m.texels = place.z;
    m.cube = place.w - 1.0;
    m.range = scale.x;
    m.tangent = scale.y;
    m.perspective = scale.z > 0.5;
    m.reach = scale.w;
    return m;
}

/// Finds the point's place, moved along the normal and toward the light. False where the map does not hold it.
bool findPlace(inout ShadowPlace m, ShadowLight s, vec3 fromLight, vec3 point, vec3 normal, vec3 toLight) {
    vec3 axis = vec3(m.toMap[0].w, m.toMap[1].w, m.toMap[2].w);
    float texel = 2.0 * m.tangent / m.texels * (m.perspective ? dot(axis, point) + m.toMap[3].w : 1.0); // metres
    float upright = clamp(m.perspective ? -dot(normal, axis) : dot(normal, toLight), 0.05, 1.0); // flatter surfaces have no plane to speak of
    vec3 moved = normal * (s.normalOffset * texel * sqrt(1.0 - upright * upright));
    vec4 clip = m.toMap * vec4(point + moved, 1.0);
    if (m.perspective && clip.w <= m.range) return false;
    m.at = clip.xy / clip.w;
    if (m.cube < 0.0 && max(abs(m.at.x), abs(m.at.y)) > 1.0) return false; // a cube's faces meet
    m.metres = m.perspective ? clip.w : (1.0 - clip.z) * m.range;
    vec2 across = vec2(dot(normal, vec3(m.toMap[0].x, m.toMap[1].x, m.toMap[2].x)), dot(normal, vec3(m.toMap[0].y, m.toMap[1].y, m.toMap[2].y)));
    float toward = max(dot(normal, toLight), 0.05) * (m.perspective ? length(fromLight + moved) / m.range : m.range);
    m.slope = -across * (m.tangent * m.tangent / toward);
    m.depth = mapDepth(m, m.metres - s.bias) + s.slopeBias * 2.0 / m.texels * (abs(m.slope.x) + abs(m.slope.y));
    return true;
}

/// Direction from the light to a place of a perspective map, 1 along its axis.
vec3 directionTo(ShadowPlace m, vec2 at) {
    vec3 x = vec3(m.toMap[0].x, m.toMap[1].x, m.toMap[2].x), y = vec3(m.toMap[0].y, m.toMap[1].y, m.toMap[2].y);
    return vec3(m.toMap[0].w, m.toMap[1].w, m.toMap[2].w) + (x * at.x + y * at.y) * (m.tangent * m.tangent);
}

/// The depth that the map holds.
float heldDepth(ShadowPlace m, vec2 at) {
#ifdef SHADOW_CUBES
    if (m.cube >= 0.0) return textureLod(shadowCubes, vec4(directionTo(m, at), m.cube), 0.0).r;
#endif
    return texelFetch(shadowAtlas, ivec2(m.low + clamp(floor((at * 0.5 + 0.5) * m.texels), 0.0, m.texels - 1.0)), 0).r;
}
/// Share of the four texels around that do not shade a point of this depth.
float litShare(ShadowPlace m, vec2 at, float depth) {
#ifdef SHADOW_CUBES
    if (m.cube >= 0.0) return texture(shadowCubesCompare, vec4(directionTo(m, at), m.cube), clamp(depth, 0.0, 1.0));
#endif
    vec2 uv = (m.low + clamp((at * 0.5 + 0.5) * m.texels, 0.5, m.texels - 0.5)) / vec2(textureSize(shadowAtlas, 0));
    return texture(shadowCompare, vec3(uv, clamp(depth, 0.0, 1.0)));
}

#if SHADOW_FILTER >= 4
/// Share of the light that the blurred map lets through at most; the farther the eye, the coarser the level that is asked.
float litByBlurred(ShadowPlace m, vec3 point) {
    float texel = 2.0 * m.tangent / m.texels * (m.perspective ? m.metres : 1.0);
    float footprint = dot(point - frame.eye.xyz, frame.forward.xyz) * parameters.blurredShadows.z; // metres
    float level = clamp(log2(max(footprint / texel, 1e-6)), 0.0, min(3.0, log2(m.texels)));
    float edge = 0.5 * exp2(ceil(level)); // a texel of that level lies within the map
    vec2 uv = (m.low + clamp((m.at * 0.5 + 0.5) * m.texels, edge, m.texels - edge)) / vec2(textureSize(blurredShadows, 0));
    vec4 held = textureLod(blurredShadows, uv, level);
    float depth = clamp(2.0 * mapMetres(m, m.depth) / m.reach - 1.0, -1.0, 1.0);
    const float least = 4e-7; // of variance, against rounding
#if SHADOW_FILTER == 4
    float lit = litByVariance(held.xy, depth, least);
#elif SHADOW_FILTER == 5
    float lit = litByExponentials(held, depth, parameters.blurredShadows.x, least);
#else
    float lit = litByMoments(held, depth, 2e-6);
#endif
    return withoutLeak(lit, parameters.blurredShadows.y);
}
#endif

/// The face of a cube that a direction falls on, in the order +x -x +y -y +z -z.
int faceOf(vec3 d) {
    vec3 a = abs(d);
    if (a.x >= a.y && a.x >= a.z) return d.x > 0.0 ? 0 : 1;
    if (a.y >= a.z) return d.y > 0.0 ? 2 : 3;
    return d.z > 0.0 ? 4 : 5;
}

#ifdef SHADOW_SPREAD
/// A tap beside the place: the receiver's own plane is what it is compared with. Beyond a cube's face it lies on another one.
void tapAt(ShadowLight s, ShadowPlace m, vec2 beside, out ShadowPlace map, out vec2 at, out float depth) {
    map = m;
    at = m.at + beside;
#if SHADOW_RECEIVER_PLANE
    depth = m.depth + dot(m.slope, beside);
#else
    depth = m.depth;
#endif
    for (int beyond = s.kind == 3 && max(abs(at.x), abs(at.y)) > 1.0 ? 1 : 0; beyond > 0; --beyond) {
        vec3 v = mapMetres(m, depth) * directionTo(m, at); // from the light
        map = shadowMap(s.first + 7 * faceOf(v));
        vec3 clip = vec3(dot(v, vec3(map.toMap[0].x, map.toMap[1].x, map.toMap[2].x)), dot(v, vec3(map.toMap[0].y, map.toMap[1].y, map.toMap[2].y)),
                         dot(v, vec3(map.toMap[0].w, map.toMap[1].w, map.toMap[2].w)));
        at = clip.xy / clip.z;
        depth = mapDepth(map, clip.z * (1.0 - 3.0 * s.slopeBias * map.tangent / map.texels)); // the plane lies askew there
    }
}

const mat2 goldenTurn = mat2(-0.7373688, 0.6754903, -0.6754903, -0.7373688); // by 2.39996 radians: points of a disc, evenly spread (H. Vogel, 1979)

/// Share of taps on a disc (radius in units of the map) that are lit.
float litDisc(ShadowLight s, ShadowPlace m, float radius, float turn) {
    float lit = 0.0;
    vec2 direction = vec2(cos(turn), sin(turn));
    for (int i = 0; i < SHADOW_TAPS; ++i) {
        ShadowPlace map;
        vec2 at;
        float depth;
        tapAt(s, m, direction * (radius * sqrt((float(i) + 0.5) / float(SHADOW_TAPS))), map, at, depth);
        lit += litShare(map, at, depth);
        direction = goldenTurn * direction;
    }
    countTaps(uint(SHADOW_TAPS));
    return lit / float(SHADOW_TAPS);
}

/// Radius of a source's picture on the map (units of the map), thrown through a point at `from` metres onto the surface.
float thrown(ShadowLight s, ShadowPlace m, float from) {
    float radius = m.perspective ? 0.5 * s.source * (1.0 / from - 1.0 / m.metres) : 0.5 * s.source * (m.metres - from);
    return clamp(radius / m.tangent, 0.0, parameters.shadowFilter.y * 2.0 / m.texels);
}

/// As wide as the source makes the penumbra (R. Fernando, Percentage-Closer Soft Shadows, 2005): a search for what lies between, then the disc.
float litSoft(ShadowLight s, ShadowPlace m, float turn) {
    const int taps = (SHADOW_TAPS + 1) / 2;
    float radius = max(thrown(s, m, m.perspective ? m.range : 0.0), 1.0 / m.texels), sum = 0.0, found = 0.0;
    vec2 direction = vec2(cos(turn + 1.0), sin(turn + 1.0));
    for (int i = 0; i < taps; ++i) {
        ShadowPlace map;
        vec2 at;
        float depth;
        tapAt(s, m, direction * (radius * sqrt((float(i) + 0.5) / float(taps))), map, at, depth);
        float held = heldDepth(map, at);
        if (held > depth) {
            sum += mapMetres(map, held);
            found += 1.0;
        }
        direction = goldenTurn * direction;
    }
    countTaps(uint(taps));
    if (found == 0.0) return 1.0;
    return litDisc(s, m, max(thrown(s, m, sum / found), 1.0 / m.texels), turn);
}
#endif

/// Share of the light that one map lets through.
float litInMap(int map, ShadowLight s, vec3 fromLight, vec3 point, vec3 normal, vec3 toLight) {
    ShadowPlace m = shadowMap(map);
    countOf(COUNTER_shadowLookups, 1u);
    if (!findPlace(m, s, fromLight, point, normal, toLight)) return 1.0;
#ifdef SHADOW_FILTER_OF_LIGHT
    int filtering = s.filtering;
#else
    const int filtering = SHADOW_FILTER;
#endif
    if (filtering == 0) {
        countTaps(1u);
        return heldDepth(m, m.at) > m.depth ? 0.0 : 1.0;
    }
    if (filtering == 1) {
        countTaps(1u);
        return litShare(m, m.at, m.depth);
    }
#if SHADOW_FILTER >= 4
    if (filtering >= 4) {
        countTaps(1u);
        return litByBlurred(m, point);
    }
#endif
#ifdef SHADOW_SPREAD
    float turn = 6.2831853 * evenNoise(gl_FragCoord.xy);
    if (filtering == 2) return litDisc(s, m, parameters.shadowFilter.x * 2.0 / m.texels, turn);
    return litSoft(s, m, turn);
#else
    return 1.0;
#endif
}

/// View depths of a cascade: x where it is looked up to, y from where the next one joins in.
vec2 cascadeEnds(ShadowLight s, int i) { return texelFetch(shadowTexels, s.first + 7 * i + 6).xy; }

/// Which cascade a view depth takes, and by how much the one after it; -1: none.
int cascadeAt(ShadowLight s, float depth, out float share) {
    share = 0.0;
    for (int i = 0; i < s.maps; ++i) {
        vec2 ends = cascadeEnds(s, i);
        if (depth >= ends.x) continue;
        if (depth > ends.y) share = (depth - ends.y) / (ends.x - ends.y);
        return i;
    }
    return -1;
}

float viewDepthOf(vec3 point) { return dot(point - frame.eye.xyz, frame.forward.xyz); }

/// Loops stand here for branches: a software device runs both sides of a branch for all of its lanes, and leaves out a loop that none of
/// them enters.
vec3 shadowFactor(uint light, LightData data, vec3 point, vec3 normal, vec3 toLight) {
    float left = 1.0;
    for (int mapped = receivesShadows ? int(texelFetch(shadowTexels, int(light) * 3).y) : 0; mapped > 0; mapped = 0) {
        ShadowLight s = shadowLight(light);
        vec3 fromLight = point - data.position;
        float share = 0.0, fade = 0.0;
        int first = s.kind == 3 ? faceOf(fromLight) : 0, count = 1;
        for (int sun = s.kind == 1 ? 1 : 0; sun > 0; --sun) {
            float depth = viewDepthOf(point);
            first = cascadeAt(s, depth, share);
            count = first < 0 ? 0 : share > 0.0 ? 2 : 1;
            fade = clamp((depth - parameters.shadowCascades.x) / max(parameters.shadowCascades.y - parameters.shadowCascades.x, 1e-4), 0.0, 1.0);
        }
        float lit = count == 0 ? 1.0 : 0.0;
        for (int i = 0; i < count; ++i)
            lit += litInMap(s.first + 7 * (first + i), s, fromLight, point, normal, toLight) * (i == 0 ? 1.0 - share : share);
        left = 1.0 - s.opacity * (1.0 - mix(lit, 1.0, fade));
    }
    return vec3(left);
}

/// Metres along the light's way from what it meets first to the point; -1: no map of it holds the point. Of four texels, weighed.
float shadowThickness(uint light, LightData data, vec3 point, vec3 toLight) {
    ShadowLight s = shadowLight(light);
    if (s.maps == 0) return -1.0;
    vec3 fromLight = point - data.position;
    float share;
    int map = s.kind == 3 ? faceOf(fromLight) : s.kind == 1 ? cascadeAt(s, viewDepthOf(point), share) : 0;
    if (map < 0) return -1.0;
    s.bias = s.slopeBias = s.normalOffset = 0.0; // it is a length that is asked for
    ShadowPlace m = shadowMap(s.first + 7 * map);
    if (!findPlace(m, s, fromLight, point, toLight, toLight)) return -1.0;
    vec2 texel = (m.at * 0.5 + 0.5) * m.texels - 0.5, low = floor(texel), part = texel - low;
    float metres = 0.0;
    for (int i = 0; i < 4; ++i) {
        vec2 beside = vec2(i & 1, i >> 1), weight = mix(1.0 - part, part, beside);
        float held = mapMetres(m, heldDepth(m, (low + beside + 0.5) / m.texels * 2.0 - 1.0));
        metres += weight.x * weight.y * max(m.metres - held, 0.0);
    }
    countTaps(4u);
    return metres * (m.perspective ? length(fromLight) / m.metres : 1.0);
}
