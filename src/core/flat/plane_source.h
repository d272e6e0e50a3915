#pragma once
#include "core/flat/flat_light.h"

// Lights of a flat stage as bodies in its plane, and what comes from outside: for ways in which light travels.
namespace mirolux::flat {

/// A round or long body whose rim sends one radiance every way; a spot's, within its cone. It hides what is behind it.
/// Its strength is such that the sum of its mean radiance over the light's range is that of the light's own formula;
/// beyond the range it goes on.
struct PlaneSource {
    int light = -1; // into the list that it was made of
    glm::dvec2 place{0.0};
    glm::dvec2 axis{0.0};      // from its middle to one end; 0: a disc
    double radius = 1;         // units
    glm::dvec3 radiance{0.0};  // in parts of what shows a sheet as it is, all around
    bool spot = false;         // sends within its cone alone
    glm::dvec2 aim{0.0, -1.0}; // unit
    double cosInner = 1, cosOuter = -1;

    double rim() const; // its length, units
    /// What leaves it along a unit direction.
    glm::dvec3 toward(const glm::dvec2& way) const;
    /// How far along a ray its rim is met, 0 from within; infinite: it is not.
    double met(const glm::dvec2& from, const glm::dvec2& way) const;
    /// The directions in which it is seen from a point: middle and half of the angle, radians; half pi from within.
    struct Angles {
        double middle = 0, half = 0;
    };
    Angles seen_from(const glm::dvec2& point) const;
};

/// Units across of what has no size of its own (Light::sourceSize); radians, of a directional light.
constexpr double standard_source = 3.0, standard_sun = 0.06;

/// Units that light enters a wall by: over them what is seen of it fades from its border's light to ambient light.
constexpr double lit_depth = 10.0;

/// None for directional lights, and for those that give nothing. A picture or a text is taken as a disc with all of
/// its light.
std::optional<PlaneSource> plane_source(const Light& light, const SceneAsset& asset, int number);

/// What comes from where nothing is: ambient light from all sides, directional lights from within their angles.
struct PlaneSky {
    struct Sun {
        int light = -1;            // into the list that it was made of
        double from = 0, half = 0; // radians: where it is seen, half its angle
        glm::dvec3 radiance{0.0};
    };
    glm::dvec3 ambient{0.0};
    std::vector<Sun> suns;

    /// Mean radiance within the angles from `low` to `high`, radians.
    glm::dvec3 within(double low, double high) const;
};
PlaneSky plane_sky(const std::vector<Light>& lights, const glm::dvec3& ambient);

} // namespace mirolux::flat
