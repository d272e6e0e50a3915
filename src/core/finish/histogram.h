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
};

/// Of scene-linear radiance before exposure (cd/m2, at least 3 channels), exposed and bent as the setup says.
LuminanceHistogram luminance_histogram(const FloatImage& radiance, const Setup& setup);

/// The setup's tone curve on an exposed value, then encoded as the display wants it: 0 to 1.
double displayed(double exposed, const Setup& setup);
/// A picture of radiance (cd/m2, at least 3 channels) as the frame's finish shows it, without dither.
ByteImage displayed_picture(const FloatImage& radiance, const Setup& setup);

} // namespace mirolux
