#include "core/image/perceptual.h"
#include "core/base/parallel.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <glm/glm.hpp>

namespace mirolux {

namespace {

using Plane = std::vector<float>;

/// One pass of a box filter of radius r along rows of `width`, edges repeated; writes transposed, so that two passes
/// filter both axes.
void box_transposed(const Plane& from, Plane& to, int width, int height, int r) {
    const float scale = 1.0f / static_cast<float>(2 * r + 1);
    parallel_for(0, height, [&](int y) {
        const float* row = from.data() + std::size_t(y) * width;
        const auto at = [&](int x) { return row[std::clamp(x, 0, width - 1)]; };
        float sum = 0;
        for (int x = -r; x <= r; ++x)
            sum += at(x);
        for (int x = 0; x < width; ++x) {
            to[std::size_t(x) * height + y] = sum * scale;
            sum += at(x + r + 1) - at(x - r);
        }
    });
}

void kernel_transposed(const Plane& from, Plane& to, int width, int height, const std::vector<float>& kernel) {
    const int r = static_cast<int>(kernel.size() / 2);
    parallel_for(0, height, [&](int y) {
        const float* row = from.data() + std::size_t(y) * width;
        for (int x = 0; x < width; ++x) {
            float sum = 0;
            for (int k = -r; k <= r; ++k)
                sum += kernel[static_cast<std::size_t>(k + r)] * row[std::clamp(x + k, 0, width - 1)];
            to[std::size_t(x) * height + y] = sum;
        }
    });
}

/// Gaussian blur of standard deviation `sigma` pixels.
Plane blurred(Plane plane, int width, int height, double sigma) {
    if (sigma < 0.2) return plane;
    Plane other(plane.size());
    if (sigma < 6) {
        const int r = static_cast<int>(std::ceil(3 * sigma));
        std::vector<float> kernel;
        float sum = 0;
        for (int k = -r; k <= r; ++k) {
            kernel.push_back(static_cast<float>(std::exp(-0.5 * k * k / (sigma * sigma))));
            sum += kernel.back();
        }
        for (float& k : kernel)
            k /= sum;
        kernel_transposed(plane, other, width, height, kernel);
        kernel_transposed(other, plane, height, width, kernel);
        return plane;
    }
    const int r =
        std::max(1, static_cast<int>(std::lround(0.5 * (std::sqrt(4 * sigma * sigma + 1) -
                                                        1)))); // three boxes of radius r have variance r (r + 1)
    for (int pass = 0; pass < 3; ++pass) {
        box_transposed(plane, other, width, height, r);
        box_transposed(other, plane, height, width, r);
    }
    return plane;
}

struct Gauss {
    double weight, spread; // degrees
};
/// The paper's table: luminance, red-green, blue-yellow.
const std::vector<Gauss> eye[3] = {{{0.921, 0.0283}, {0.105, 0.133}, {-0.108, 4.336}},
                                   {{0.531, 0.0392}, {0.330, 0.494}},
                                   {{0.488, 0.0536}, {0.371, 0.386}}};

// Columns of XYZ to opponent colours (Zhang and Wandell), and back.
const glm::mat3 opponent(0.279f, -0.449f, 0.086f, 0.72f, 0.29f, -0.59f, -0.107f, -0.077f, 0.501f);

std::array<float, 256> linear_table() {
    std::array<float, 256> t{};
    for (int i = 0; i < 256; ++i) {
        const double v = i / 255.0;
        t[static_cast<std::size_t>(i)] =
            static_cast<float>(v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4)); // IEC 61966-2-1
    }
    return t;
}

std::vector<glm::vec3> seen_lab(const ByteImage& image, double pixelsPerDegree) {
    static const auto linear = linear_table();
    const std::size_t n = std::size_t(image.width) * image.height;
    Plane planes[3] = {Plane(n), Plane(n), Plane(n)};
    const glm::mat3 toXyz(0.4124f, 0.2126f, 0.0193f, 0.3576f, 0.7152f, 0.1192f, 0.1805f, 0.0722f, 0.9505f);
    for (std::size_t i = 0; i < n; ++i) {
        const glm::vec3 o = opponent * (toXyz * glm::vec3(linear[image.rgba[4 * i]], linear[image.rgba[4 * i + 1]],
                                                          linear[image.rgba[4 * i + 2]]));
        for (int c = 0; c < 3; ++c)
            planes[c][i] = o[c];
    }
    for (int c = 0; c < 3; ++c) {
        Plane sum(n, 0.0f);
        double weights = 0;
        for (const Gauss& g : eye[c])
            weights += g.weight;
        for (const Gauss& g : eye[c]) {
            const Plane part =
                blurred(planes[c], image.width, image.height,
                        g.spread * pixelsPerDegree / std::sqrt(2.0)); // the table's are exp(-(r/spread)^2)
            const auto w = static_cast<float>(g.weight / weights);
            for (std::size_t i = 0; i < n; ++i)
                sum[i] += w * part[i];
        }
        planes[c] = std::move(sum);
    }
    const glm::mat3 back = glm::inverse(opponent);
    const glm::vec3 white(0.9505f, 1.0f, 1.089f);
    const auto f = [](float t) { return t > 0.008856f ? std::cbrt(t) : 7.787f * t + 16.0f / 116.0f; };
    std::vector<glm::vec3> lab(n);
    for (std::size_t i = 0; i < n; ++i) {
        const glm::vec3 xyz =
            glm::max(back * glm::vec3(planes[0][i], planes[1][i], planes[2][i]), glm::vec3(0)) / white;
        const float x = f(xyz.x), y = f(xyz.y), z = f(xyz.z);
        lab[i] = {116 * y - 16, 500 * (x - y), 200 * (y - z)};
    }
    return lab;
}

} // namespace

std::vector<float> perceptual_difference(const ByteImage& a, const ByteImage& b, double pixelsPerDegree) {
    const auto la = seen_lab(a, pixelsPerDegree), lb = seen_lab(b, pixelsPerDegree);
    std::vector<float> out(la.size());
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = glm::length(la[i] - lb[i]);
    return out;
}

} // namespace mirolux
