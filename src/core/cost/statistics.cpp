#include "core/cost/statistics.h"
#include <algorithm>
#include <cmath>
#include <random>

namespace mirolux {

double quantile(std::vector<double> v, double share) {
    if (v.empty()) return 0.0;
    std::sort(v.begin(), v.end());
    const double place = std::clamp(share, 0.0, 1.0) * static_cast<double>(v.size() - 1);
    const auto i = static_cast<std::size_t>(place);
    const double t = place - static_cast<double>(i);
    return i + 1 < v.size() ? v[i] * (1.0 - t) + v[i + 1] * t : v[i];
}

double median(std::vector<double> v) {
    return quantile(std::move(v), 0.5);
}

Interval bootstrap_median(const std::vector<double>& values, std::uint32_t seed, int draws, double level) {
    Interval out;
    if (values.empty()) return out;
    out.median = median(values);
    if (values.size() < 2) {
        out.low = out.high = out.median;
        return out;
    }
    std::mt19937 random(seed);
    const auto n = static_cast<std::uint32_t>(values.size());
    std::vector<double> medians, sample(n);
    medians.reserve(static_cast<std::size_t>(draws));
    for (int d = 0; d < draws; ++d) {
        for (double& s : sample)
            s = values[random() % n]; // standard distributions differ between libraries; this repeats everywhere
        medians.push_back(median(sample));
    }
    out.low = quantile(medians, 0.5 * (1 - level));
    out.high = quantile(medians, 0.5 * (1 + level));
    return out;
}

double sign_test(const std::vector<double>& values) {
    int plus = 0, n = 0;
    for (const double v : values)
        if (v != 0) {
            ++n;
            plus += v > 0;
        }
    if (n == 0) return 1.0;
    const int k = std::min(plus, n - plus);
    double term = std::pow(0.5, n), tail = 0;
    for (int i = 0; i <= k; ++i) {
        tail += term;
        term *= double(n - i) / double(i + 1);
    }
    return std::min(1.0, 2.0 * tail);
}

std::vector<bool> holm(const std::vector<double>& p, double level) {
    std::vector<std::size_t> order(p.size());
    for (std::size_t i = 0; i < p.size(); ++i)
        order[i] = i;
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return p[a] < p[b]; });
    std::vector<bool> rejected(p.size(), false);
    for (std::size_t k = 0; k < order.size() && p[order[k]] <= level / static_cast<double>(order.size() - k); ++k)
        rejected[order[k]] = true;
    return rejected;
}

const char* word(Verdict v) {
    switch (v) {
    case Verdict::faster:
        return "faster";
    case Verdict::slower:
        return "slower";
    case Verdict::notShown:
        return "not shown";
    }
    return "";
}

Comparison compare_paired(const std::vector<double>& a, const std::vector<double>& b, std::uint32_t seed) {
    Comparison c;
    std::vector<double> logs;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i)
        if (a[i] > 0 && b[i] > 0) logs.push_back(std::log(b[i] / a[i]));
    c.rounds = static_cast<int>(logs.size());
    if (logs.empty()) return c;
    const Interval i = bootstrap_median(logs, seed);
    c.ratio = std::exp(i.median);
    c.low = std::exp(i.low);
    c.high = std::exp(i.high);
    c.smallestShown = 0.5 * (c.high - c.low) / c.ratio;
    c.p = sign_test(logs);
    // The bootstrap of a median is a little liberal; the exact test keeps false alarms at or under 5 % whatever the
    // noise.
    if (c.p <= 0.05 && c.high < 1.0) c.verdict = Verdict::faster;
    if (c.p <= 0.05 && c.low > 1.0) c.verdict = Verdict::slower;
    return c;
}

Comparison compare_apart(const std::vector<double>& a, const std::vector<double>& b, std::uint32_t seed) {
    Comparison c;
    c.rounds = static_cast<int>(std::min(a.size(), b.size()));
    const double ma = median(a), mb = median(b);
    if (ma <= 0 || mb <= 0) return c;
    c.ratio = mb / ma;
    std::mt19937 random(seed);
    std::vector<double> ratios;
    const auto resampled = [&](const std::vector<double>& from) {
        std::vector<double> sample(from.size());
        for (double& s : sample)
            s = from[random() % from.size()];
        return median(std::move(sample));
    };
    for (int d = 0; d < 2000; ++d)
        ratios.push_back(resampled(b) / resampled(a));
    c.low = quantile(ratios, 0.025);
    c.high = quantile(ratios, 0.975);
    c.smallestShown = 0.5 * (c.high - c.low) / c.ratio;
    if (c.rounds >= 5 && c.high < 1.0) c.verdict = Verdict::faster;
    if (c.rounds >= 5 && c.low > 1.0) c.verdict = Verdict::slower;
    return c;
}

} // namespace mirolux
