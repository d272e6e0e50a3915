#pragma once
#include "core/bake/light_map.h"
#include "core/truth/path_tracer.h"

// What is followed for the layers of a light map.
namespace mirolux {

/// Points of a texel that lamps are asked from.
inline constexpr int points_of_texel = 17; // its middle, and pairs

/// The light of one layer.
struct LayerLight {
    int light = -1;      // of a switched lamp, by white light, as if it were on; -1: what never changes
    float intensity = 1; // of that lamp
    std::unique_ptr<truth::PathTracer> direct, indirect;
    std::unique_ptr<truth::PathTracer>
        bouncing; // straight light of lamps whose bounced light is in the layer, by shares

    /// Lamps' straight light on the mean over a texel's points, each lamp asked: where the first few points have the
    /// same, the others are not asked. toward: adds, as PathTracer::falling.
    glm::dvec3 straight(const std::vector<SurfacePoint>& points, std::uint32_t place, std::uint64_t& taken,
                        glm::dmat3& toward) const {
        return mean_straight(*direct, points, place, taken, toward);
    }
    /// The same of what lamps have to bounce: with mixed ones.
    glm::dvec3 bouncing_light(const std::vector<SurfacePoint>& points, std::uint32_t place, std::uint64_t& taken,
                              glm::dmat3& toward) const {
        return mean_straight(*bouncing, points, place, taken, toward);
    }

private:
    static glm::dvec3 mean_straight(const truth::PathTracer& tracer, const std::vector<SurfacePoint>& points,
                                    std::uint32_t place, std::uint64_t& taken, glm::dmat3& toward);
};
/// What never changes, then the switched lamps of the scene. bounces: of the indirect part.
std::vector<LayerLight> layers_of_light(const Scene& scene, const Setup& setup, int bounces,
                                        const std::shared_ptr<const RayScene>& rays);

} // namespace mirolux
