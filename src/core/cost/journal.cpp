#include "core/cost/journal.h"
#include "core/cost/statistics.h"
#include "core/io/json_cursor.h"
#include <fmt/format.h>

namespace mirolux {

JournalAxis journal_axis(const std::vector<std::int64_t>& times, double longest) {
    JournalAxis axis;
    axis.places.assign(times.size(), 0.0);
    axis.pauses.assign(times.size(), false);
    if (times.size() < 2) {
        if (!times.empty()) axis.places[0] = 0.5;
        return axis;
    }
    std::vector<double> steps;
    for (std::size_t i = 1; i < times.size(); ++i)
        steps.push_back(std::max(0.0, static_cast<double>(times[i] - times[i - 1])));
    const double typical = std::max(1.0, median(steps));
    for (std::size_t i = 1; i < times.size(); ++i) {
        axis.pauses[i] = steps[i - 1] > longest * typical;
        axis.places[i] = axis.places[i - 1] + std::clamp(steps[i - 1], 0.25 * typical, longest * typical);
    }
    const double whole = axis.places.back();
    for (double& p : axis.places)
        p /= whole;
    return axis;
}

std::vector<int> label_lanes(const std::vector<double>& x, const std::vector<double>& widths, int lanes) {
    std::vector<double> ends(static_cast<std::size_t>(lanes), -1e9);
    std::vector<int> out;
    for (std::size_t i = 0; i < x.size(); ++i) {
        int lane = -1;
        for (int l = 0; l < lanes && lane < 0; ++l)
            if (ends[static_cast<std::size_t>(l)] <= x[i]) lane = l;
        if (lane >= 0) ends[static_cast<std::size_t>(lane)] = x[i] + widths[i];
        out.push_back(lane);
    }
    return out;
}

std::string step_name(const Entry& e) {
    if (!e.note.empty()) return e.note;
    if (e.changes.empty()) return "measured again";
    return e.changes.size() == 1 ? e.changes.front()
                                 : e.changes.front() + " (+" + std::to_string(e.changes.size() - 1) + ")";
}

StepVerdict step_verdict(const Entry& e, const Entry* before) {
    if (!before) return StepVerdict::first;
    if (before->width != e.width || before->height != e.height || before->device != e.device)
        return StepVerdict::otherSize;
    if (e.frame.high < before->frame.low) return StepVerdict::faster;
    if (e.frame.low > before->frame.high) return StepVerdict::slower;
    return StepVerdict::notShown;
}

std::string step_words(const Entry& e, const Entry* before) {
    switch (step_verdict(e, before)) {
    case StepVerdict::first:
        return "";
    case StepVerdict::otherSize:
        return "another size or device";
    case StepVerdict::notShown:
        return "no difference shown";
    default: {
        const double d = e.frame.median - before->frame.median;
        return fmt::format("{:+.2f} ms ({:+.0f} %)", d, before->frame.median > 0 ? 100 * d / before->frame.median : 0);
    }
    }
}

Result<JournalReport> journal_report(const Logbook& logbook, const EntryQuery& query, const std::string& title) {
    auto entries = logbook.entries(query);
    if (!entries) return tl::unexpected(entries.error());
    JournalReport r;
    r.title = title;
    r.entries = std::move(*entries);
    std::reverse(r.entries.begin(), r.entries.end());
    for (const Entry& e : r.entries) {
        auto json = logbook.measurement_json(e.id);
        if (!json) return tl::unexpected(json.error());
        r.measurements.push_back(std::move(*json));
    }
    if (r.entries.size() > 1) {
        const auto first = logbook.state(r.entries.front().id), last = logbook.state(r.entries.back().id);
        if (first && last) r.overall = describe_changes(*first, *last);
    }
    return r;
}

std::string journal_csv(const JournalReport& r) {
    const auto quoted = [](const std::string& text) {
        std::string out = "\"";
        for (const char c : text)
            out += c == '"' ? std::string("\"\"") : std::string(1, c);
        return out + "\"";
    };
    std::string out = "id,created,note,changes,target,budget_ms,device,clock,width,height,rounds,median_ms,low_ms,high_"
                      "ms,unfenced_ms,to_the_one_before,scene_digest,setup_digest\n";
    for (std::size_t i = 0; i < r.entries.size(); ++i) {
        const Entry& e = r.entries[i];
        std::string changes;
        for (const std::string& c : e.changes)
            changes += (changes.empty() ? "" : "; ") + c;
        out += std::to_string(e.id) + "," + e.created + "," + quoted(e.note) + "," + quoted(changes) + "," +
               quoted(e.targetName) + fmt::format(",{:.6f},", e.budgetMs) + quoted(e.device) + "," + e.clock +
               fmt::format(",{},{},{},{:.6f},{:.6f},{:.6f},{:.6f},", e.width, e.height, e.rounds, e.frame.median,
                           e.frame.low, e.frame.high, e.whole.median) +
               quoted(step_words(e, i ? &r.entries[i - 1] : nullptr)) + "," + e.sceneDigest + "," + e.setupDigest +
               "\n";
    }
    return out;
}

Json journal_json(const JournalReport& r) {
    Json list = Json::array();
    for (std::size_t i = 0; i < r.entries.size(); ++i) {
        const Entry& e = r.entries[i];
        const Json measurement = Json::parse(r.measurements[i], nullptr, false);
        list.push_back({{"id", e.id},
                        {"created", e.created},
                        {"note", e.note},
                        {"changes", e.changes},
                        {"target", e.targetName},
                        {"budgetMs", e.budgetMs},
                        {"device", e.device},
                        {"clock", e.clock},
                        {"size", {e.width, e.height}},
                        {"rounds", e.rounds},
                        {"medianMs", e.frame.median},
                        {"lowMs", e.frame.low},
                        {"highMs", e.frame.high},
                        {"unfencedMs", e.whole.median},
                        {"recovered", e.recovered},
                        {"sceneDigest", e.sceneDigest},
                        {"setupDigest", e.setupDigest},
                        {"toTheOneBefore", step_words(e, i ? &r.entries[i - 1] : nullptr)},
                        {"measurement", measurement.is_discarded() ? Json() : measurement}});
    }
    return {
        {"schema", "mirolux.journal"}, {"version", 1}, {"title", r.title}, {"overall", r.overall}, {"entries", list}};
}

} // namespace mirolux
