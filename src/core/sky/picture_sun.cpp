#include "core/sky/picture_sun.h"
#include "core/base/recent.h"
#include "core/light/luminance.h"
#include <cmath>
#include <glm/gtc/constants.hpp>

namespace mirolux {

namespace {

constexpr double stands_out = 30, widest = 0.0524 /* 3 degrees, of its radius */, around = 2.2 /* radii */,
                 degree = 0.01745329;

/// Texels of a picture within an angle of a direction: value(x, y, angle, solid angle, luminance).
template <class Value>
void within(const FloatImage& image, const glm::dvec3& axis, double angle, const Value& value) {
    const double pi = glm::pi<double>(), tilt = std::acos(std::clamp(axis.y, -1.0, 1.0));
    const int first = std::max(0, static_cast<int>((tilt - angle) / pi * image.height) - 1),
              last = std::min(image.height - 1, static_cast<int>((tilt + angle) / pi * image.height) + 1);
    for (int y = first; y <= last; ++y) {
        const double top = pi * y / image.height, bottom = pi * (y + 1) / image.height, middle = 0.5 * (top + bottom),
                     solid = (std::cos(top) - std::cos(bottom)) * 2 * pi / image.width;
        for (int x = 0; x < image.width; ++x) {
            const double azimuth = 2 * pi * ((x + 0.5) / image.width - 0.5);
            const glm::dvec3 d(std::sin(middle) * std::sin(azimuth), std::cos(middle),
                               -std::sin(middle) * std::cos(azimuth));
            const double off = std::acos(std::clamp(glm::dot(d, axis), -1.0, 1.0));
            if (off > angle) continue;
            const float* p = image.pixel(x, y);
            value(x, y, d, off, solid, glm::dvec3(p[0], p[1], p[2]));
        }
    }
}

std::optional<PictureSun> find(const SkyPicture& picture) {
    const FloatImage& image = picture.image;
    double peak = 0;
    glm::dvec3 axis(0, 1, 0);
    const double pi = glm::pi<double>();
    for (int y = 0; y < image.height; ++y)
        for (int x = 0; x < image.width; ++x) {
            const float* p = image.pixel(x, y);
            if (const double l = luminance({p[0], p[1], p[2]}); l > peak) {
                const double a = 2 * pi * ((x + 0.5) / image.width - 0.5), t = pi * (y + 0.5) / image.height;
                peak = l;
                axis = {std::sin(t) * std::sin(a), std::cos(t), -std::sin(t) * std::cos(a)};
            }
        }
    // What lies farther off, and the spot: all that is nearer to its peak than to that, by their ratios.
    double far = 0, farSolid = 0;
    within(image, axis, 8 * degree, [&](int, int, const glm::dvec3&, double off, double solid, const glm::dvec3& l) {
        if (off < 5 * degree) return;
        far += luminance(l) * solid;
        farSolid += solid;
    });
    far = std::max(farSolid > 0 ? far / farSolid : 0.0, 1e-6 * peak);
    if (!(peak > stands_out * far)) return std::nullopt;
    const double threshold = std::sqrt(peak * far);
    glm::dvec3 toward(0.0);
    double solidOf = 0, farthest = 0;
    within(image, axis, 5 * degree, [&](int, int, const glm::dvec3& d, double off, double solid, const glm::dvec3& l) {
        if (luminance(l) < threshold) return;
        toward += d * (luminance(l) * solid);
        solidOf += solid;
        farthest = std::max(farthest, off);
    });
    PictureSun sun;
    sun.direction = glm::normalize(toward);
    sun.angle = 2 * std::sqrt(solidOf / pi);
    if (0.5 * sun.angle > widest || farthest > 2 * widest) return std::nullopt;
    // Its place takes what lies right around it.
    const double texel = 2 * pi / image.width, reach = std::max(around * farthest, farthest + 2 * texel);
    glm::dvec3 ring(0.0);
    double ringSolid = 0;
    within(image, axis, reach, [&](int, int, const glm::dvec3&, double, double solid, const glm::dvec3& l) {
        if (luminance(l) >= threshold) return;
        ring += l * solid;
        ringSolid += solid;
    });
    ring = ringSolid > 0 ? ring / ringSolid : glm::dvec3(0.0);
    auto without = std::make_shared<SkyPicture>(picture);
    within(image, axis, farthest + 0.5 * texel,
           [&](int x, int y, const glm::dvec3&, double, double solid, const glm::dvec3& l) {
               if (luminance(l) < threshold) return;
               sun.illuminance += glm::max(l - ring, glm::dvec3(0.0)) * solid;
               for (int c = 0; c < 3; ++c)
                   without->image.pixel(x, y)[c] = static_cast<float>(std::min(l[c], ring[c]));
           });
    if (!without->digest.empty()) without->digest += " without its sun";
    without->brightest = 0;
    for (std::size_t at = 0; at < without->image.data.size(); ++at)
        if (at % 4 != 3) without->brightest = std::max(without->brightest, without->image.data[at]);
    sun.without = std::move(without);
    return sun;
}

} // namespace

std::shared_ptr<const std::optional<PictureSun>> sun_of(const std::shared_ptr<const SkyPicture>& picture) {
    static Recent<std::shared_ptr<const SkyPicture>, std::optional<PictureSun>> recent(2);
    return recent.of(picture, [](const auto& p) { return find(*p); });
}

} // namespace mirolux
