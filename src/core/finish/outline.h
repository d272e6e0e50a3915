#pragma once
#include "core/image/image.h"
#include "core/plan/settings.h"
#include "core/scene/scene.h"

// A line about chosen objects: their mask, grown, through an edge operator, over the picture.
namespace mirolux {

/// The objects that outline.objects names, separated by commas, by name or id; ascending.
std::vector<int> outlined_objects(const Scene& scene, const Setup& setup);
/// The setup that outlines these objects and no others.
Setup outlining(const Scene& scene, Setup setup, const std::vector<int>& objects);

/// A mask grown by a disc: 1 - (d / radius)^2 of the nearest masked pixel at distance d, 0 from the radius on. Both
/// axes one after the other give the same, since squares add (P. Felzenszwalb and D. Huttenlocher, Distance Transforms
/// of Sampled Functions, 2012). First channel, rows from either side.
FloatImage grown_mask(const FloatImage& mask, int radius);
/// The line along the rim of what is grown: the length of Sobel's gradient (I. Sobel and G. Feldman, 1968) of the grown
/// mask cut to within a pixel of its rim, 0..1.
FloatImage rim_of(const FloatImage& grown, int radius);

inline constexpr const char* outline_mask_resource = "outline mask";
inline constexpr const char* outline_grown_resource = "grown mask";
inline constexpr const char* outline_resource = "outline";
/// What a plan wants that has the outline of what is seen: Technique::wants.
inline constexpr const char* single_depth = "one depth a pixel";

} // namespace mirolux
