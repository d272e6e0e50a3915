#include "core/cost/target_table.h"
#include <fmt/format.h>

namespace mirolux {

const char* word(TargetStanding s) {
    return s == TargetStanding::inside ? "inside" : s == TargetStanding::over ? "over" : "unsure";
}

TargetVerdict verdict_of(const Target& target, const Measurement& m) {
    TargetVerdict v;
    v.target = target.name;
    v.budgetMs = budget_ms(target);
    v.p50 = m.frame.median;
    v.p95 = m.p95;
    v.p99 = m.p99;
    v.worst = m.worst;
    v.ms = m.frame.median;
    v.lowMs = m.frame.low;
    v.highMs = m.frame.high;
    v.rounds = m.rounds;
    v.standing = m.p95 <= v.budgetMs ? TargetStanding::inside : TargetStanding::over;
    return v;
}

TargetVerdict unpriced_verdict(const Target& target, const Error& why) {
    TargetVerdict v;
    v.target = target.name;
    v.predicted = true;
    v.profile = target.profile;
    v.budgetMs = budget_ms(target);
    v.standing = TargetStanding::unsure;
    v.problem = to_text(why);
    return v;
}

TargetVerdict verdict_of(const Target& target, const Prediction& p) {
    TargetVerdict v;
    v.target = target.name;
    v.predicted = true;
    v.madeUp = p.madeUp;
    v.profile = p.profile;
    v.budgetMs = budget_ms(target);
    v.ms = p.frameMs;
    v.lowMs = p.lowMs;
    v.highMs = p.highMs;
    v.standing = p.highMs <= v.budgetMs ? TargetStanding::inside
                 : p.lowMs > v.budgetMs ? TargetStanding::over
                                        : TargetStanding::unsure;
    return v;
}

std::string verdict_words(const TargetVerdict& v) {
    if (v.standing == TargetStanding::unsure) return "not sure: the error bar holds the budget";
    const double room = v.headroomMs();
    return fmt::format("{} by {:.2f} ms ({:.0f} %)", word(v.standing), std::abs(room),
                       v.budgetMs > 0 ? 100 * std::abs(room) / v.budgetMs : 0);
}

std::vector<TargetCase> target_cases(const Project& project, const std::shared_ptr<const SceneAsset>& asset) {
    std::vector<TargetCase> out;
    for (std::size_t i = 0; i < project.targets.size(); ++i) {
        const int target = static_cast<int>(i);
        out.push_back({project.targets[i], scene_on(project, asset, target), setup_on(project, target)});
    }
    return out;
}

Result<std::vector<TargetVerdict>> judge_targets(RenderSession& session, const std::vector<TargetCase>& cases,
                                                 const View& view, const MeasureOptions& options) {
    std::vector<TargetVerdict> out;
    for (const auto& [target, scene, setup] : cases) {
        const View at = on_target(view, target);
        if (target.profile.empty()) {
            auto measured = measure(session, scene, setup, at, options);
            if (!measured) return tl::unexpected(measured.error());
            out.push_back(verdict_of(target, *measured));
            if (measured->stopped) break;
            continue;
        }
        auto profile = find_profile(target.profile);
        if (!profile) return tl::unexpected(profile.error());
        RenderOptions counting;
        counting.picture = false;
        counting.fencedSamples = 0;
        counting.count = true;
        auto counted = session.render(scene, setup, at, counting);
        if (!counted) return tl::unexpected(counted.error());
        const auto prediction = predict(*profile, plan_frame(scene, setup, at), *counted);
        out.push_back(prediction ? verdict_of(target, *prediction) : unpriced_verdict(target, prediction.error()));
    }
    return out;
}

Json to_json(const TargetVerdict& v) {
    Json j = {{"target", v.target},
              {"budgetMs", v.budgetMs},
              {"predicted", v.predicted},
              {"standing", word(v.standing)},
              {"headroomMs", v.headroomMs()}};
    if (!v.problem.empty()) j["problem"] = v.problem;
    if (v.predicted) {
        j["profile"] = v.profile;
        j["madeUp"] = v.madeUp;
        j["predictedMs"] = v.ms;
    } else {
        j["medianMs"] = v.ms;
        j["p95Ms"] = v.p95;
        j["p99Ms"] = v.p99;
        j["worstMs"] = v.worst;
        j["rounds"] = v.rounds;
    }
    j["lowMs"] = v.lowMs;
    j["highMs"] = v.highMs;
    return j;
}

std::string targets_text(const std::vector<Target>& targets, const std::vector<TargetVerdict>& verdicts) {
    std::string out;
    for (std::size_t i = 0; i < verdicts.size(); ++i) {
        const TargetVerdict& v = verdicts[i];
        out += to_text(targets[i]) + "\n";
        if (v.predicted)
            out += fmt::format("    predicted for \"{}\"{}: {:.2f} ms ({:.2f} to {:.2f}); {}\n", v.profile,
                               v.madeUp ? ", made up" : "", v.ms, v.lowMs, v.highMs, verdict_words(v));
        else
            out += fmt::format("    measured: p50 {:.2f}, p95 {:.2f}, p99 {:.2f}, worst {:.2f} ms, {} rounds; {}\n",
                               v.p50, v.p95, v.p99, v.worst, v.rounds, verdict_words(v));
    }
    return out;
}

} // namespace mirolux
