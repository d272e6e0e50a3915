#pragma once
#include "core/rays/ray_scene.h"

namespace mirolux {

/// A point of a surface that a ray has met, with the material as the surface shader reads it at the finest mip.
struct SurfacePoint {
    glm::vec3 position{0.0f};           // world, metres
    glm::vec3 side{0.0f, 1.0f, 0.0f};   // of the triangle, unit, toward where the ray came from
    glm::vec3 normal{0.0f, 1.0f, 0.0f}; // as it is shaded, unit; never NaN
    glm::vec3 baseColor{1.0f};          // linear
    glm::vec3 emissive{0.0f};           // cd/m2; of unlit surfaces their base colour
    float metallic = 0.0f, roughness = 1.0f, occlusion = 1.0f;
    float alpha = 1.0f; // 1 but for blended surfaces
    brdf::Optics optics{};
    bool unlit = false;
    bool receives = true; // shadows
    bool back = false;    // the back of a single-sided surface: nothing is seen there
};

/// What lies at a hit of `rays` for the same ray. Costs the reads of the material's textures.
SurfacePoint surface_point(const RayScene& rays, const Ray& ray, const RayHit& hit, bool normalMaps);

/// What a triangle gives off itself at a point of it, cd/m2: emission, or the base colour of an unlit material.
glm::vec3 surface_emission(const SceneAsset& asset, const Primitive& primitive, std::uint32_t triangle, float u,
                           float v);

} // namespace mirolux
