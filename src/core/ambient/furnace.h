#pragma once
#include "core/light/brdf.h"
#include "core/plan/settings.h"
#include <array>
#include <vector>

// The furnace: a surface that swallows nothing, lit by one from all around. What it sends back is the energy that its
// model keeps.
namespace mirolux {

/// A white ball of one width of lobe in the furnace.
struct FurnaceBall {
    static constexpr int steps = 32;
    double width = 0;                     // roughness, or the exponent of a Phong lobe
    std::array<double, steps + 1> sent{}; // radiance toward a viewer at cosines 0 to 1; 1: nothing lost or gained
    double at(double cosView) const;      // between them
    double mean() const;                  // over the ball's disc as it is seen
};

/// Over what the model's lobe can be as wide as: roughness of GGX, exponents of Phong and Blinn-Phong, one ball of
/// Lambert. metallic: 0 or 1. compensated: with what light between GGX's facets gives back. Exact lobes of the lights
/// formulas; of GGX by the split sum, of the others by the midpoint rule.
std::vector<FurnaceBall> furnace_row(brdf::Model model, bool normalised, double metallic, bool compensated);
/// The row of a setup's model; mirrored surroundings compensate where they are asked to.
std::vector<FurnaceBall> furnace_row(const Setup& setup, double metallic);
bool furnace_compensated(const Setup& setup);

} // namespace mirolux
