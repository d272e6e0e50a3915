#pragma once
#include "core/flat/plane_rays.h"
#include "core/truth/truth_picture.h"

namespace mirolux::flat {

/// Truth of a flat stage: a path tracer in its plane. Lights are bodies (PlaneSource), walls throw light back evenly
/// (Lambert's law in the plane), what leaves the stage meets ambient and directional light. Next-event estimation for
/// lights, chosen by what they would give if nothing stood between; walls that shine are met by chance. A pixel within
/// a wall has the light of the wall's nearest border, which fades to ambient light within lit_depth; where shadows do
/// not fall on its sprite it does not fade.
class PlaneTracer {
public:
    /// bounces: off walls; -1: as many as it takes.
    PlaneTracer(const Scene& scene, const Setup& setup, const View& view, int bounces, std::uint32_t seed);
    /// Mean radiance over all directions at a pixel's middle: what a sheet is multiplied by. 1 shows it as it is.
    glm::dvec3 sample(int x, int y, std::uint32_t number, std::uint64_t& rays) const;
    /// The same at any point.
    glm::dvec3 sample_at(const glm::dvec2& point, std::uint32_t pixel, std::uint32_t number, std::uint64_t& rays) const;
    truth::SampleOf samples() const;

    /// What comes straight to a point, on evenly spread rays: of each of the view's lights, by its place among those
    /// that shine, and of ambient light.
    struct Straight {
        std::vector<glm::dvec3> lights;
        std::vector<std::string> walls; // that stand before most of each light; empty: none does
        glm::dvec3 ambient{0.0};
    };
    Straight straight(const glm::dvec2& point, int raysEach) const;
    /// Where the light of a pixel is asked for, and how much of it shows, before ambient light.
    struct Place {
        glm::dvec2 point{0.0};
        double share = 1;
    };
    const Place& place(int x, int y) const {
        return places_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)];
    }

private:
    PlaneTracer(const Scene& scene, const Setup& setup, const View& view, int bounces, std::uint32_t seed,
                const std::vector<Light>& lights);
    glm::dvec3 from_sources(const glm::dvec2& at, const glm::dvec2* normal, const glm::dvec2& u,
                            std::uint64_t& rays) const;

    WorldPtr world_;
    PlaneRays rays_;
    PlaneSky sky_;
    std::size_t lights_; // that shine
    int width_, bounces_;
    std::uint32_t seed_;
    std::vector<Place> places_; // by pixel
};

/// What changes the light of plane truth.
std::string plane_digest(const Scene& scene, const Setup& setup, const View& view, int bounces, std::uint32_t seed);

/// The scene under light: sheet * clamp(light, 0, 1) where its layer is lit, and what glows. Four channels in, the
/// fourth kept.
FloatImage lit_picture(const Scene& scene, const Setup& setup, const View& view, const FloatImage& light);

} // namespace mirolux::flat
