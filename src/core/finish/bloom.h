#pragma once
#include "core/image/image.h"
#include "core/plan/settings.h"

// Light that spreads in the eye and the lens: the reference, in double, of what the device does.
namespace mirolux {

/// Of an exposed value, the share that lies over the threshold: 0 under threshold - knee, rising as a square to the
/// straight x - threshold at threshold + knee. knee: in exposed units.
double bright_share(double exposed, double threshold, double knee);
/// Texels of the blur's radius, three of its standard deviations: of the threshold's form.
int bloom_radius(const Setup& setup, int height);
/// Levels of the chain.
int bloom_levels(const Setup& setup, int width, int height);
/// Pixels on a side of one texel of the glow's target.
int bloom_scale(const Setup& setup);
/// The picture's radiance (cd/m2, at least 3 channels) with its bloom, as the finish shows it; exposureScale: from
/// radiance to exposed units. What is no number, or over what half floats hold, counts as black.
FloatImage bloomed(const FloatImage& radiance, const Setup& setup, double exposureScale);

/// The target of light that has spread; of the chain its first level.
inline constexpr const char* bloom_resource = "bloom";
inline constexpr const char* bright_resource = "bright parts";

} // namespace mirolux
