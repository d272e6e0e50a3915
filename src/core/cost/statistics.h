#pragma once
#include <cstdint>
#include <vector>

namespace mirolux {

/// A median and the bounds of its 95 % interval.
struct Interval {
    double median = 0, low = 0, high = 0;
};

/// 0 for an empty list. Even counts take the mean of the middle two.
double median(std::vector<double> values);
/// Linear between closest ranks; share 0..1.
double quantile(std::vector<double> values, double share);

/// Percentile bootstrap of the median (B. Efron, Bootstrap Methods, 1979), seeded; costs `draws` resamples.
Interval bootstrap_median(const std::vector<double>& values, std::uint32_t seed, int draws = 2000, double level = 0.95);

/// Two-sided exact sign test of "the median is 0": the chance of so lopsided signs, zeros left out (J. Arbuthnot, 1710;
/// W. Conover, Practical Nonparametric Statistics, 1999). 1 for no values.
double sign_test(const std::vector<double>& values);

/// Which of several hypotheses are rejected at `level` for all of them together (S. Holm, A Simple Sequentially
/// Rejective Multiple Test Procedure, 1979). Parallel to p.
std::vector<bool> holm(const std::vector<double>& p, double level = 0.05);

enum class Verdict { faster, slower, notShown };
const char* word(Verdict verdict);

/// B against A from paired rounds.
struct Comparison {
    double ratio = 1, low = 1, high = 1; // time of B over time of A: median of paired ratios, 95 % interval
    double smallestShown =
        0;        // relative difference that this data could have shown: half the interval's width over the ratio
    double p = 1; // exact sign test of the paired ratios
    Verdict verdict = Verdict::notShown;
    int rounds = 0;
};
/// a and b of equal length, one pair a round. A difference is shown where the interval leaves 1 out and the sign test
/// holds at 5 %: fewer than 6 rounds never show one.
Comparison compare_paired(const std::vector<double>& a, const std::vector<double>& b, std::uint32_t seed);
/// b against an earlier a that was measured apart: ratio of medians, both resampled; the interval takes no account of
/// drift between the two.
Comparison compare_apart(const std::vector<double>& a, const std::vector<double>& b, std::uint32_t seed);

} // namespace mirolux
