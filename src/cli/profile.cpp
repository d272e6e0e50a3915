#include "cli/commands.h"
#include "core/base/text.h"
#include "core/cost/foresight_check.h"
#include "core/cost/profile_check.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include <fmt/format.h>
#include <unistd.h>

namespace mirolux::cli {

int calibrate(const Common& c, const CalibrateArguments& a) {
    if (auto ok = can_write({a.output, c.json}); !ok) return complain(ok.error(), badInput);
    WorkerClient worker(worker_options(c));
    auto device = worker.device();
    if (!device) return complain(device.error(), deviceFailed);
    auto workloads = worker.calibrate(a.sweeps);
    if (!workloads) return complain(workloads.error(), deviceFailed);
    DeviceProfile profile = fit_profile(std::move(*workloads), a.name, device->renderer + ", " + device->version);
    profile.created = utc_now();
    const std::string text = json_text(to_json(profile), 2) + "\n";
    if (!a.output.empty())
        if (auto ok = write_file_atomically(a.output, text); !ok) return complain(ok.error(), badInput);
    std::string out = "device profile \"" + profile.name + "\" of " + profile.device + "\n";
    out += fmt::format("{} workloads, residuals: median {:.1f} %, 90th percentile {:.1f} %\n", profile.workloads.size(),
                       100 * profile.typicalError, 100 * profile.largeError);
    for (const CostTerm& term : all_terms()) {
        out += fmt::format("  {:<14} {:12.4f} ns  {}\n", term.name, profile.ns.at(term.name), term.meaning);
    }
    if (!a.output.empty()) out += "written to " + a.output + "\n";
    if (a.keep) {
        if (auto ok = keep_own_profile(*device, profile); !ok) return complain(ok.error(), badInput);
        out += "kept as this device's own: " + own_profile_path(*device).string() + "\n";
    }
    return deliver(c, out, to_json(profile));
}

int profiles(const Common& c, const std::string& name, const std::string& output) {
    if (!name.empty()) {
        auto profile = find_profile(name);
        if (!profile) return complain(profile.error(), badInput);
        const std::string text = json_text(to_json(*profile), 2) + "\n";
        if (output.empty()) return deliver(c, text, to_json(*profile));
        if (auto ok = write_file_atomically(output, text); !ok) return complain(ok.error(), badInput);
        return deliver(c, "written to " + output + "\n", to_json(*profile));
    }
    std::string text;
    Json list = Json::array();
    for (const DeviceProfile& p : shipped_profiles()) {
        text += p.name + ": " + p.device + ", in round numbers\n";
        list.push_back(to_json(p));
    }
    return deliver(c, text, {{"schema", "mirolux.profiles"}, {"version", 1}, {"profiles", list}});
}

static int check(const Common& c, const PredictArguments& a, const Subject& s, const DeviceProfile& profile,
                 WorkerClient& worker) {
    const bool lively = isatty(STDERR_FILENO);
    constexpr int checkSweeps = 3;
    auto done = check_profile(worker, profile, scene_of(s.open), s.setup, s.view, s.open.project.cameras, a.check, 1,
                              checkSweeps, [&](int i) {
                                  if (lively) std::fprintf(stderr, "\rsetup %d of %d ", i + 1, checkSweeps * a.check);
                                  return true;
                              });
    if (lively) std::fprintf(stderr, "\r                    \r");
    if (!done) return complain(done.error(), deviceFailed);
    std::string markdown = check_markdown(*done, profile, "profile.svg");
    if (!a.report.empty()) {
        const std::filesystem::path page = a.report;
        const auto plot = std::filesystem::path(page).replace_extension(".svg");
        markdown = check_markdown(*done, profile, plot.filename().string());
        if (auto ok = write_file_atomically(page, markdown); !ok) return complain(ok.error(), badInput);
        if (auto ok = write_file_atomically(plot, check_svg(*done, profile)); !ok)
            return complain(ok.error(), badInput);
    }
    const int code = deliver(
        c, markdown,
        {{"schema", "mirolux.profileCheck"}, {"version", 1}, {"profile", profile.name}, {"check", to_json(*done)}});
    return code == 0 && a.gate > 0 && 100 * done->medianError > a.gate ? int(gateMissed) : code;
}

static int check_changes(const Common& c, const PredictArguments& a, const Subject& s, const DeviceProfile& profile,
                         WorkerClient& worker) {
    const bool lively = isatty(STDERR_FILENO);
    auto done = check_foresight(worker, profile, scene_of(s.open), s.setup, s.view, s.open.project.cameras, a.changes,
                                1, [&](int i) {
                                    if (lively) std::fprintf(stderr, "\rchange %d of %d ", i + 1, a.changes);
                                    return true;
                                });
    if (lively) std::fprintf(stderr, "\r                    \r");
    if (!done) return complain(done.error(), deviceFailed);
    const std::string markdown = foresight_markdown(*done, profile);
    if (!a.report.empty())
        if (auto ok = write_file_atomically(a.report, markdown); !ok) return complain(ok.error(), badInput);
    const int code = deliver(
        c, markdown,
        {{"schema", "mirolux.foresightCheck"}, {"version", 1}, {"profile", profile.name}, {"check", to_json(*done)}});
    return code == 0 && a.gate > 0 && 100 * done->medianError > a.gate ? int(gateMissed) : code;
}

static Result<FrameRecord> counted_record(WorkerClient& worker, const Scene& scene, const Setup& setup,
                                          const View& view) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.count = true;
    return worker.render(scene, setup, view, o);
}

/// What the sets would change, from the present state as it is measured now.
static Result<Foresight> foresee_sets(const Common& c, const Subject& s, const DeviceProfile& profile,
                                      const FrameRecord& next, WorkerClient& worker) {
    Common plain = c;
    plain.sets.clear();
    auto present = subject_of(plain);
    if (!present) return tl::unexpected(present.error());
    const Scene scene = scene_of(s.open);
    auto now = counted_record(worker, scene, present->setup, s.view);
    if (!now) return tl::unexpected(now.error());
    constexpr int frames = 8;
    RenderOptions timing;
    timing.picture = false;
    timing.fencedSamples = frames;
    auto timed = worker.render(scene, present->setup, s.view, timing);
    if (!timed) return tl::unexpected(timed.error());
    PassTimes measured;
    for (const PassRecord& p : timed->passes)
        measured[p.name] = median({p.ms.begin() + 1, p.ms.end()});
    return foresee(profile, counted_frame(plan_frame(scene, present->setup, s.view), *now), measured,
                   counted_frame(plan_frame(scene, s.setup, s.view), next));
}

/// Named, or the one that is kept of the present device.
static Result<DeviceProfile> profile_of(const PredictArguments& a, const DeviceInfo& device) {
    return a.profile.empty() ? own_profile(device) : find_profile(a.profile);
}

int predict(const Common& c, const PredictArguments& a) {
    if (a.check == 0 && a.changes == 0 && (a.gate > 0 || !a.report.empty()))
        return complain({"--report and --gate are of a check", "", "Add --check or --changes."}, badInput);
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (!a.profile.empty()) // before a worker is asked anything
        if (auto found = find_profile(a.profile); !found) return complain(found.error(), badInput);
    WorkerClient worker(worker_options(c));
    auto device = worker.device();
    if (!device) return complain(device.error(), deviceFailed);
    auto profile = profile_of(a, *device);
    if (!profile) return complain(profile.error(), badInput);
    if (a.check > 0) return check(c, a, *s, *profile, worker);
    if (a.changes > 0) return check_changes(c, a, *s, *profile, worker);
    const Scene scene = scene_of(s->open);
    auto counted = counted_record(worker, scene, s->setup, s->view);
    if (!counted) return complain(counted.error(), deviceFailed);
    const auto predicted = mirolux::predict(*profile, plan_frame(scene, s->setup, s->view), *counted);
    if (!predicted) return complain(predicted.error(), badInput);
    const Prediction& p = *predicted;
    std::string text = "predicted, not measured: profile \"" + p.profile + "\"" + (p.madeUp ? ", made up" : "") + "\n";
    for (const PassPrediction& pass : p.passes) {
        text += fmt::format("  {:<12} {:9.3f} ms\n", pass.name, pass.ms);
    }
    text += fmt::format("  {:<12} {:9.3f} ms  ({:.3f} to {:.3f})\n", "frame", p.frameMs, p.lowMs, p.highMs);
    Json j = to_json(p);
    j["schema"] = "mirolux.prediction";
    j["version"] = 1;
    // Of the present device what a change would cost can start from what is measured.
    if (!c.sets.empty() && profile->device == device->renderer + ", " + device->version) {
        const auto foreseen = foresee_sets(c, *s, *profile, *counted, worker);
        if (!foreseen) return complain(foreseen.error(), deviceFailed);
        text += fmt::format("from {:.3f} ms as measured now: ", foreseen->nowMs) + foresight_words(*foreseen) + "\n";
        j["foresight"] = to_json(*foreseen);
    }
    return deliver(c, text, j);
}

} // namespace mirolux::cli
