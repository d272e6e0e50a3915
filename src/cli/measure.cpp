#include "cli/commands.h"
#include "core/base/text.h"
#include "core/cost/report.h"
#include "core/cost/target_table.h"
#include "core/io/file.h"
#include "core/io/json_cursor.h"
#include "core/io/wire.h"
#include <cstdio>
#include <unistd.h>

namespace mirolux::cli {

namespace {

/// What an earlier record must share with this one to be a baseline, and its frame times.
Result<std::vector<double>> baseline_frames(const std::string& path, const Measurement& now, const DeviceInfo& device,
                                            const std::string& digest) {
    auto text = read_file(path);
    if (!text) return tl::unexpected(text.error());
    const Json json = Json::parse(text->begin(), text->end(), nullptr, false);
    if (json.is_discarded())
        return fail("the baseline is not JSON", path, "Make one with mirolux-cli measure --json FILE.");
    try {
        const JsonCursor j(json);
        if (j.text("schema", "") != "mirolux.measurement") j.complain("is not a measurement");
        if (j["device"].text("renderer", "") != device.renderer)
            j["device"].complain("is another device, " + j["device"].text("renderer", "unnamed") + ", than this one, " +
                                 device.renderer);
        if (static_cast<int>(j["size"].at(0).number()) != now.width ||
            static_cast<int>(j["size"].at(1).number()) != now.height)
            j["size"].complain("is another picture size");
        if (j.text("clock", "") != now.clock) j["clock"].complain("is another clock");
        if (j.text("sceneDigest", "") != digest) j["sceneDigest"].complain("is another scene");
        std::vector<double> out;
        const JsonCursor samples = j["frame"].list("samplesMs");
        for (std::size_t i = 0; i < samples.size(); ++i)
            out.push_back(samples.at(i).number());
        if (out.size() < 5) samples.complain("has fewer than 5 rounds, which show nothing");
        return out;
    } catch (const ReadFailure& f) {
        return fail("the baseline " + f.what, path + ": " + f.pointer,
                    "Measure the baseline again, on this device and with this size and scene.");
    }
}

} // namespace

int measure(const Common& c, const MeasureArguments& a) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    Target target = s->open.project.targets[static_cast<std::size_t>(s->open.project.target)];
    double budget = a.budget;
    if (!a.target.empty()) {
        bool found = false;
        std::vector<std::string> names;
        for (const Target& t : s->open.project.targets) {
            names.push_back(t.name);
            if (t.name != a.target) continue;
            found = true;
            target = t;
            if (!t.profile.empty())
                return complain({"target \"" + t.name + "\" is of another device (profile \"" + t.profile +
                                     "\"): times measured here say nothing about it",
                                 "--target", "mirolux-cli targets predicts it."},
                                badInput);
            budget = budget_ms(t);
            const View sized = s->view;
            s->view = on_target(s->view, t);
            if (!c.size.empty()) s->view.width = sized.width, s->view.height = sized.height;
        }
        if (!found)
            return complain(
                {"there is no target named \"" + a.target + "\"", c.scene, "It has: " + joined(names) + "."}, badInput);
    } else {
        target.name = "custom";
        target.width = s->view.width;
        target.height = s->view.height;
        if (budget > 0) target.frameMs = budget, target.lightingShare = 1, target.hz = 0;
    }

    const bool paired = !a.against.empty() || !a.againstSetup.empty();
    const auto other = other_setup(*s, c, a.against, a.againstSetup);
    if (!other) return complain(other.error(), badInput);
    const Setup& b = *other;

    WorkerClient worker(worker_options(c));
    auto device = worker.device();
    if (!device) return complain(device.error(), deviceFailed);
    MeasureOptions o;
    o.rounds = a.rounds;
    o.gpuClock = a.clock == "gpu" || (a.clock == "auto" && device->clock.gpuAccepted);
    if (o.gpuClock && !device->clock.gpuAccepted)
        return complain(
            {"the GPU clock cannot be believed here", "--clock gpu", device->clock.verdict + ". Use --clock fenced."},
            deviceFailed);
    o.precision = a.precision;
    o.untilClear = a.untilClear;
    const bool lively = isatty(STDERR_FILENO);
    o.progress = [&](const MeasureProgress& p) {
        if (lively) {
            if (p.round == 0)
                std::fprintf(stderr, "\rwarming up ");
            else
                std::fprintf(stderr, "\rround %d of %d, %.2f ms ", p.round, p.rounds, p.estimateMs);
            if (p.ratio.median > 0)
                std::fprintf(stderr, "B/A %.3f (%.3f to %.3f) ", p.ratio.median, p.ratio.low, p.ratio.high);
            if (p.round == p.rounds) std::fprintf(stderr, "\n");
        }
        return true;
    };
    const Scene scene = scene_of(s->open);
    Digest digest;
    digest.value = s->open.asset->digest;
    std::optional<Logbook> book;
    std::optional<RoundKeeper> keeper;
    const State state{s->setup, s->open.project.lights, s->view};
    if (a.log) {
        if (s->open.project.path.empty())
            return complain(
                {"a scene file has no logbook", c.scene, "Save a project of it in the window, and measure that."},
                badInput);
        auto opened = Logbook::open(logbook_path(s->open.project.path));
        if (!opened) return complain(opened.error(), badInput);
        book.emplace(std::move(*opened));
        keeper.emplace(*book, RunStart{state, *device, target, digest.hex()});
        o.kept = [&](const RoundSample& sample) { keeper->keep(sample); };
    }
    std::optional<PairedMeasurement> both;
    Measurement first;
    if (paired) {
        auto m = measure_paired(worker, scene, s->setup, b, s->view, o);
        if (!m) return complain(m.error(), deviceFailed);
        both = std::move(*m);
        first = both->a;
    } else {
        auto m = mirolux::measure(worker, scene, s->setup, s->view, o);
        if (!m) return complain(m.error(), deviceFailed);
        first = std::move(*m);
    }
    if (book) {
        if (keeper->trouble()) std::fprintf(stderr, "%s\n", to_text(*keeper->trouble()).c_str());
        if (auto id = book->add(state, first, *device, target, digest.hex(), keeper->run()); !id)
            return complain(id.error(), badInput);
        if (both)
            if (auto id = book->keep_record(
                    "pair", device->renderer, digest.hex(), s->setup,
                    measurement_document(first, &*both, *device, s->setup, digest.hex(), differences(s->setup, b)));
                !id)
                return complain(id.error(), badInput);
        if (both)
            if (auto id = book->add({b, state.lights, state.view}, both->b, *device, target, digest.hex()); !id)
                return complain(id.error(), badInput);
    }
    const auto changes = differences(s->setup, b);
    const PairedMeasurement* pair = both ? &*both : nullptr;
    const auto json = measurement_document(first, pair, *device, s->setup, digest.hex(), changes);
    if (!a.csv.empty())
        if (auto ok = write_file_atomically(a.csv, measurement_csv(first)); !ok) return complain(ok.error(), badInput);
    if (!a.html.empty())
        if (auto ok = write_file_atomically(
                a.html, measurement_html(s->open.project.name, first, pair, *device, target, s->setup, changes));
            !ok)
            return complain(ok.error(), badInput);
    std::string text = device->renderer + "\n" + device->clock.verdict + "\n";
    for (const std::string& d : changes)
        if (paired) text += "B differs: " + d + "\n";
    text += measurement_text(first, pair, budget);
    bool regressed = false;
    auto document = json;
    if (!a.baseline.empty()) {
        auto before = baseline_frames(a.baseline, first, *device, digest.hex());
        if (!before) return complain(before.error(), badInput);
        const Comparison change = compare_apart(*before, first.frameMs, 1);
        regressed = change.verdict == Verdict::slower && change.low > 1 + a.regression / 100;
        document["baseline"] = {
            {"file", a.baseline},    {"ratio", change.ratio},           {"low", change.low},
            {"high", change.high},   {"verdict", word(change.verdict)}, {"allowedPercent", a.regression},
            {"regressed", regressed}};
        char line[300];
        std::snprintf(line, sizeof line, "against the baseline: %.3f times its time (%.3f to %.3f), %s; %s\n",
                      change.ratio, change.low, change.high, word(change.verdict),
                      regressed ? "a regression over the allowed size"
                                : "no regression over the allowed size is shown");
        text += line;
    }
    if (const int code = deliver(c, text, document); code != done) return code;
    if (regressed) return gateMissed;
    return budget > 0 && first.p95 > budget ? int(gateMissed) : int(done);
}

int targets(const Common& c, int rounds, bool gate) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    WorkerClient worker(worker_options(c));
    auto device = worker.device();
    if (!device) return complain(device.error(), deviceFailed);
    MeasureOptions o;
    o.rounds = rounds;
    o.gpuClock = device->clock.gpuAccepted;
    const std::vector<Target>& all = s->open.project.targets;
    auto verdicts = judge_targets(worker, scene_of(s->open), s->setup, s->view, all, o);
    if (!verdicts) return complain(verdicts.error(), deviceFailed);
    Json list = Json::array();
    bool over = false;
    for (const TargetVerdict& v : *verdicts) {
        list.push_back(to_json(v));
        over = over || v.standing == TargetStanding::over;
    }
    const int code =
        deliver(c, targets_text(all, *verdicts),
                {{"schema", "mirolux.targets"}, {"version", 1}, {"device", to_json(*device)}, {"targets", list}});
    return code == done && gate && over ? int(gateMissed) : code;
}

} // namespace mirolux::cli
