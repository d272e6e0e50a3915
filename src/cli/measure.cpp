#include "cli/commands.h"
#include "core/base/text.h"
#include "core/cost/object_price.h"
#include "core/cost/report.h"
#include "core/cost/target_table.h"
#include "core/image/difference.h"
#include "core/io/file.h"
#include "core/io/json_cursor.h"
#include "core/io/wire.h"
#include <cstdio>
#include <fmt/format.h>
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

/// The target that the measurement stands for, and the budget that it is held against.
Result<Target> measured_target(const Common& c, const MeasureArguments& a, Subject& s, double& budget) {
    Target target = s.open.project.targets[static_cast<std::size_t>(s.open.project.target)];
    budget = a.budget;
    if (c.target.empty()) {
        target.name = "custom";
        target.width = s.view.width;
        target.height = s.view.height;
        if (budget > 0) target.frameMs = budget, target.lightingShare = 1, target.hz = 0;
        return target;
    }
    if (!target.profile.empty())
        return fail("target \"" + target.name + "\" is of another device (profile \"" + target.profile +
                        "\"): times measured here say nothing about it",
                    "--target", "mirolux-cli targets predicts it.");
    budget = budget_ms(target);
    return target;
}

bool show_progress(const MeasureProgress& p) {
    if (!isatty(STDERR_FILENO)) return true;
    if (p.round == 0)
        std::fprintf(stderr, "\rwarming up ");
    else
        std::fprintf(stderr, "\rround %d of %d, %.2f ms ", p.round, p.rounds, p.estimateMs);
    if (p.ratio.median > 0) std::fprintf(stderr, "B/A %.3f (%.3f to %.3f) ", p.ratio.median, p.ratio.low, p.ratio.high);
    if (p.round == p.rounds) std::fprintf(stderr, "\n");
    return true;
}

/// All that one measurement is about, and what came of it.
struct Run {
    Subject subject;
    Target target;
    Setup b;
    DeviceInfo device;
    std::string digest;
    Measurement first;
    std::optional<PairedMeasurement> both;
    std::vector<std::string> changes;
    std::optional<Scene> without; // B's, where it leaves objects out
    EditList objectsWithout{};
    nlohmann::json left{};  // of those: how many, and how far the picture is
    nlohmann::json apart{}; // of two setups: bytes of each frame, and how far B's picture is from A's
    State state() const {
        return {subject.setup, subject.open.project.lights, subject.view, {}, subject.open.project.objects};
    }
    nlohmann::json document() const {
        nlohmann::json out =
            measurement_document(first, both ? &*both : nullptr, device, subject.setup, digest, changes);
        if (!apart.is_null()) out["comparison"].update(apart);
        return out;
    }
};

Result<void> take(Run& run, WorkerClient& worker, const MeasureOptions& o, bool paired) {
    const Scene scene = scene_of(run.subject.open);
    if (paired) {
        auto m = measure_paired(worker, scene, run.subject.setup, run.without ? *run.without : scene, run.b,
                                run.subject.view, o);
        if (!m) return tl::unexpected(m.error());
        run.both = std::move(*m);
        run.first = run.both->a;
        return {};
    }
    auto m = mirolux::measure(worker, scene, run.subject.setup, run.subject.view, o);
    if (!m) return tl::unexpected(m.error());
    run.first = std::move(*m);
    return {};
}

/// --without: the scene that B has.
Result<void> leave_out(Run& run, const std::vector<std::string>& patterns) {
    const SceneAsset& asset = *run.subject.open.asset;
    OpenProject other = run.subject.open;
    std::vector<ObjectEdit> edits;
    for (const std::string& pattern : patterns) {
        const std::vector<int> objects = objects_like(asset, pattern);
        if (objects.empty())
            return fail("no object's name or id matches \"" + pattern + "\"", "--without",
                        "mirolux-cli info SCENE --objects '*' lists them.");
        for (const int o : objects) {
            edits.push_back(edit_of(other.project.objects, asset, o));
            edits.back().hidden = true;
        }
        run.changes.push_back(fmt::format("without {} ({} objects)", pattern, objects.size()));
    }
    take_edits(other.project.objects, edits);
    run.without = scene_of(other);
    run.objectsWithout = other.project.objects;
    run.left["objects"] = edits.size();
    return {};
}

/// How far the picture is from the one without what was left out.
Result<void> compare_pictures(Run& run, WorkerClient& worker) {
    auto found = difference_of(worker, scene_of(run.subject.open), *run.without, run.subject.setup, run.subject.view);
    if (!found) return tl::unexpected(found.error());
    const PictureDifference d = *found;
    run.left["meanRelative"] = d.meanRelative;
    run.left["shareOver"] = d.shareOver;
    run.left["psnr"] = d.psnr;
    return {};
}

/// What two setups take and show beside their times.
Result<void> hold_apart(Run& run, WorkerClient& worker) {
    const Scene scene = scene_of(run.subject.open);
    std::vector<FloatImage> pictures;
    nlohmann::json bytes = nlohmann::json::object();
    for (const auto& [name, setup] : {std::pair("a", &run.subject.setup), {"b", &run.b}}) {
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.floatLayers = {"final"};
        auto record = worker.render(scene, *setup, run.subject.view, o);
        if (!record) return tl::unexpected(record.error());
        pictures.push_back(std::move(record->floats.at("final")));
        bytes[name] = plan_frame(scene, *setup, run.subject.view).bytesHeld;
    }
    const PictureDifference d = picture_difference(pictures[0], pictures[1], 1e-3, 0.01);
    run.apart = {{"bytes", bytes},
                 {"picture", {{"meanRelative", d.meanRelative}, {"shareOver", d.shareOver}, {"psnr", d.psnr}}}};
    return {};
}

Result<void> keep(const Run& run, Logbook& book, const RoundKeeper& keeper) {
    if (keeper.trouble()) std::fprintf(stderr, "%s\n", to_text(*keeper.trouble()).c_str());
    const State state = run.state();
    if (auto id = book.add(state, run.first, run.device, run.target, run.digest, keeper.run()); !id)
        return tl::unexpected(id.error());
    if (!run.both) return {};
    if (auto id = book.keep_record("pair", run.device.renderer, run.digest, run.subject.setup, run.document()); !id)
        return tl::unexpected(id.error());
    if (auto id = book.add({run.b,
                            state.lights,
                            state.view,
                            {},
                            run.without ? run.objectsWithout : state.objects,
                            state.volumes,
                            state.cheapLights,
                            state.probes},
                           run.both->b, run.device, run.target, run.digest);
        !id)
        return tl::unexpected(id.error());
    return {};
}

/// Held against a record of before; true if a regression over the allowed size is shown.
Result<bool> against_baseline(const MeasureArguments& a, const Run& run, nlohmann::json& document, std::string& text) {
    auto before = baseline_frames(a.baseline, run.first, run.device, run.digest);
    if (!before) return tl::unexpected(before.error());
    const Comparison change = compare_apart(*before, run.first.frameMs, 1);
    const bool regressed = change.verdict == Verdict::slower && change.low > 1 + a.regression / 100;
    document["baseline"] = {
        {"file", a.baseline},    {"ratio", change.ratio},           {"low", change.low},
        {"high", change.high},   {"verdict", word(change.verdict)}, {"allowedPercent", a.regression},
        {"regressed", regressed}};
    text +=
        fmt::format("against the baseline: {:.3f} times its time ({:.3f} to {:.3f}), {}; {}\n", change.ratio,
                    change.low, change.high, word(change.verdict),
                    regressed ? "a regression over the allowed size" : "no regression over the allowed size is shown");
    return regressed;
}

/// Writes and prints what was measured; the exit code.
int report(const Common& c, const MeasureArguments& a, const Run& run, double budget) {
    const PairedMeasurement* pair = run.both ? &*run.both : nullptr;
    int code = done;
    for (const auto& [file, content] :
         {std::pair{a.csv, a.csv.empty() ? std::string() : measurement_csv(run.first)},
          {a.html, a.html.empty() ? std::string()
                                  : measurement_html(run.subject.open.project.name, run.first, pair, run.device,
                                                     run.target, run.subject.setup, run.changes)}})
        if (!file.empty())
            if (auto ok = write_file_atomically(file, content); !ok)
                code = complain(ok.error(), badInput); // the rest is reported all the same
    std::string text = run.device.renderer + "\n" + run.device.clock.verdict + "\n";
    for (const std::string& d : run.changes)
        if (pair) text += "B differs: " + d + "\n";
    text += measurement_text(run.first, pair, budget);
    nlohmann::json document = run.document();
    if (run.without) {
        document["without"] = run.left;
        text += fmt::format("the picture without them: {:.2f} % of it differs by more than 1 %, on average {:.3f} %\n",
                            100 * run.left["shareOver"].get<double>(), 100 * run.left["meanRelative"].get<double>());
    }
    if (!run.apart.is_null()) {
        const auto mib = [&](const char* of) { return run.apart["bytes"][of].get<double>() / (1 << 20); };
        text += fmt::format("targets and maps of a frame: {:.1f} MiB, B {:.1f} MiB; B's picture is off by {:.3f} % on "
                            "average, {:.2f} % of it by more than 1 %\n",
                            mib("a"), mib("b"), 100 * run.apart["picture"]["meanRelative"].get<double>(),
                            100 * run.apart["picture"]["shareOver"].get<double>());
    }
    bool regressed = false;
    if (!a.baseline.empty()) {
        auto held = against_baseline(a, run, document, text);
        if (!held) return complain(held.error(), badInput);
        regressed = *held;
    }
    if (const int reported = deliver(c, text, document); reported != done) return reported;
    if (code != done) return code;
    return regressed || (budget > 0 && run.first.p95 > budget) ? int(gateMissed) : int(done);
}

} // namespace

int measure(const Common& c, const MeasureArguments& a) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (auto ok = can_write({a.csv, a.html, c.json}); !ok) return complain(ok.error(), badInput);
    Run run;
    run.subject = std::move(*s);
    double budget = 0;
    auto target = measured_target(c, a, run.subject, budget);
    if (!target) return complain(target.error(), badInput);
    run.target = std::move(*target);
    const bool paired = !a.against.empty() || !a.againstSetup.empty() || !a.without.empty();
    const auto other = other_setup(run.subject, c, a.against, a.againstSetup);
    if (!other) return complain(other.error(), badInput);
    run.b = *other;
    run.changes = differences(run.subject.setup, run.b);
    if (!a.without.empty())
        if (auto ok = leave_out(run, a.without); !ok) return complain(ok.error(), badInput);
    Digest digest;
    digest.value = run.subject.open.asset->digest;
    run.digest = digest.hex();

    WorkerClient worker(worker_options(c));
    auto device = worker.device();
    if (!device) return complain(device.error(), deviceFailed);
    run.device = *device;
    MeasureOptions o;
    o.rounds = a.rounds;
    o.gpuClock = a.clock == "gpu" || (a.clock == "auto" && device->clock.gpuAccepted);
    if (o.gpuClock && !device->clock.gpuAccepted)
        return complain(
            {"the GPU clock cannot be believed here", "--clock gpu", device->clock.verdict + ". Use --clock fenced."},
            deviceFailed);
    o.precision = a.precision;
    o.untilClear = a.untilClear;
    o.progress = show_progress;
    std::optional<Logbook> book;
    std::optional<RoundKeeper> keeper;
    if (a.log) {
        const std::string& path = run.subject.open.project.path;
        if (path.empty())
            return complain(
                {"a scene file has no logbook", c.scene, "Save a project of it in the window, and measure that."},
                badInput);
        auto opened = Logbook::open(logbook_path(path));
        if (!opened) return complain(opened.error(), badInput);
        book.emplace(std::move(*opened));
        keeper.emplace(*book, RunStart{run.state(), *device, run.target, run.digest});
        o.kept = [&](const RoundSample& sample) { keeper->keep(sample); };
    }
    if (auto ok = take(run, worker, o, paired); !ok) return complain(ok.error(), deviceFailed);
    if (run.without)
        if (auto ok = compare_pictures(run, worker); !ok) return complain(ok.error(), deviceFailed);
    if (run.both && !run.without && scene_of(run.subject.open).asset)
        if (auto ok = hold_apart(run, worker); !ok) return complain(ok.error(), deviceFailed);
    int kept = done; // what could not be kept is still reported
    if (book)
        if (auto ok = keep(run, *book, *keeper); !ok) kept = complain(ok.error(), badInput);
    const int reported = report(c, a, run, budget);
    return kept != done ? kept : reported;
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
    std::vector<TargetCase> cases = target_cases(s->open.project, s->open.asset);
    if (!c.target.empty()) cases = {cases[static_cast<std::size_t>(s->open.project.target)]};
    std::vector<Target> all;
    for (TargetCase& one : cases) { // what is asked for on the command line holds on each
        if (!c.setupName.empty())
            one.setup = s->setup;
        else if (auto ok = apply_sets(one.setup, c.sets); !ok)
            return complain(ok.error(), badInput);
        all.push_back(one.target);
    }
    auto verdicts = judge_targets(worker, cases, s->view, o);
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
