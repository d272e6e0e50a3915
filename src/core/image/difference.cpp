#include "core/image/difference.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

PictureDifference picture_difference(const FloatImage& a, const FloatImage& b, double floor, double threshold) {
    PictureDifference d;
    const int colors = std::min(a.channels, 3);
    const std::size_t pixels = std::size_t(a.width) * a.height;
    double sum = 0, sumA = 0, squares = 0, peak = 0;
    std::size_t over = 0;
    for (std::size_t i = 0; i < pixels; ++i) {
        double worst = 0;
        for (int c = 0; c < colors; ++c) {
            const double x = a.data[i * a.channels + c], y = b.data[i * b.channels + c], e = std::abs(x - y);
            sum += e;
            sumA += std::abs(x);
            squares += e * e;
            peak = std::max(peak, std::abs(x));
            d.largest = std::max(d.largest, e);
            worst = std::max(worst, e / std::max({std::abs(x), std::abs(y), floor}));
        }
        if (worst > d.worstRelative) {
            d.worstRelative = worst;
            d.worstX = static_cast<int>(i % a.width);
            d.worstY = static_cast<int>(i / a.width);
        }
        over += worst > threshold;
    }
    const double n = std::max<double>(1.0, static_cast<double>(pixels) * colors);
    d.mean = sum / n;
    d.meanRelative = sumA > 0 ? sum / sumA : 0;
    d.psnr = squares > 0 && peak > 0 ? std::min(999.0, 10.0 * std::log10(peak * peak / (squares / n))) : 999.0;
    d.shareOver = static_cast<double>(over) / std::max<double>(1.0, static_cast<double>(pixels));
    return d;
}

} // namespace mirolux
