#pragma once
#include "core/cost/frame_record.h"
#include "core/cost/statistics.h"

namespace mirolux {

/// How often a way of comparing finds a difference where there is none: A against A on recorded frame times.
struct FalseAlarms {
    std::string way;
    int trials = 0, alarms = 0;
    double share() const { return trials ? double(alarms) / trials : 0; }
};

struct NoiseStudy {
    std::vector<double> frames; // the recording, ms, in order
    int frameCount = 0;         // frames that each side of a comparison gets
    std::vector<FalseAlarms> ways;
};

/// Both ways draw their frames from the same places of one recording of a setup that never changed, each side `count`
/// frames: one after the other: the first `count` as A, the next as B, compared by their means, once by Welch's test at
/// 5 % and once by a fixed 2 %; paired: the same stretch as rounds AB, BA, ..., with the verdict of compare_paired.
/// Source of the test: B. Welch, 1947.
NoiseStudy study_noise(std::vector<double> frames, int count, int trials, std::uint32_t seed);

/// `count` fenced frames of one setup, one after the other, in ms.
Result<std::vector<double>> record_noise(RenderSession& session, const Scene& scene, const Setup& setup,
                                         const View& view, int count, bool gpuClock,
                                         const std::function<bool(int)>& progress);

std::string noise_markdown(const NoiseStudy& study, const std::string& device, const std::string& subject);

} // namespace mirolux
