#pragma once
#include "core/image/image.h"
#include <vector>

namespace mirolux {

/// How different two pictures look, pixel by pixel: colour differences (CIE 1976 delta E) of the pictures as the eye
/// blurs them, so that grain and dither too fine to see count little. Spatial CIELAB (X. Zhang and B. Wandell, A
/// Spatial Extension of CIELAB for Digital Color Image Reproduction, 1997); large spreads by repeated box filters. a,
/// b: sRGB pictures of one size. pixelsPerDegree: of the viewer's eye; 40 is a 24-inch screen of 1920 pixels at about
/// 60 cm. About 1 can just be seen.
std::vector<float> perceptual_difference(const ByteImage& a, const ByteImage& b, double pixelsPerDegree = 40);

} // namespace mirolux
