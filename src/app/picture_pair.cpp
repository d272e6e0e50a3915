#include "app/picture_pair.h"
#include "app/tile_map.h"
#include "core/image/perceptual.h"
#include <cmath>

namespace mirolux::app {

PairDifference pair_difference(const FloatImage& a, const FloatImage& b, const ByteImage& shownA,
                               const ByteImage& shownB, double exposure) {
    PairDifference d;
    d.figures = picture_difference(a, b, 1e-3, 0.01);
    d.absolute = d.relative = QImage(a.width, a.height, QImage::Format_RGB32);
    const auto put = [](QImage& image, int x, int y, double t) { image.setPixel(x, y, TileMap::ramp(t).rgb()); };
    for (int y = 0; y < a.height; ++y)
        for (int x = 0; x < a.width; ++x) {
            const std::size_t at = (std::size_t(y) * a.width + x) * 4;
            double most = 0, share = 0;
            for (std::size_t c = 0; c < 3; ++c) {
                const double p = a.data[at + c], q = b.data[at + c];
                most = std::max(most, std::abs(p - q));
                share = std::max(share, std::abs(p - q) / std::max({p, q, 1e-3}));
            }
            put(d.absolute, x, y, std::sqrt(most * exposure * 4)); // full at a quarter of white
            put(d.relative, x, y, std::sqrt(share * 2));           // full at a half
        }
    if (shownA.width == shownB.width && shownA.height == shownB.height && !shownA.empty()) {
        const std::vector<float> e = perceptual_difference(shownA, shownB);
        d.perceptual = QImage(shownA.width, shownA.height, QImage::Format_RGB32);
        for (int y = 0; y < shownA.height; ++y)
            for (int x = 0; x < shownA.width; ++x) {
                const double v = e[std::size_t(y) * shownA.width + x];
                d.meanDeltaE += v;
                d.worstDeltaE = std::max(d.worstDeltaE, v);
                put(d.perceptual, x, y, std::sqrt(v / 20)); // full at 20
            }
        d.meanDeltaE /= static_cast<double>(e.size());
    }
    return d;
}

} // namespace mirolux::app
