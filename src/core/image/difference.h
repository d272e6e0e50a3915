#pragma once
#include "core/image/image.h"

namespace mirolux {

/// How far picture B is from picture A.
struct PictureDifference {
    double largest = 0;         // largest absolute difference of a channel
    double mean = 0;            // of all channels, absolute
    double meanRelative = 0;    // mean absolute difference over the mean of A; 0 where A is black
    double worstRelative = 0;   // largest |a-b| / max(a, b, floor)
    double psnr = 0;            // dB against the largest value of A (at most 999 for equal pictures)
    double shareOver = 0;       // of pixels with a channel that differs by more than the threshold, relative
    int worstX = 0, worstY = 0; // where the largest relative difference lies, rows from the top
};

/// a and b: scene-linear pictures of one size and channel count (a fourth channel is left out). floor: values below
/// count as black. threshold: relative, for shareOver.
PictureDifference picture_difference(const FloatImage& a, const FloatImage& b, double floor, double threshold);

} // namespace mirolux
