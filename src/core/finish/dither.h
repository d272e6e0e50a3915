#pragma once
#include "core/plan/settings.h"
#include <glm/glm.hpp>
#include <vector>

// How values of light become whole codes: how many there are, and what is added before they are rounded.
namespace mirolux {

/// Edge of the blue-noise tile, pixels.
inline constexpr int blue_noise_size = 64;
/// Ranks of a tile whose neighbours differ as much as they can, made even in -0.5..0.5, row by row: void and cluster
/// (R. Ulichney, The void-and-cluster method for dither array generation, 1993). Made at the first call, ~0.1 s.
const std::vector<float>& blue_noise();
/// The ordered pattern of Bayer (1973) with an edge of 2^bits pixels, in -0.5..0.5; x right, y down.
double ordered_pattern(int x, int y, int bits);
/// An even number in -0.5..0.5 as one of a triangle's distribution in -1..1.
double triangular(double even);

/// Codes of a channel less one: 255, 63 or 31.
int code_steps(const Setup& setup);
/// What is added at a pixel of the picture, in steps of a code, before rounding.
double dither_at(const Setup& setup, int x, int y);
/// An encoded value 0..1 as the picture holds it: dithered and rounded to the setup's codes, 0..1.
double coded_value(double encoded, double dither, int steps);

} // namespace mirolux
