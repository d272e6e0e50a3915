#include "core/finish/histogram.h"
#include "core/finish/dither.h"
#include "core/finish/exposure.h"
#include "core/finish/tone_curve.h"
#include "core/finish/working_space.h"
#include "core/light/luminance.h"
#include "core/light/tone.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

/// With sRGB's code, unless values go to the display as they are.
static double sent(double shown, const Setup& setup) {
    return tone_curve(setup) == ToneCurve::none || sums_coded(setup) ? shown : srgb_encode(shown);
}

double displayed(double exposed, const Setup& setup) {
    return sent(toned(glm::dvec3(std::max(exposed, 0.0)) / white_balance(setup), setup).x, setup);
}

glm::dvec3 displayed_color(const glm::dvec3& exposed, const Setup& setup) {
    const glm::dvec3 shown = toned(exposed, setup);
    return {sent(shown.x, setup), sent(shown.y, setup), sent(shown.z, setup)};
}

/// True where a channel's code depends on the others.
static bool bends_together(const Setup& setup) {
    return tone_curve(setup) == ToneCurve::neutral || setup.choice("tone.by") != "channel";
}

/// The setup as this picture's own meter exposes it.
static Setup exposed_for(const FloatImage& radiance, const Setup& setup) {
    const bool flat = setup.stage == Stage::flat;
    return meters(setup, flat) ? exposed_by(setup, ev100_for(metered_luminance(radiance, setup, flat), setup)) : setup;
}

ByteImage displayed_picture(const FloatImage& radiance, const Setup& given) {
    const Setup setup = exposed_for(radiance, given);
    const double scale = tone::exposure_scale(hand_ev100(setup));
    ByteImage out{radiance.width, radiance.height, {}};
    out.rgba.reserve(static_cast<std::size_t>(radiance.width) * static_cast<std::size_t>(radiance.height) * 4);
    // The curve once for each step of a fine scale of exposed values: a picture asks for it a million times.
    constexpr int stepsAStop = 256, low = -16, high = 12;
    const int codes = code_steps(setup);
    std::vector<std::uint8_t> curve;
    for (int i = 0; i <= (high - low) * stepsAStop; ++i)
        curve.push_back(static_cast<std::uint8_t>(std::lround(
            255 * coded_value(displayed(std::exp2(low + static_cast<double>(i) / stepsAStop), setup), 0, codes))));
    const bool together = bends_together(setup);
    const glm::dvec3 balance = white_balance(setup);
    for (int y = 0; y < radiance.height; ++y)
        for (int x = 0; x < radiance.width; ++x) {
            const float* p = radiance.pixel(x, y);
            if (together) {
                const glm::dvec3 shown = displayed_color(glm::dvec3(p[0], p[1], p[2]) * scale, setup);
                for (int c = 0; c < 3; ++c)
                    out.rgba.push_back(static_cast<std::uint8_t>(std::lround(255 * coded_value(shown[c], 0, codes))));
            } else
                for (int c = 0; c < 3; ++c) {
                    const double stops = std::log2(std::max(p[c] * scale * balance[c], 1e-12));
                    const auto at = static_cast<std::size_t>(
                        std::clamp(std::lround((stops - low) * stepsAStop), 0l, static_cast<long>(curve.size()) - 1));
                    out.rgba.push_back(stops < low ? std::uint8_t(0) : curve[at]);
                }
            out.rgba.push_back(255);
        }
    return out;
}

double LuminanceHistogram::percentile(double share) const {
    double left = share * pixels - below;
    if (left <= 0) return low;
    for (std::size_t i = 0; i < bins.size(); ++i) {
        if (left <= bins[i] && bins[i] > 0) return low + (double(i) + left / bins[i]) / stepsAStop;
        left -= bins[i];
    }
    return high;
}

LuminanceHistogram luminance_histogram(const FloatImage& radiance, const Setup& given) {
    using H = LuminanceHistogram;
    H h;
    if (radiance.channels < 3) return h;
    const Setup setup = exposed_for(radiance, given);
    const double scale = tone::exposure_scale(hand_ev100(setup));
    // Every curve rises: what is clipped and crushed is told by one exposed value each, where channels stand alone.
    const bool together = bends_together(setup);
    const double mostCode = 254.5 / 255, leastCode = 0.5 / 255;
    const auto least = [&](double wanted) {
        double low = 0, high = 1e6;
        for (int i = 0; i < 80; ++i)
            (displayed(0.5 * (low + high), setup) < wanted ? low : high) = 0.5 * (low + high);
        return high;
    };
    const double white = least(mostCode), black = least(leastCode);
    const glm::dvec3 balance = white_balance(setup);
    h.white = std::log2(white);
    h.black = std::log2(black);
    for (int y = 0; y < radiance.height; ++y)
        for (int x = 0; x < radiance.width; ++x) {
            const float* p = radiance.pixel(x, y);
            const glm::dvec3 v = glm::dvec3(p[0], p[1], p[2]) * scale;
            const glm::dvec3 balanced = v * balance;
            const double most = std::max({balanced.x, balanced.y, balanced.z}),
                         stops = std::log2(std::max(luminance(v), 1e-12));
            ++h.pixels;
            if (together) {
                const glm::dvec3 shown = displayed_color(v, setup);
                const double largest = std::max({shown.x, shown.y, shown.z});
                h.clipped += largest >= mostCode;
                h.crushed += largest < leastCode;
            } else {
                h.clipped += most >= white;
                h.crushed += most < black;
            }
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
