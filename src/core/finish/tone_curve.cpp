#include "core/finish/tone_curve.h"
#include "core/image/image_io.h"
#include "core/light/light.h"
#include "core/light/luminance.h"
#include "core/light/tone.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

ToneCurve tone_curve(const Setup& s) {
    static const std::vector<std::string> words = {"none", "clamp", "reinhard", "filmic", "neutral", "own"};
    return static_cast<ToneCurve>(std::find(words.begin(), words.end(), s.choice("tone.curve")) - words.begin());
}

const std::array<const char*, 5>& own_curve_keys() {
    static const std::array<const char*, 5> keys = {"tone.own1", "tone.own2", "tone.own3", "tone.own4", "tone.own5"};
    return keys;
}

OwnCurve own_curve(const Setup& s) {
    OwnCurve c;
    double least = 0;
    for (std::size_t i = 0; i < c.shown.size(); ++i)
        c.shown[i] = least = std::max(least, s.number(own_curve_keys()[i]));
    const std::size_t last = c.shown.size() - 1;
    const auto secant = [&](std::size_t i) { return (c.shown[i + 1] - c.shown[i]) / (c.stops[i + 1] - c.stops[i]); };
    c.slopes.front() = secant(0);
    c.slopes.back() = secant(last - 1);
    for (std::size_t i = 1; i < last; ++i) { // a weighted harmonic mean: never over three times the flatter side
        const double before = secant(i - 1), after = secant(i), h0 = c.stops[i] - c.stops[i - 1],
                     h1 = c.stops[i + 1] - c.stops[i], w0 = 2 * h1 + h0, w1 = h1 + 2 * h0;
        c.slopes[i] = before <= 0 || after <= 0 ? 0 : (w0 + w1) / (w0 / before + w1 / after);
    }
    return c;
}

double OwnCurve::at(double exposed) const {
    if (exposed <= 0) return 0;
    const double t = std::log2(exposed);
    if (t <= stops.front()) return shown.front() * std::exp2(t - stops.front());
    if (t >= stops.back()) return shown.back();
    std::size_t i = 0;
    while (t > stops[i + 1])
        ++i;
    const double h = stops[i + 1] - stops[i], u = (t - stops[i]) / h, v = 1 - u;
    return shown[i] * (1 + 2 * u) * v * v + slopes[i] * h * u * v * v + shown[i + 1] * u * u * (3 - 2 * u) -
           slopes[i + 1] * h * u * u * v;
}

glm::dvec3 neutral(const glm::dvec3& exposed) {
    constexpr double f90 = 0.04, start = 0.8 - f90, desaturation = 0.15;
    const double least = std::min({exposed.x, exposed.y, exposed.z});
    const glm::dvec3 c = exposed - (least < 2 * f90 ? least - least * least / (4 * f90) : f90);
    const double peak = std::max({c.x, c.y, c.z});
    if (peak < start) return c;
    const double d = 1 - start, pressed = 1 - d * d / (peak + d - start),
                 grey = 1 - 1 / (desaturation * (peak - pressed) + 1);
    return glm::mix(c * (pressed / peak), glm::dvec3(pressed), grey);
}

glm::dvec3 white_balance(const Setup& s) {
    const double kelvin = s.number("tone.whiteBalance");
    if (kelvin == 6500) return glm::dvec3(1.0);
    const glm::dvec3 wanted(color_of_kelvin(6500)), given(color_of_kelvin(static_cast<float>(kelvin)));
    const glm::dvec3 gain = wanted / glm::max(given, glm::dvec3(1e-3));
    return gain / luminance(gain);
}

glm::dvec3 toned(const glm::dvec3& exposed, const Setup& s) {
    const glm::dvec3 x = glm::max(exposed, glm::dvec3(0.0)) * white_balance(s), one(1.0), nothing(0.0);
    const ToneCurve curve = tone_curve(s);
    if (curve == ToneCurve::none || curve == ToneCurve::clamp) return glm::min(x, one);
    if (curve == ToneCurve::neutral) return glm::clamp(neutral(x), nothing, one);
    const OwnCurve own = curve == ToneCurve::own ? own_curve(s) : OwnCurve();
    const double white = s.number("tone.white");
    const auto bent = [&](double v) {
        return curve == ToneCurve::reinhard ? tone::reinhard(v, white)
               : curve == ToneCurve::filmic ? tone::filmic(v)
                                            : srgb_decode(own.at(v));
    };
    if (s.choice("tone.by") == "channel") return {bent(x.x), bent(x.y), bent(x.z)};
    const double l = luminance(x);
    if (l <= 0) return nothing;
    const double shown = bent(l);
    const glm::dvec3 c = x * (shown / l);
    const double peak = std::max({c.x, c.y, c.z});
    return peak > 1 ? glm::mix(glm::dvec3(shown), c, (1 - shown) / (peak - shown)) : c;
}

glm::dvec3 stop_color(double stops) {
    if (stops < least_stops) return glm::dvec3(0.0);
    if (stops >= most_stops) return glm::dvec3(1.0);
    const double step = std::floor(stops + 0.5); // a step about each whole stop
    if (step == 0) return glm::dvec3(0.5);
    static const glm::dvec3 below[] = {{0.10, 0.08, 0.30}, {0.16, 0.30, 0.70}, {0.25, 0.62, 0.72}},
                            above[] = {{0.55, 0.72, 0.30}, {0.93, 0.72, 0.20}, {0.86, 0.25, 0.18}};
    const double u = step < 0 ? 2 * (step - least_stops) / (-1 - least_stops) : 2 * (step - 1) / (most_stops - 1);
    const glm::dvec3* of = step < 0 ? below : above;
    return u < 1 ? glm::mix(of[0], of[1], u) : glm::mix(of[1], of[2], u - 1);
}

} // namespace mirolux
