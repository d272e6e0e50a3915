#include "cli/commands.h"
#include "core/base/text.h"
#include "core/cost/profile_check.h"
#include "core/io/file.h"
#include "core/io/wire.h"
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
    char line[256];
    std::snprintf(line, sizeof line, "%zu workloads, residuals: median %.1f %%, 90th percentile %.1f %%\n",
                  profile.workloads.size(), 100 * profile.typicalError, 100 * profile.largeError);
    out += line;
    for (const CostTerm& term : all_terms()) {
        std::snprintf(line, sizeof line, "  %-14s %12.4f ns  %s\n", term.name.c_str(), profile.ns.at(term.name),
                      term.meaning.c_str());
        out += line;
    }
    if (!a.output.empty()) out += "written to " + a.output + "\n";
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

int predict(const Common& c, const PredictArguments& a) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    auto profile = find_profile(a.profile);
    if (!profile) return complain(profile.error(), badInput);
    WorkerClient worker(worker_options(c));
    if (a.check > 0) return check(c, a, *s, *profile, worker);
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.count = true;
    const Scene scene = scene_of(s->open);
    auto counted = worker.render(scene, s->setup, s->view, o);
    if (!counted) return complain(counted.error(), deviceFailed);
    const auto predicted = mirolux::predict(*profile, plan_frame(scene, s->setup, s->view), *counted);
    if (!predicted) return complain(predicted.error(), badInput);
    const Prediction& p = *predicted;
    char line[256];
    std::string text = "predicted, not measured: profile \"" + p.profile + "\"" + (p.madeUp ? ", made up" : "") + "\n";
    for (const PassPrediction& pass : p.passes) {
        std::snprintf(line, sizeof line, "  %-12s %9.3f ms\n", pass.name.c_str(), pass.ms);
        text += line;
    }
    std::snprintf(line, sizeof line, "  %-12s %9.3f ms  (%.3f to %.3f)\n", "frame", p.frameMs, p.lowMs, p.highMs);
    text += line;
    Json j = to_json(p);
    j["schema"] = "mirolux.prediction";
    j["version"] = 1;
    return deliver(c, text, j);
}

} // namespace mirolux::cli
