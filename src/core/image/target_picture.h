#pragma once
#include "core/image/image.h"
#include <optional>
#include <string>

namespace mirolux {

/// Which of a texel's numbers are looked at.
enum class Channel { all, red, green, blue, alpha };

/// Values that show as black and as white.
struct ValueRange {
    float low = 0, high = 1;
    bool operator==(const ValueRange&) const = default;
};

/// The range that all but the half percent at each end of the finite values take; never empty. Costs a sort of at most
/// 65,536 of them.
ValueRange range_of(const FloatImage& image, Channel channel);

/// A target as a picture: its values from `range` to 0..255; one channel, or a target of one, in grey, two as red and
/// green. encode: for linear light, sRGB's transfer. What is not a number shows magenta, so that it is seen.
ByteImage picture_of(const FloatImage& image, Channel channel, ValueRange range, bool encode);

/// A texel's numbers in words, "0.2500 0.5000"; whole: integers.
std::string texel_text(const FloatImage& image, int x, int y, bool whole);

} // namespace mirolux
