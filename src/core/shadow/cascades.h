#pragma once
#include "core/plan/view.h"
#include <vector>

// The sun's shadow maps: one for each slice of the view's depth, the nearer the finer.
namespace mirolux {

enum class CascadeFit {
    slice, // the slice's own box: the finest texels, which crawl when the camera turns
    sphere // the sphere around it: as large in every direction, so that texels stay where they are
};

struct CascadeChoices {
    int count = 4;              // 1 to 4
    double spread = 0.8;        // where slices end: 0 evenly, 1 by ratio
    std::vector<double> ends{}; // metres, ascending: by hand; else by `spread`
    double distance = 120;      // metres of view depth to which there are shadows
    double fade = 0.1;          // share of it over which they fade out at its end
    double blend = 0.1;         // share of a slice over which it goes over into the next
    int resolution = 1024;      // texels along a side
    CascadeFit fit = CascadeFit::sphere;
    double casterReach = 60; // metres before a slice, toward the sun, from where casters count
};

/// One map of the sun. All in metres but the matrix.
struct Cascade {
    double from = 0, to = 0; // view depth where it is looked up
    double blendFrom = 0;    // view depth from where the next one joins in; `to`: none does
    double coversFrom = 0;   // view depth that its map holds, down to `to`
    double texel = 0;        // width of a texel
    double range = 0;        // along the light, from depth 1 to depth 0
    glm::dmat4 toMap{1.0};   // world to the map: x and y -1 to 1, z 1 (toward the sun) to 0; beyond 1: flattened on 1
    glm::dvec3 corner{0.0};  // light space: the map's least x and y, multiples of a texel; z of depth 1
};

/// View depths where slices end, from `near` on: between even steps and equal ratios (F. Zhang et al., Parallel-Split
/// Shadow Maps for Large-Scale Virtual Environments, 2006), or those by hand that lie within the distance.
std::vector<double> slice_ends(double near, const CascadeChoices& choices);

/// The axes that maps of a direction lie along, whatever the camera: columns x, y, and z toward the sun.
glm::dmat3 light_axes(const glm::dvec3& direction);

/// The maps of a directional light in a view (one eye). direction: unit, as the light travels. Their corners lie on
/// multiples of a texel, so that with CascadeFit::sphere a moving camera leaves texels where they are.
std::vector<Cascade> cascades(const View& view, const glm::dvec3& direction, const CascadeChoices& choices);

/// What is looked up at a view depth: cascade `first` by 1 - share, the one after it by share; -1: beyond all.
/// strength: of the shadow, 1 down to 0 at the distance's end.
struct CascadeLookup {
    int first = -1;
    double share = 0, strength = 0;
};
CascadeLookup cascade_at(const std::vector<Cascade>& cascades, double depth, const CascadeChoices& choices);

} // namespace mirolux
