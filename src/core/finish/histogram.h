#pragma once
#include "core/image/image.h"
#include "core/plan/settings.h"
#include <array>

namespace mirolux {

/// A picture's luminance in stops around the exposed value 1, and what the display cannot show of it.
struct LuminanceHistogram {
    static constexpr int stepsAStop = 8;
    static constexpr double low = -14, high = 6; // stops
    std::array<std::uint32_t, static_cast<std::size_t>((high - low) * stepsAStop)> bins{};
    std::uint32_t pixels = 0, below = 0, above = 0; // below: black too
    std::uint32_t clipped = 0;                      // a channel of the display at its most
    std::uint32_t crushed = 0;                      // all channels under half a step of 8 bits
    double white = high, black = low;               // stops from which on a channel is clipped, and under it crushed
    /// Stops under which this share of the pixels lies; between bins as if they were even.
    double percentile(double share) const;
};

/// Of scene-linear radiance before exposure (cd/m2, at least 3 channels), exposed and bent as the setup says; a metered
/// one by this picture alone.
LuminanceHistogram luminance_histogram(const FloatImage& radiance, const Setup& setup);

/// The setup's tone curve on a grey of this exposed value as it is balanced, then encoded as the display wants it: 0
/// to 1.
double displayed(double exposed, const Setup& setup);
/// A colour, scene-linear and exposed, the same way.
glm::dvec3 displayed_color(const glm::dvec3& exposed, const Setup& setup);
/// A picture of radiance (cd/m2, at least 3 channels) as the frame's finish shows it, without dither; a metered
/// setup is exposed by this picture alone.
ByteImage displayed_picture(const FloatImage& radiance, const Setup& setup);

} // namespace mirolux
