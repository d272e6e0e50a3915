#pragma once
#include "core/bake/light_map_layout.h"
#include "core/rays/surface_point.h"

// Where the texels of a light map lie in the scene.
namespace mirolux {

/// A texel of the whole map, and the point of the scene that it stands for.
struct MapPoint {
    std::size_t texel = 0; // y * width + x
    SurfacePoint point;
    /// How the surface goes on by a texel to the right and down, metres in the world; zero where a triangle has no
    /// width in the map.
    glm::vec3 across{0.0f}, down{0.0f};
    float area = 0; // of the surface that lies on it, square metres
};
/// All texels that surfaces lie on, in the order of places.
std::vector<MapPoint> map_points(const Scene& scene, const LightMapLayout& layout);

/// Most ways out of a point meet something from behind: the point lies within it, and no light there is seen. Adds the
/// rays that it took.
bool covered_up(const RayScene& rays, const SurfacePoint& point, std::uint64_t& taken);

/// So many points spread evenly over a texel's surface, its own first.
std::vector<SurfacePoint> spread_points(const MapPoint& target, int points);
/// So many points spread over a texel's surface, its own first; those that something stands between are left out.
std::vector<SurfacePoint> spread_over(const MapPoint& target, const RayScene& rays, int points, std::uint64_t& taken);

} // namespace mirolux
