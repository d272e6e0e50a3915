#pragma once
#include <glm/glm.hpp>

namespace mirolux {

/// How air scatters by angle: one lobe, or two that are mixed.
struct Phase {
    double first = 0, second = 0; // mean cosine of each lobe: 0 even, toward 1 onward, toward -1 back
    double share = 0;             // of the second lobe

    bool operator==(const Phase&) const = default;
};

/// Light scattered from one way to another, 1/sr; its integral over the sphere is 1. cosine: between the way that light
/// travels and the way that it goes on (L. Henyey and J. Greenstein, Diffuse Radiation in the Galaxy, 1941).
double phase(const Phase& p, double cosine);

/// A way that light takes after it has travelled `way` (unit), as often as phase() says. u: three numbers in [0, 1).
glm::dvec3 scattered_way(const Phase& p, const glm::dvec3& way, const glm::dvec3& u);

} // namespace mirolux
