#include "cli/commands.h"
#include "core/image/image_io.h"
#include <algorithm>
#include <fmt/format.h>
#include <glm/gtc/packing.hpp>

namespace mirolux::cli {

namespace {

struct Differing {
    std::size_t pixels = 0; // that differ at all
    double largest = 0, largestRelative = 0;
    double mean = 0; // of the colours' differences, over the mean of the first picture
    int steps = 0;   // largest number of half-float steps between two values
    int worstX = 0, worstY = 0;
};

/// How many half floats lie between two values, as half floats hold them.
int half_steps(float a, float b) {
    const auto order = [](float v) { // bits of halfs, so that they ascend through zero
        const int bits = glm::packHalf1x16(v);
        return bits & 0x8000 ? -(bits & 0x7FFF) : bits;
    };
    return std::abs(order(a) - order(b));
}

/// Relative: over the larger of the two, and of a ten-thousandth of the brightest value, below which all is black.
Differing difference(const FloatImage& a, const FloatImage& b) {
    Differing d;
    float brightest = 0;
    for (const float v : a.data)
        brightest = std::max(brightest, std::abs(v));
    double sum = 0, whole = 0;
    const double floor = std::max(1e-4 * double(brightest), 1e-12);
    for (int y = 0; y < a.height; ++y)
        for (int x = 0; x < a.width; ++x) {
            const std::size_t at = (std::size_t(y) * a.width + x) * a.channels;
            double worst = 0;
            bool differs = false;
            for (int c = 0; c < a.channels; ++c) {
                const double u = a.data[at + c], v = b.data[at + c];
                differs = differs || !(u == v);
                if (c < 3) { // alpha is no light
                    sum += std::abs(u - v);
                    whole += std::abs(u);
                }
                d.largest = std::max(d.largest, std::abs(u - v));
                d.steps = std::max(d.steps, half_steps(a.data[at + c], b.data[at + c]));
                worst = std::max(worst, std::abs(u - v) / std::max({std::abs(u), std::abs(v), floor}));
            }
            d.pixels += differs;
            if (worst > d.largestRelative) d.largestRelative = worst, d.worstX = x, d.worstY = y;
        }
    d.mean = sum / std::max(whole, 1e-300);
    return d;
}

} // namespace

static Error not_of_one_size(const std::string& file) {
    return {"the pictures are not of one size and kind", file, "Render both at the same size."};
}

static bool alike(const FloatImage& a, const FloatImage& b) {
    return a.width == b.width && a.height == b.height && a.channels == b.channels;
}

/// The picture with others added to its colours (or taken from them).
static Result<void> add(FloatImage& image, const std::vector<std::string>& files, float sign) {
    for (const std::string& file : files) {
        const auto more = read_exr(file);
        if (!more) return tl::unexpected(more.error());
        if (!alike(image, *more)) return tl::unexpected(not_of_one_size(file));
        for (std::size_t i = 0; i < image.data.size(); ++i)
            if (image.channels < 4 || i % 4 < 3) image.data[i] += sign * more->data[i];
    }
    return {};
}

int compare(const Common& c, const CompareArguments& arguments) {
    auto a = read_exr(arguments.before), b = read_exr(arguments.after);
    if (!a) return complain(a.error(), badInput);
    if (!b) return complain(b.error(), badInput);
    if (!alike(*a, *b)) return complain(not_of_one_size(arguments.after), badInput);
    if (auto ok = add(*b, arguments.plus, 1); !ok) return complain(ok.error(), badInput);
    if (auto ok = add(*b, arguments.minus, -1); !ok) return complain(ok.error(), badInput);
    const Differing d = difference(*a, *b);
    const double share = double(d.pixels) / (double(a->width) * a->height);
    const bool passed = d.pixels == 0 || (d.steps <= arguments.steps && share <= arguments.share);
    const std::string text = fmt::format(
        "{} of {} pixels differ ({:.4f} %); largest {:.6g}, relative {:.6g} at {}, {}, {} half-float steps: {}\n",
        d.pixels, std::size_t(a->width) * a->height, 100 * share, d.largest, d.largestRelative, d.worstX, d.worstY,
        d.steps,
        d.pixels == 0 ? "equal"
        : passed      ? "within the limits"
                      : "over the limits");
    const int code = deliver(c, text,
                             {{"schema", "mirolux.compare"},
                              {"version", 1},
                              {"pixels", std::size_t(a->width) * a->height},
                              {"differing", d.pixels},
                              {"share", share},
                              {"mean", d.mean},
                              {"largest", d.largest},
                              {"largestRelative", d.largestRelative},
                              {"worst", {d.worstX, d.worstY}},
                              {"steps", d.steps},
                              {"passed", passed}});
    return code == done && !passed ? int(gateMissed) : code;
}

} // namespace mirolux::cli
