#include "core/finish/dither.h"
#include <algorithm>
#include <cmath>
#include <random>

namespace mirolux {

namespace {

/// A torus of pixels, some of them set, and at each place the sum of a bell about each that is set.
class Bells {
public:
    Bells() {
        constexpr double sigma = 1.5; // Ulichney's
        for (int y = 0; y < n; ++y)
            for (int x = 0; x < n; ++x) {
                const int dx = std::min(x, n - x), dy = std::min(y, n - y);
                bell_[std::size_t(y * n + x)] = std::exp(-(dx * dx + dy * dy) / (2 * sigma * sigma));
            }
    }
    bool set(int i) const { return set_[std::size_t(i)]; }
    void turn(int i) {
        const double sign = set_[std::size_t(i)] ? -1 : 1;
        set_[std::size_t(i)] = !set_[std::size_t(i)];
        const int x0 = i % n, y0 = i / n;
        for (int y = 0; y < n; ++y)
            for (int x = 0; x < n; ++x)
                sums_[std::size_t(y * n + x)] +=
                    sign * bell_[std::size_t(((y - y0) & (n - 1)) * n + ((x - x0) & (n - 1)))];
    }
    int tightest_cluster() const { return extreme(true); }
    int largest_void() const { return extreme(false); }

private:
    int extreme(bool ofSet) const {
        int best = -1;
        for (int i = 0; i < n * n; ++i)
            if (set_[std::size_t(i)] == ofSet &&
                (best < 0 || (ofSet ? sums_[std::size_t(i)] > sums_[std::size_t(best)]
                                    : sums_[std::size_t(i)] < sums_[std::size_t(best)])))
                best = i;
        return best;
    }
    static constexpr int n = blue_noise_size;
    std::vector<double> bell_ = std::vector<double>(n * n), sums_ = std::vector<double>(n * n);
    std::vector<bool> set_ = std::vector<bool>(n * n);
};

std::vector<float> make_blue_noise() {
    constexpr int all = blue_noise_size * blue_noise_size;
    Bells bells;
    std::mt19937 random(1);
    int ones = 0;
    while (ones < all / 10)
        if (const int i = static_cast<int>(random() % all); !bells.set(i)) {
            bells.turn(i);
            ++ones;
        }
    for (;;) { // until what is taken from the tightest cluster would be put back there
        const int from = bells.tightest_cluster();
        bells.turn(from);
        const int to = bells.largest_void();
        bells.turn(to);
        if (from == to) break;
    }
    std::vector<float> out(all);
    const auto rank = [&](int pixel, int place) {
        out[std::size_t(pixel)] = (static_cast<float>(place) + 0.5f) / all - 0.5f;
    };
    Bells fewer = bells;
    for (int place = ones - 1; place >= 0; --place) {
        const int i = fewer.tightest_cluster();
        rank(i, place);
        fewer.turn(i);
    }
    // Where most are set, the tightest cluster of those that are not is where the sum of those that are is least.
    for (int place = ones; place < all; ++place) {
        const int i = bells.largest_void();
        rank(i, place);
        bells.turn(i);
    }
    return out;
}

} // namespace

const std::vector<float>& blue_noise() {
    static const std::vector<float> tile = make_blue_noise();
    return tile;
}

double ordered_pattern(int px, int y, int bits) {
    const int x = px ^ y;
    int v = 0;
    for (int bit = 0; bit < bits; ++bit)
        v |= ((x >> bit) & 1) << (2 * (bits - bit) - 1) | ((y >> bit) & 1) << (2 * (bits - bit) - 2);
    return (v + 0.5) / (1 << (2 * bits)) - 0.5;
}

double triangular(double even) {
    return even < 0 ? std::sqrt(2 * (even + 0.5)) - 1 : 1 - std::sqrt(1 - 2 * even);
}

int code_steps(const Setup& s) {
    return (1 << std::stoi(s.choice("output.bits"))) - 1;
}

double dither_at(const Setup& s, int x, int y) {
    const std::string& kind = s.choice("output.dither");
    if (kind == "none") return 0;
    if (kind == "ordered") return ordered_pattern(x, y, s.choice("output.tile") == "4x4" ? 2 : 3);
    constexpr int mask = blue_noise_size - 1;
    const double even = blue_noise()[std::size_t((y & mask) * blue_noise_size + (x & mask))];
    return kind == "triangular" ? triangular(even) : even;
}

double coded_value(double encoded, double dither, int steps) {
    return std::clamp(std::floor(encoded * steps + dither + 0.5) / steps, 0.0, 1.0);
}

} // namespace mirolux
