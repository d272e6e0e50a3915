// A flat stage on the device: its lights and what they give. core/flat/flat_light.h holds the same in double.
// One side of a pair: src/gpu/frame/gpu_structs.h holds FlatLightData in C++, and a test compares every offset.
#ifndef FLAT_GLSL
#define FLAT_GLSL
struct FlatLightData {
    vec2 place;      // units
    float height;    // over the stage, units
    float range;     // units
    vec2 direction;  // in the plane, unit; of a directional light with its height in `rise`
    float cosInner;
    float cosOuter;
    vec3 color;      // times intensity
    int kind;        // 0 directional, 1 round, 2 spot, 3 line, 4 with a profile
    vec2 axis;       // line: half of it; profile: its right, unit
    vec2 extent;     // profile: half its width and height, units
    vec4 profile;    // texels of its corner in the atlas, its width and height
    uint layers;     // a bit for each that it reaches
    float falloff;
    float rise;      // directional: z of its direction
    uint casts;      // 1: shadows
    float size;      // across, units; of a directional light, radians; never 0
    float pad0, pad1, pad2;
};
layout(std430) readonly buffer FlatLightBuffer { FlatLightData flatLights[]; };
uniform sampler2D flatProfiles;

float flatWindow(float distance, FlatLightData l) {
    if (distance >= l.range) return 0.0;
    float q = distance / l.range;
    float w = 1.0 - q * q;
    return l.falloff == 2.0 ? w * w : pow(w, l.falloff);
}

/// Bilinear in the light's own part of the atlas, as a texture clamped at its border.
vec3 flatProfile(FlatLightData l, vec2 local) {
    if (abs(local.x) > 1.0 || abs(local.y) > 1.0) return vec3(0.0);
    vec2 t = vec2(local.x * 0.5 + 0.5, 0.5 - local.y * 0.5) * l.profile.zw - 0.5;
    vec2 f = fract(t);
    ivec2 low = ivec2(0), high = ivec2(l.profile.zw) - 1, base = ivec2(l.profile.xy), at = ivec2(floor(t));
#define TEXEL(x, y) texelFetch(flatProfiles, base + clamp(at + ivec2(x, y), low, high), 0).rgb
    return mix(mix(TEXEL(0, 0), TEXEL(1, 0), f.x), mix(TEXEL(0, 1), TEXEL(1, 1), f.x), f.y);
#undef TEXEL
}

/// What the light gives at a point without shadow and facing.
vec3 flatLight(FlatLightData l, vec2 point) {
    if (l.kind == 0) return l.color;
    vec2 to = point - l.place;
    if (l.kind == 4) return l.color * flatProfile(l, vec2(dot(to, l.axis), dot(to, vec2(-l.axis.y, l.axis.x))) / l.extent);
    float cone = 1.0;
    if (l.kind == 3) {
        float len = dot(l.axis, l.axis);
        if (len > 0.0) to -= l.axis * clamp(dot(to, l.axis) / len, -1.0, 1.0);
    }
    float d = length(to);
    if (l.kind == 2 && d > 1e-9) {
        float t = clamp((dot(to, l.direction) / d - l.cosOuter) / max(1e-4, l.cosInner - l.cosOuter), 0.0, 1.0);
        cone = t * t;
    }
    return l.color * (flatWindow(d, l) * cone);
}

/// Cosine between a surface's normal and the way to the light, with what sheen adds to it.
float flatFacing(FlatLightData l, vec3 normal, vec2 point) {
    vec3 to = l.kind == 0 ? -vec3(l.direction, l.rise) : vec3(l.place - point, max(1.0, l.height));
    to = normalize(to);
    float facing = max(0.0, dot(normal, to)), all = facing;
    vec4 sheen = parameters.flatSheen;
    if (sheen.x > 0.0 && facing > 0.0) all += sheen.x * pow(max(0.0, dot(normal, normalize(to + vec3(0.0, 0.0, 1.0)))), sheen.y);
    float side = length(to.xy);
    if (sheen.z > 0.0 && side > 1e-6) all += sheen.z * smoothstep(0.5, 1.0, 1.0 - normal.z) * max(0.0, dot(normal.xy, to.xy) / side);
    return all;
}

/// What a pixel shows, from the surface target: normal, layer, and what falls on it.
struct FlatSurface {
    vec3 normal;
    uint layer;
    bool lit;
    bool receives;
};
FlatSurface flatSurfaceOf(vec4 texel) {
    FlatSurface s;
    vec2 n = (texel.xy * 255.0 - 128.0) / 127.0;
    s.normal = vec3(n, sqrt(max(0.0, 1.0 - dot(n, n))));
    uint code = uint(texel.z * 255.0 + 0.5);
    s.layer = code & 31u;
    s.lit = (code & 32u) != 0u;
    s.receives = (code & 64u) != 0u;
    return s;
}
#endif
