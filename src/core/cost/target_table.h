#pragma once
#include "core/cost/device_profile.h"
#include "core/cost/measure.h"
#include "core/cost/target.h"
#include "core/scene/project.h"

namespace mirolux {

enum class TargetStanding { inside, over, unsure }; // unsure: a prediction whose error bar holds the budget
const char* word(TargetStanding standing);

/// How one target stands: measured on this device, or predicted for the device of its profile. Never both.
struct TargetVerdict {
    std::string target;
    bool predicted = false, madeUp = false; // madeUp: by a profile that no device was measured for
    std::string profile;
    double budgetMs = 0;
    double p50 = 0, p95 = 0, p99 = 0, worst = 0; // measured, ms
    double ms = 0, lowMs = 0, highMs = 0; // predicted: with its error bar; measured: the median with its interval
    int rounds = 0;
    TargetStanding standing = TargetStanding::unsure;
    std::string problem; // why there is no figure; empty where there is one

    double headroomMs() const { return budgetMs - (predicted ? ms : p95); } // negative: over
};

/// Inside if the p95 of the measured frames is.
TargetVerdict verdict_of(const Target& target, const Measurement& measurement);
/// Inside or over only if the whole error bar is.
TargetVerdict verdict_of(const Target& target, const Prediction& prediction);
/// "inside by 2.1 ms (13 %)", "over by 40 ms (240 %)", "not sure: the error bar holds the budget"
std::string verdict_words(const TargetVerdict& verdict);

/// A target with what is rendered on it.
struct TargetCase {
    Target target;
    Scene scene;
    Setup setup;
};
/// Every target of a project with its own setup, and without what is off there.
std::vector<TargetCase> target_cases(const Project& project, const std::shared_ptr<const SceneAsset>& asset);

/// Every target in turn at its own size and eyes: measured if it names no profile, else counted and predicted.
/// options.progress may stop a target's measurement: what was done is kept, the rest is left out.
Result<std::vector<TargetVerdict>> judge_targets(RenderSession& session, const std::vector<TargetCase>& cases,
                                                 const View& view, const MeasureOptions& options);

Json to_json(const TargetVerdict& verdict);
std::string targets_text(const std::vector<Target>& targets, const std::vector<TargetVerdict>& verdicts);

} // namespace mirolux
