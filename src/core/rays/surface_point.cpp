#include "core/rays/surface_point.h"
#include "core/rays/texture_lookup.h"
#include "core/scene/geometry.h"
#include <cmath>

namespace mirolux {

namespace {

const Material& material_of(const SceneAsset& asset, const Primitive& p) {
    return asset.materials[p.material < 0 ? asset.materials.size() - 1 : std::size_t(p.material)];
}

/// What the vertex shader hands on, between the corners of a triangle.
struct Interpolated {
    glm::vec3 normal{0.0f}; // object space
    glm::vec4 tangent{0.0f};
    glm::vec4 color{0.0f};
    glm::vec2 uv{0.0f};
};
Interpolated interpolated(const Primitive& p, const std::vector<Vertex>& vertices, std::uint32_t triangle, float u,
                          float v) {
    Interpolated out;
    const float weight[3] = {1 - u - v, u, v};
    for (std::uint32_t k = 0; k < 3; ++k) {
        const Vertex& corner = vertices[p.indices[3 * triangle + k]];
        out.normal += weight[k] * corner.normal;
        out.tangent += weight[k] * corner.tangent;
        out.uv += weight[k] * corner.uv;
        const std::uint32_t c = corner.color;
        out.color += weight[k] * glm::vec4(c & 255, c >> 8 & 255, c >> 16 & 255, c >> 24) / 255.0f;
    }
    return out;
}

glm::vec4 base_color(const SceneAsset& asset, const Material& m, const Interpolated& at) {
    const int texture = m.textures[static_cast<int>(TextureSlot::baseColor)];
    const glm::vec4 base = m.baseColor * at.color;
    return texture >= 0 ? base * texture_color(asset, texture, at.uv) : base;
}

glm::vec3 emission(const SceneAsset& asset, const Material& m, const Interpolated& at) {
    if (m.unlit) return base_color(asset, m, at);
    const int texture = m.textures[static_cast<int>(TextureSlot::emissive)];
    return texture >= 0 ? m.emissive * glm::vec3(texture_color(asset, texture, at.uv)) : m.emissive;
}

bool usable(const glm::vec3& v) {
    const float l = glm::dot(v, v);
    return std::isfinite(l) && l > 1e-20f;
}

/// The normal under the material's normal map (glTF 2.0: tangent space, MikkTSpace's handedness in w).
glm::vec3 mapped_normal(const SceneAsset& asset, const Material& m, const Interpolated& at, const glm::mat3& world,
                        const glm::vec3& n) {
    glm::vec3 t = world * glm::vec3(at.tangent);
    t -= n * glm::dot(n, t);
    if (!usable(t) || glm::dot(t, t) < 1e-12f) return n;
    t = glm::normalize(t);
    const glm::vec3 b = glm::cross(n, t) * at.tangent.w;
    glm::vec3 map =
        glm::vec3(texture_value(asset, m.textures[static_cast<int>(TextureSlot::normal)], at.uv)) * 2.0f - 1.0f;
    map.x *= m.normalScale;
    map.y *= m.normalScale;
    const glm::vec3 out = t * map.x + b * map.y + n * map.z;
    return usable(out) ? glm::normalize(out) : n;
}

} // namespace

glm::vec3 surface_emission(const SceneAsset& asset, const Primitive& p, std::uint32_t triangle, float u, float v) {
    const Material& m = material_of(asset, p);
    if (!m.unlit && m.emissive == glm::vec3(0.0f)) return glm::vec3(0.0f);
    return emission(asset, m, interpolated(p, p.vertices, triangle, u, v));
}

SurfacePoint surface_point(const RayScene& rays, const Ray& ray, const RayHit& hit, bool normalMaps) {
    const SceneAsset& asset = *rays.asset();
    const auto o = static_cast<std::size_t>(hit.object);
    const Primitive& p = asset.primitives[static_cast<std::size_t>(asset.objects[o].primitive)];
    const Material& m = material_of(asset, p);
    const glm::mat4& transform = rays.transform(o);
    const Interpolated at = interpolated(p, rays.vertices(o), hit.triangle, hit.u, hit.v);
    SurfacePoint s;
    s.position = ray.origin + ray.direction * hit.distance;
    s.side = hit.normal;
    s.alpha = m.alphaMode == AlphaMode::blend ? std::clamp(hit.alpha, 0.0f, 1.0f) : 1.0f;
    s.unlit = m.unlit;
    s.receives = rays.receives(o);
    s.back = !hit.front && !m.doubleSided;
    const glm::vec3 n = normal_matrix(transform) * at.normal;
    s.normal = usable(n) ? glm::normalize(n) : hit.front ? s.side : -s.side;
    if (normalMaps && m.textures[static_cast<int>(TextureSlot::normal)] >= 0)
        s.normal = mapped_normal(asset, m, at, glm::mat3(transform), s.normal);
    if (!hit.front) s.normal = -s.normal;
    s.baseColor = base_color(asset, m, at);
    s.emissive = emission(asset, m, at);
    s.metallic = m.metallic;
    s.roughness = m.roughness;
    s.optics = m.optics;
    const int orm = m.textures[static_cast<int>(TextureSlot::metallicRoughness)],
              own = m.textures[static_cast<int>(TextureSlot::occlusion)];
    if (orm >= 0) {
        const glm::vec4 texel = texture_value(asset, orm, at.uv);
        s.metallic *= texel.b;
        s.roughness *= texel.g;
    }
    if (own >= 0) s.occlusion = 1.0f + m.occlusionStrength * (texture_value(asset, own, at.uv).r - 1.0f);
    return s;
}

} // namespace mirolux
