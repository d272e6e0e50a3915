#pragma once
#include "core/image/image.h"
#include "core/plan/settings.h"
#include <cstdint>
#include <vector>

namespace mirolux {

/// Grey code of a pixel of 8 bits a channel: its luma (ITU-R BT.709), rounded.
int grey_code(const ByteImage& picture, int x, int y);
/// Pixels where a dark gradient falls into bands: one value a pixel, 1 where the grey code steps by at most `most` to
/// the next pixel right or below, and `width` pixels before the step and as many after it (this one and the next
/// counted) have one code each. What steps further is an edge of things.
std::vector<std::uint8_t> band_edges(const ByteImage& picture, int width, int most = 3);
/// Three steps of a setup's codes, in those of 8 bits.
int most_of_band(const Setup& setup);

} // namespace mirolux
