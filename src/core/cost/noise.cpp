#include "core/cost/noise.h"
#include <fmt/format.h>
#include <random>

namespace mirolux {

static std::pair<double, double> mean_and_variance(const double* values, int count) {
    double mean = 0, squares = 0;
    for (int i = 0; i < count; ++i)
        mean += values[i] / count;
    for (int i = 0; i < count; ++i)
        squares += (values[i] - mean) * (values[i] - mean);
    return {mean, squares / (count - 1)};
}

NoiseStudy study_noise(std::vector<double> frames, int count, int trials, std::uint32_t seed) {
    NoiseStudy s;
    s.frameCount = count;
    FalseAlarms welch{"mean of " + std::to_string(count) + " frames, one after the other, Welch's test at 5 %", 0, 0},
        fixed{"the same, a difference over 2 % counts", 0, 0},
        paired{"ours: " + std::to_string(count) + " paired rounds (AB BA), interval and sign test", 0, 0};
    std::mt19937 random(seed);
    const std::size_t span = 2 * static_cast<std::size_t>(count);
    for (int t = 0; t < trials && frames.size() > span; ++t) {
        const double* at = frames.data() + random() % (frames.size() - span);
        const auto [meanA, varianceA] = mean_and_variance(at, count);
        const auto [meanB, varianceB] = mean_and_variance(at + count, count);
        const double spread = std::sqrt((varianceA + varianceB) / count);
        // With 30 frames a side Student's quantile is within 2 % of 2.0 whatever the degrees of freedom.
        welch.alarms += spread > 0 && std::abs(meanB - meanA) / spread > 2.0;
        fixed.alarms += std::abs(meanB / meanA - 1) > 0.02;
        std::vector<double> a, b;
        bool swapped = false;
        for (int round = 0; round < count; ++round) {
            swapped = round % 2 == 0 ? (random() & 1u) != 0 : !swapped;
            a.push_back(at[2 * round + (swapped ? 1 : 0)]);
            b.push_back(at[2 * round + (swapped ? 0 : 1)]);
        }
        paired.alarms += compare_paired(a, b, seed + static_cast<std::uint32_t>(t)).verdict != Verdict::notShown;
        ++welch.trials, ++fixed.trials, ++paired.trials;
    }
    s.frames = std::move(frames);
    s.ways = {welch, fixed, paired};
    return s;
}

Result<std::vector<double>> record_noise(RenderSession& session, const Scene& scene, const Setup& setup,
                                         const View& view, int count, bool gpuClock,
                                         const std::function<bool(int)>& progress) {
    std::vector<double> out;
    while (static_cast<int>(out.size()) < count && (!progress || progress(static_cast<int>(out.size())))) {
        RenderOptions o;
        o.picture = false;
        o.gpuClock = gpuClock;
        auto record = session.render(scene, setup, view, o);
        if (!record) return tl::unexpected(record.error());
        double sum = 0;
        for (const PassRecord& p : record->passes)
            sum += p.ms.empty() ? 0.0 : p.ms.front();
        out.push_back(sum);
    }
    return out;
}

std::string noise_markdown(const NoiseStudy& s, const std::string& device, const std::string& subject) {
    std::string out = "# How often nothing is taken for something\n\nA setup that never changes is compared with "
                      "itself, on frame times recorded one after the other on " +
                      device + ": " + subject + ".\n\n";
    out += fmt::format(
        "The recording: {} frames, median {:.2f} ms, middle half {:.2f} to {:.2f} ms, 95th percentile {:.2f} ms, "
        "worst {:.2f} ms.\n",
        s.frames.size(), median(s.frames), quantile(s.frames, 0.25), quantile(s.frames, 0.75), quantile(s.frames, 0.95),
        quantile(s.frames, 1.0));
    std::vector<double> blocks; // medians of a hundred frames: how the machine's speed wanders
    for (std::size_t i = 0; i + 100 <= s.frames.size(); i += 100)
        blocks.push_back(median(std::vector<double>(s.frames.begin() + static_cast<std::ptrdiff_t>(i),
                                                    s.frames.begin() + static_cast<std::ptrdiff_t>(i) + 100)));
    if (!blocks.empty()) {
        out += fmt::format("Its medians of 100 frames wander from {:.2f} to {:.2f} ms.\n", quantile(blocks, 0),
                           quantile(blocks, 1));
    }
    out += "\n| way of comparing | frames a side | comparisons | false alarms | share |\n|---|---|---|---|---|\n";
    for (const FalseAlarms& w : s.ways) {
        out +=
            fmt::format("| {} | {} | {} | {} | {:.1f} % |\n", w.way, s.frameCount, w.trials, w.alarms, 100 * w.share());
    }
    return out + "\nBoth ways see the same stretches of the recording. A way that holds its promise stays near 5 %.\n";
}

} // namespace mirolux
