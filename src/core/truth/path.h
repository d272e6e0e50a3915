#pragma once
#include "core/light/luminance.h"
#include "core/truth/path_tracer.h"
#include <cmath>

// A path under way: what the parts of PathTracer (path_tracer.cpp, path_lights.cpp, path_air.cpp) share.
namespace mirolux::truth {

inline constexpr double isotropic = 1 / (4 * pi); // phase function of the air, 1/sr
inline constexpr int seenChoices = 4;             // lamps that are asked at the surface that is seen
inline constexpr std::size_t mostWeighed = 2048;  // lamps that are weighed one by one there
inline constexpr int mostBounces = 4096;          // where nothing is lost at all
/// A density from which on lobes are so sharp that a lamp's source is looked for by chance too; 1/sr.
inline constexpr double sharp = 2;

inline double power_heuristic(double a, double b) {
    return a * a / std::max(a * a + b * b, 1e-300);
}

inline bool finite(const glm::dvec3& v) {
    return std::isfinite(v.x) && std::isfinite(v.y) && std::isfinite(v.z);
}

inline bool is_direct(Layer l) {
    return l == Layer::direct || l == Layer::diffuse || l == Layer::specular;
}
inline bool is_indirect(Layer l) {
    return l == Layer::indirect || l == Layer::indirectDiffuse || l == Layer::indirectSpecular;
}

/// A path from the eye, and what it has brought so far.
struct PathTracer::Path {
    Ray ray;
    Sampler sampler;
    std::uint64_t& rays;
    std::vector<AskedRay>* asked = nullptr; // where they are written down, if anybody wants them
    float from = 0;                         // metres along the ray
    glm::dvec3 weight{1.0}, sum{0.0};
    int bounces = 0;                      // 0: the surface that is seen is yet to come, or is this one
    glm::vec3 vertex{0.0f}, normal{0.0f}; // where the ray comes from, for light met by chance
    double density = 0; // of the ray's direction, 1/sr; 0: the eye, or air: nothing else finds what it meets
    struct Weighed {
        std::size_t lamp;
        double upTo; // of the sum, with all before
    };
    std::vector<Weighed>& weighed; // at the surface that is seen
    double weighedSum = 0;
    glm::dvec3 way{0.0};          // to where what is added comes from, as the first surface sees it
    glm::dmat3* toward = nullptr; // sum of `way`s by channel, where anybody wants it: a column each

    void add(const glm::dvec3& light, double most) {
        glm::dvec3 what = weight * light;
        if (!finite(what)) return;
        const double l = luminance(what);
        if (most > 0 && bounces > 0 && l > most) what *= most / l;
        sum += what;
        if (toward)
            for (int c = 0; c < 3; ++c)
                (*toward)[c] += what[c] * way;
    }
};

} // namespace mirolux::truth
