// Light of a Blocks stage at a pixel, by BLOCK_WAY: 0 faces, 1 cast, 2 flood, 3 flood with origin. core/blocks/block_light.h holds the same in double.
#include "blocks/world.glsl"
#include "include/brdf.glsl"
layout(std430) readonly buffer BlockCurveBuffer { float blockCurve[]; }; // by level: (level / 63)^falloff

/// Light from everywhere by the direction of a face, cd/m2.
vec3 faceAmbient(vec3 n) {
    float up = n.y * n.y;
    return (n.y > 0.0 ? parameters.blockTop.rgb : parameters.blockBottom.rgb) * up + parameters.blockSide.rgb * (1.0 - up);
}
/// The sun's irradiance over pi.
vec3 faceSun(vec3 n) { return parameters.blockSunLux.rgb * (max(dot(n, parameters.blockSun.xyz), 0.0) / pi); }

#if BLOCK_WAY == 1
/// x: what is left of the light, y: highlight, z: warm or cool.
vec3 castLight(BlockPixel p) {
    if (!holdsCell(p.part, p.cell)) return vec3(1.0, 0.0, 0.0);
    BlockChunkData c = chunkOf(p.part, p.cell);
    uint hits = c.extra == 0xFFFFFFFFu ? 0u : blockExtra[c.extra + placeInChunk(p.cell)];
    vec4 o = parameters.blockCast;
    float most = max(o.x, 1.0), dark = min(float(hits & 255u) / most, 1.0), behind = min(float(hits >> 8 & 255u) / most, 1.0);
    return vec3(1.0 - o.y * dark, pow((1.0 - dark) * behind, o.z), o.w * ((1.0 - dark) * behind - dark));
}
#endif

#if BLOCK_WAY >= 2
struct CellLight {
    vec3 lamps;         // 0 to 1
    float sky;          // 0 to 1
    float sun;          // 1 where it comes straight down
};
CellLight cellLight(ivec3 cell) {
    uint w = lightWord(cell);
    if (stopsLight(w)) return CellLight(vec3(0.0), 0.0, 0.0);
    uint sun = levelOf(w, 3);
    return CellLight(vec3(blockCurve[levelOf(w, 0)], blockCurve[levelOf(w, 1)], blockCurve[levelOf(w, 2)]), blockCurve[sun], sun == 63u ? 1.0 : 0.0);
}
CellLight blend(CellLight a, CellLight b, float t) { return CellLight(mix(a.lamps, b.lamps, t), mix(a.sky, b.sky, t), mix(a.sun, b.sun, t)); }
CellLight sum4(CellLight a, CellLight b, CellLight c, CellLight d) {
    return CellLight((a.lamps + b.lamps + c.lamps + d.lamps) * 0.25, (a.sky + b.sky + c.sky + d.sky) * 0.25, (a.sun + b.sun + c.sun + d.sun) * 0.25);
}
/// The mean of the four cells that meet at a corner of the face; where both beside the diagonal one stop light, so does that.
CellLight cornerLight(ivec3 front, ivec3 u, ivec3 v) {
    ivec3 diagonal = stopsLight(lightWord(front + u)) && stopsLight(lightWord(front + v)) ? front + u : front + u + v;
    return sum4(cellLight(front), cellLight(front + u), cellLight(front + v), cellLight(diagonal));
}
CellLight faceLight(BlockPixel p) {
    ivec3 front = cellBefore(p);
    if (p.part != 0 || parameters.blockFlood.z == 0.0) return cellLight(front);
    ivec2 axes = blockAxes[p.face >> 1];
    ivec3 u = ivec3(0), v = ivec3(0);
    u[axes.x] = 1;
    v[axes.y] = 1;
    vec2 at = fract(vec2(p.local[axes.x], p.local[axes.y]));
    return blend(blend(cornerLight(front, -u, -v), cornerLight(front, u, -v), at.x), blend(cornerLight(front, -u, v), cornerLight(front, u, v), at.x), at.y);
}
#endif

#if BLOCK_WAY == 3
struct CellOrigin {
    vec3 lamp, via;     // cells from here
    uint level, material;
};
/// which: 0 the strongest, 1 the strongest of another lamp, where that is kept.
CellOrigin cellOrigin(ivec3 cell, int which) {
    CellOrigin o = CellOrigin(vec3(0.0), vec3(0.0), 0u, 0u);
    if (!holdsCell(0, cell)) return o;
    BlockChunkData c = chunkOf(0, cell);
    if (c.extra == 0xFFFFFFFFu) return o;
    bool two = parameters.blockOrigin.y > 0.0;
    if (which > 0 && !two) return o;
    uint at = c.extra + (two ? 4u : 2u) * placeInChunk(cell) + 2u * uint(which), a = blockExtra[at], b = blockExtra[at + 1u];
    o.lamp = vec3(int(a << 24) >> 24, int(a << 16) >> 24, int(a << 8) >> 24);
    o.via = vec3(int(a) >> 24, int(b << 24) >> 24, int(b << 16) >> 24);
    o.level = b >> 16 & 255u;
    o.material = b >> 24;
    return o;
}
/// What one lamp's light makes of a face, cd/m2.
vec3 originLight(BlockPixel p, BlockMaterialData m, CellOrigin o, vec3 toEye) {
    if (o.level == 0u) return vec3(0.0);
    vec3 to = o.via == vec3(0.0) ? p.normal : normalize(o.via);
    vec3 irradiance = blockPalette[o.material].lamp.rgb * (blockCurve[o.level] * parameters.blockFlood.x);
    float facing = max(dot(p.normal, to), 0.0), wrap = parameters.blockOrigin.x;
    vec3 light = m.color.rgb * (1.0 - m.surface.y) * irradiance * (mix(facing, 1.0, wrap) / pi);
    if (facing <= 0.0) return light;
    float alpha = max(m.surface.x, leastRoughness);
    alpha *= alpha;
    vec3 h = normalize(to + toEye);
    float cosView = max(dot(p.normal, toEye), 1e-4), cosHalf = max(dot(p.normal, h), 0.0);
    vec3 f0 = mix(vec3(0.04), m.color.rgb, m.surface.y);
    return light + schlick(f0, 1.0, dot(to, h)) * irradiance * (ggxDistribution(cosHalf, alpha) * smithVisibility(facing, cosView, alpha) * facing);
}
#endif

/// Radiance that a pixel sends to the eye, cd/m2.
vec3 blockRadiance(BlockPixel p, vec3 toEye) {
    BlockMaterialData m = blockPalette[p.material];
    vec3 color = m.color.rgb, glow = color * m.surface.z;
#if BLOCK_WAY == 0
    return color * (faceAmbient(p.normal) + faceSun(p.normal)) + glow;
#elif BLOCK_WAY == 1
    vec3 c = castLight(p);
    return color * (faceAmbient(p.normal) + faceSun(p.normal)) * (c.x * (1.0 + c.y)) * vec3(1.0 + 0.3 * c.z, 1.0, 1.0 - 0.3 * c.z) + glow;
#else
    CellLight l = faceLight(p);
    vec3 around = faceAmbient(p.normal) * l.sky + faceSun(p.normal) * l.sun;
#if BLOCK_WAY == 2
    return color * (around + l.lamps * (parameters.blockFlood.x / pi)) + glow;
#else
    ivec3 front = cellBefore(p);
    vec3 lamps = originLight(p, m, cellOrigin(front, 0), toEye);
    if (parameters.blockOrigin.y > 0.0) lamps += originLight(p, m, cellOrigin(front, 1), toEye);
    return color * (1.0 - m.surface.y) * around + glow + lamps;
#endif
#endif
}
