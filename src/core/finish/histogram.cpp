#include "core/finish/histogram.h"
#include "core/finish/working_space.h"
#include "core/light/luminance.h"
#include "core/light/tone.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

double displayed(double exposed, const Setup& setup) {
    const std::string& curve = setup.choice("tone.curve");
    if (curve == "none") return std::clamp(exposed, 0.0, 1.0);
    const double x = std::max(exposed, 0.0);
    const double bent = curve == "reinhard" ? tone::reinhard(x, setup.number("tone.white"))
                        : curve == "filmic" ? tone::filmic(x)
                                            : std::min(x, 1.0);
    return sums_coded(setup) ? bent : srgb_encode(bent);
}

ByteImage displayed_picture(const FloatImage& radiance, const Setup& setup) {
    const double scale = tone::exposure_scale(setup.number("exposure.ev100"));
    ByteImage out{radiance.width, radiance.height, {}};
    out.rgba.reserve(static_cast<std::size_t>(radiance.width) * static_cast<std::size_t>(radiance.height) * 4);
    // The curve once for each step of a fine scale of exposed values: a picture asks for it a million times.
    constexpr int stepsAStop = 256, low = -16, high = 12;
    std::vector<std::uint8_t> curve;
    for (int i = 0; i <= (high - low) * stepsAStop; ++i)
        curve.push_back(static_cast<std::uint8_t>(
            std::lround(255 * displayed(std::exp2(low + static_cast<double>(i) / stepsAStop), setup))));
    for (int y = 0; y < radiance.height; ++y)
        for (int x = 0; x < radiance.width; ++x) {
            const float* p = radiance.pixel(x, y);
            for (int c = 0; c < 3; ++c) {
                const double stops = std::log2(std::max(p[c] * scale, 1e-12));
                const auto at = static_cast<std::size_t>(
                    std::clamp(std::lround((stops - low) * stepsAStop), 0l, static_cast<long>(curve.size()) - 1));
                out.rgba.push_back(stops < low ? std::uint8_t(0) : curve[at]);
            }
            out.rgba.push_back(255);
        }
    return out;
}

LuminanceHistogram luminance_histogram(const FloatImage& radiance, const Setup& setup) {
    using H = LuminanceHistogram;
    H h;
    if (radiance.channels < 3) return h;
    const double scale = tone::exposure_scale(setup.number("exposure.ev100"));
    // Every curve rises: what is clipped and crushed is told by one exposed value each.
    const auto least = [&](double wanted) {
        double low = 0, high = 1e6;
        for (int i = 0; i < 80; ++i)
            (displayed(0.5 * (low + high), setup) < wanted ? low : high) = 0.5 * (low + high);
        return high;
    };
    const double white = least(254.5 / 255), black = least(0.5 / 255);
    for (int y = 0; y < radiance.height; ++y)
        for (int x = 0; x < radiance.width; ++x) {
            const float* p = radiance.pixel(x, y);
            const glm::dvec3 v = glm::dvec3(p[0], p[1], p[2]) * scale;
            const double most = std::max({v.x, v.y, v.z}), stops = std::log2(std::max(luminance(v), 1e-12));
            ++h.pixels;
            h.clipped += most >= white;
            h.crushed += most < black;
            if (stops < H::low)
                ++h.below;
            else if (stops >= H::high)
                ++h.above;
            else
                ++h.bins[static_cast<std::size_t>((stops - H::low) * H::stepsAStop)];
        }
    return h;
}

} // namespace mirolux
