#include "core/cost/foresight.h"
#include "core/base/text.h"
#include "core/io/file.h"
#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>

namespace mirolux {

CountedFrame counted_frame(FramePlan plan, const FrameRecord& record) {
    CountedFrame out{std::move(plan), {}};
    for (std::size_t i = 0; i < out.plan.passes.size(); ++i)
        out.work.push_back(i < record.passes.size() ? record.passes[i].work : Work{});
    return out;
}

namespace {

/// The terms of a pass, dearest first.
std::vector<std::string> dearest_of(const DeviceProfile& profile, const CostTerms& terms) {
    std::vector<std::pair<double, std::string>> costs;
    for (const auto& [term, amount] : terms.amounts)
        if (const auto rate = profile.ns.find(term); rate != profile.ns.end() && rate->second * amount > 0)
            costs.emplace_back(rate->second * amount, term);
    std::sort(costs.rbegin(), costs.rend());
    std::vector<std::string> out;
    for (std::size_t i = 0; i < std::min<std::size_t>(3, costs.size()); ++i)
        out.push_back(costs[i].second);
    return out;
}

double sum(const PassTimes& times) {
    double all = 0;
    for (const auto& [name, ms] : times)
        all += ms;
    return all;
}

std::string ms_words(double ms) {
    return fmt::format("{:.{}f} ms", ms, ms < 10 ? 2 : 1);
}

} // namespace

Result<Foresight> foresee(const DeviceProfile& profile, const CountedFrame& now, const PassTimes& measured,
                          const CountedFrame& next) {
    std::map<std::string, std::pair<double, CostTerms>> before;
    std::vector<std::string> unknown;
    double predictedNow = 0;
    const auto price = [&](const CountedFrame& frame, std::size_t i) {
        CostTerms terms = price_pass(frame.plan, frame.plan.passes[i], frame.work[i]);
        for (const std::string& term : profile.unknown(terms))
            if (std::find(unknown.begin(), unknown.end(), term) == unknown.end()) unknown.push_back(term);
        return terms;
    };
    for (std::size_t i = 0; i < now.plan.passes.size(); ++i) {
        CostTerms terms = price(now, i);
        const double ms = profile.fitted_ms(terms);
        before[now.plan.passes[i].name] = {ms, std::move(terms)};
        predictedNow += ms;
    }
    Foresight out;
    out.profile = profile.name;
    out.madeUp = profile.madeUp;
    out.nowMs = sum(measured);
    if (!(out.nowMs > 0) || !(predictedNow > 0))
        return fail("nothing is measured that a foresight could start from", "", "Let the frame be measured first.");
    const double whole = std::clamp(out.nowMs / predictedNow, 0.5, 2.0);
    double unsure = 0;
    for (std::size_t i = 0; i < next.plan.passes.size(); ++i) {
        const PlannedPass& pass = next.plan.passes[i];
        const CostTerms terms = price(next, i);
        const double ms = profile.fitted_ms(terms);
        ForeseenPass p{pass.name, pass.family, ms * whole, 0, true, dearest_of(profile, terms)};
        const auto was = before.find(pass.name);
        const auto time = measured.find(pass.name);
        if (was != before.end() && time != measured.end()) {
            p.wasMs = time->second;
            p.changed = was->second.second.amounts != terms.amounts;
            p.ms = !p.changed ? p.wasMs : was->second.first > 0 ? p.wasMs * ms / was->second.first : p.ms;
        }
        if (p.changed) unsure += profile.largeError * (p.wasMs > 0 ? std::abs(p.ms - p.wasMs) + 0.2 * p.ms : p.ms);
        out.ms += p.ms;
        out.passes.push_back(std::move(p));
    }
    if (!unknown.empty())
        return fail("the profile has no rate for " + joined(unknown) + ", which this frame pays", profile.name,
                    "It was made before Mirolux knew of it: calibrate again.");
    unsure += 0.02 * out.ms; // what is measured now is not exact either
    out.lowMs = std::max(0.0, out.ms - unsure);
    out.highMs = out.ms + unsure;
    return out;
}

std::string foresight_words(const Foresight& f) {
    const std::string interval =
        ms_words(f.ms) + ", " + number_text(f.lowMs, 3) + " to " + number_text(f.highMs, 3) + " ms";
    if (!f.shown()) return "no difference that can be told: " + interval;
    const double change = f.ms - f.nowMs;
    const std::string share = fmt::format("{:.0f} %", 100 * std::abs(change) / f.nowMs);
    return "about " + ms_words(std::abs(change)) + (change < 0 ? " faster (" : " slower (") + share + "): " + interval;
}

std::string foresight_miss(const Foresight& f, const PassTimes& measured) {
    const double ms = sum(measured);
    if (ms >= f.lowMs && ms <= f.highMs) return {};
    const ForeseenPass* worst = nullptr;
    double farthest = -1, worstMs = 0;
    for (const ForeseenPass& p : f.passes) {
        const auto it = measured.find(p.name);
        const double is = it == measured.end() ? 0 : it->second;
        if (std::abs(is - p.ms) > farthest) {
            farthest = std::abs(is - p.ms);
            worst = &p;
            worstMs = is;
        }
    }
    std::string out = "Foresight said " + number_text(f.lowMs, 3) + " to " + number_text(f.highMs, 3) +
                      " ms, measured is " + ms_words(ms);
    if (worst)
        out += ": farthest off is " + worst->name + " (" + ms_words(worst->ms) + ", measured " + ms_words(worstMs) +
               "), charged most for " + joined(worst->dearest);
    return out + ".";
}

Json to_json(const Foresight& f) {
    Json passes = Json::array();
    for (const ForeseenPass& p : f.passes)
        passes.push_back({{"name", p.name},
                          {"family", p.family},
                          {"ms", p.ms},
                          {"nowMs", p.wasMs},
                          {"changed", p.changed},
                          {"dearest", p.dearest}});
    return {{"profile", f.profile}, {"madeUp", f.madeUp}, {"nowMs", f.nowMs},   {"ms", f.ms},
            {"lowMs", f.lowMs},     {"highMs", f.highMs}, {"shown", f.shown()}, {"words", foresight_words(f)},
            {"passes", passes}};
}

std::filesystem::path own_profile_path(const DeviceInfo& device) {
    const char *data = std::getenv("XDG_DATA_HOME"), *home = std::getenv("HOME");
    const std::filesystem::path base =
        data && *data ? std::filesystem::path(data) : std::filesystem::path(home ? home : ".") / ".local/share";
    Digest digest;
    for (const std::string* text : {&device.renderer, &device.vendor, &device.version})
        digest.add(text->data(), text->size());
    const std::string name = fmt::format("{:016x}.json", digest.value);
    return base / "mirolux" / "devices" / name;
}

Result<DeviceProfile> own_profile(const DeviceInfo& device) {
    const std::filesystem::path path = own_profile_path(device);
    std::error_code ec;
    if (!std::filesystem::exists(path, ec))
        return fail("this device is not calibrated yet", device.renderer,
                    "mirolux-cli calibrate --keep does it once; so does the window, when it is asked.");
    return find_profile(path.string());
}

Result<void> keep_own_profile(const DeviceInfo& device, const DeviceProfile& profile) {
    const std::filesystem::path path = own_profile_path(device);
    std::error_code ec;
    std::filesystem::create_directories(path.parent_path(), ec);
    if (ec) return fail("the folder could not be made: " + ec.message(), path.parent_path().string());
    return write_file_atomically(path, json_text(to_json(profile), 2) + "\n");
}

} // namespace mirolux
