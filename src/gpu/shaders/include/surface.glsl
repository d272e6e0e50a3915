// The surface at a fragment, from its material's factors and textures (glTF 2.0 metallic-roughness).

#include "include/brdf.glsl"
uniform sampler2D baseColorTexture;
uniform sampler2D metallicRoughnessTexture;
uniform sampler2D normalTexture;
uniform sampler2D occlusionTexture;
uniform sampler2D emissiveTexture;
#if defined(SUBSURFACE_THICKNESS)
uniform sampler2D thicknessTexture;
#endif

struct Surface {
    vec3 position;   // world, metres
    vec3 normal;     // world, unit, toward the viewer on double-sided surfaces
    vec3 baseColor;  // linear
    float alpha;
    float metallic;
    float roughness;
    float occlusion; // share of ambient light that arrives
    vec3 emissive;   // cd/m2
    uint opticsNumber;
    OpticsData optics;
    float thickness; // metres, as the material tells it; 0: it does not
    bool unlit;
};

#include "include/coded.glsl"
#define VERTEX_INTERFACE in
#include "include/vertex_interface.glsl"

#ifndef NORMAL_MAPS
#define NORMAL_MAPS 1
#endif

/// Base colour and coverage.
vec4 readBase(MaterialData m) {
    vec4 base = m.baseColor * vertex.color;
    if ((m.flags & 8u) != 0u) base *= texture(baseColorTexture, vertex.uv);
    return base;
}

/// World, unit, toward the viewer on double-sided surfaces.
vec3 readNormal(MaterialData m) {
    vec3 n = normalize(vertex.normal);
#if NORMAL_MAPS
    if ((m.flags & 4u) != 0u) {
        vec3 t = vertex.tangent.xyz - n * dot(n, vertex.tangent.xyz);
        float l = length(t);
        if (l > 1e-6) {
            t /= l;
            vec3 b = cross(n, t) * vertex.tangent.w;
            vec3 map = texture(normalTexture, vertex.uv).xyz * 2.0 - 1.0;
            map.xy *= m.normalScale;
            n = normalize(t * map.x + b * map.y + n * map.z);
        }
    }
#endif
    return gl_FrontFacing ? n : -n;
}

// Of textures that are read.
#ifdef SUBSURFACE_THICKNESS
#define TEXTURE_FLAGS (NORMAL_MAPS == 1 ? 444u : 440u)
#else
#define TEXTURE_FLAGS (NORMAL_MAPS == 1 ? 188u : 184u)
#endif

Surface readSurface() {
    MaterialData m = materials[draws[vertex.draw].material];
    countReads(uint(bitCount(m.flags & TEXTURE_FLAGS)));
    Surface s;
    s.position = vertex.position;
    vec4 base = readBase(m);
    s.baseColor = base.rgb;
    s.alpha = base.a;
#ifdef ALPHA_MASK
    if ((m.flags & 1u) != 0u && s.alpha < m.alphaCutoff) discard;
#endif
    s.metallic = m.metallic;
    s.roughness = m.roughness;
    s.occlusion = 1.0;
    if ((m.flags & 16u) != 0u) {
        vec3 orm = texture(metallicRoughnessTexture, vertex.uv).rgb;
        s.metallic *= orm.b;
        s.roughness *= orm.g;
        if ((m.flags & 64u) != 0u) s.occlusion = 1.0 + m.occlusionStrength * (orm.r - 1.0);
    }
    if ((m.flags & 32u) != 0u) s.occlusion = 1.0 + m.occlusionStrength * (texture(occlusionTexture, vertex.uv).r - 1.0);
    s.emissive = m.emissive;
    if ((m.flags & 128u) != 0u) s.emissive *= texture(emissiveTexture, vertex.uv).rgb;
    s.unlit = (m.flags & 2u) != 0u;
    s.opticsNumber = m.optics;
    s.optics = opticsOf(m.optics);
    s.thickness = s.optics.thickness;
#ifdef SUBSURFACE_THICKNESS
    if ((m.flags & 256u) != 0u) s.thickness *= texture(thicknessTexture, vertex.uv).g;
#endif
#ifdef SUMS_CODED
    s.baseColor = s.unlit ? codedRadiance(s.baseColor) : codedColor(s.baseColor);
    s.emissive = codedRadiance(s.emissive);
#endif
    s.normal = readNormal(m);
    return s;
}
