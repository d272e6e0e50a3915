#pragma once
#include "core/image/difference.h"
#include <QImage>

namespace mirolux::app {

/// How A and B share the picture.
enum class PairView { wipe, blink, absolute, relative, perceptual };

/// How far B's picture is from A's, as figures and as maps of the picture's size.
struct PairDifference {
    PictureDifference figures; // of scene-linear radiance
    double meanDeltaE = 0, worstDeltaE = 0;
    QImage absolute, relative, perceptual;
};

/// Costs some hundred milliseconds for a picture of 1280x720: to be run beside the window.
PairDifference pair_difference(const FloatImage& a, const FloatImage& b, const ByteImage& shownA,
                               const ByteImage& shownB, double exposure);

} // namespace mirolux::app
