#pragma once
#include "core/light/light.h"
#include "core/rays/ray_scene.h"
#include "core/shadow/shadow_set.h"

// What if a point light were a few spots: six shadow maps become as many as there are spots, for what they leave dark.
namespace mirolux {

/// A direction in which a light meets a surface.
struct UsedDirection {
    glm::dvec3 direction{0.0, -1.0, 0.0}; // unit, from the light
    double weight = 1;                    // share of the light's flux there that its range leaves
};

struct SpotCone {
    glm::dvec3 axis{0.0, -1.0, 0.0}; // unit
    double angle = 1;                // radians from the axis
};

struct SpotCover {
    std::vector<SpotCone> cones;
    double covered = 0; // share of the used light that falls into a cone
    double doubled = 0; // share that falls into more than one, and is seen twice
};

/// Directions out of `count`, spread evenly over the sphere (a Fibonacci lattice; R. Swinbank and R. Purser, Fibonacci
/// Grids, 2006), in which the light meets something within its reach.
std::vector<UsedDirection> used_directions(const RayScene& rays, const Light& light, double reach, RangeWindow window,
                                           int count = 2048);

/// The cones that leave least: what none covers and what several cover counts against them alike. By descent from
/// several starts; the same directions give the same cones. Costs about 0.2 s for 2,000 directions.
SpotCover cover_by_spots(const std::vector<UsedDirection>& used, int count);

/// Spots of the cover that shine as the point does: same place, colour, intensity in candela, range and shadow.
/// Names: the point's, with a number. Ids: not given.
std::vector<Light> spots_in_place(const Light& point, const SpotCover& cover);

/// Switches the point off and adds the spots, which move as it does. Returns the first of their ids, which are free
/// ones.
int put_in_place(std::vector<Light>& lights, std::vector<Motion>& motions, int point, std::vector<Light> spots);

} // namespace mirolux
