#include "core/cost/walk.h"
#include "cli/commands.h"
#include "core/base/text.h"
#include "core/cost/noise.h"
#include "core/cost/report.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include <cstdio>
#include <fmt/format.h>
#include <unistd.h>

namespace mirolux::cli {

static std::string summary(const WalkMeasurement& m, double budget) {
    std::string text =
        fmt::format("  p50 {:.2f} ms, p95 {:.2f}, p99 {:.2f}, worst {:.2f} ms", m.p50, m.p95, m.p99, m.worst);
    if (budget > 0) {
        text += fmt::format("; {} of {} places over {:.2f} ms", m.over(budget), m.points.size(), budget);
    }
    const WalkPoint& worst = m.points[m.worstPoint];
    text += fmt::format("\n  worst at {:.1f} m, {:.1f} s", worst.metres, worst.seconds);
    if (worst.heading != 0) text += ", turned by " + number_text(glm::degrees(worst.heading), 3) + " degrees";
    return text + fmt::format(": --eye {:.2f},{:.2f},{:.2f} --aim {:.2f},{:.2f},{:.2f}\n", worst.camera.eye.x,
                              worst.camera.eye.y, worst.camera.eye.z, worst.camera.aim.x, worst.camera.aim.y,
                              worst.camera.aim.z);
}

int walk(const Common& c, const WalkArguments& a) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (auto ok = can_write({a.csv, c.json}); !ok) return complain(ok.error(), badInput);
    const Walk* chosen = nullptr;
    std::vector<std::string> names;
    for (const Walk& w : s->open.project.walks) {
        names.push_back(w.name);
        if (w.name == a.walk || (a.walk.empty() && !chosen)) chosen = &w;
    }
    if (!chosen)
        return complain({a.walk.empty() ? "the project has no walk" : "there is no walk named \"" + a.walk + "\"",
                         c.scene,
                         names.empty() ? "Record one in the window, or add one to the project file."
                                       : "It has: " + joined(names) + "."},
                        badInput);
    const bool paired = !a.against.empty() || !a.againstSetup.empty();
    auto other = other_setup(*s, c, a.against, a.againstSetup);
    if (!other) return complain(other.error(), badInput);
    double budget = a.budget;
    if (budget <= 0)
        budget = measured_budget_ms(s->open.project.targets[static_cast<std::size_t>(s->open.project.target)]);

    WorkerClient worker(worker_options(c));
    auto device = worker.device();
    if (!device) return complain(device.error(), deviceFailed);
    WalkOptions o;
    o.everyMetres = a.every;
    o.sweeps = a.sweeps;
    o.headings = a.headings;
    o.gpuClock = device->clock.gpuAccepted;
    const bool lively = isatty(STDERR_FILENO);
    o.progress = [&](int done, int all) {
        if (lively) std::fprintf(stderr, "\rframe %d of %d ", done + 1, all);
        return true;
    };
    std::vector<Setup> setups{s->setup};
    if (paired) setups.push_back(*other);
    auto result = measure_walk(worker, scene_of(s->open), setups, s->view, *chosen, o);
    if (lively) std::fprintf(stderr, "\n");
    if (!result) return complain(result.error(), deviceFailed);
    const WalkMeasurement& m = result->front();
    const std::string line = fmt::format("{}: {:.1f} m, {} places, {} sweeps, {}x{}, {} clock\n", chosen->name,
                                         m.metres, m.points.size(), m.sweeps, s->view.width, s->view.height, m.clock);
    std::string text = device->renderer + "\n" + line;
    if (paired) text += "B differs: " + joined(differences(s->setup, *other), "; ") + "\nA\n";
    text += summary(m, budget);
    auto json = walk_document(m, budget);
    json["device"] = device->renderer;
    json["size"] = {s->view.width, s->view.height};
    if (paired) {
        const WalkMeasurement& b = (*result)[1];
        text += "B\n" + summary(b, budget);
        std::vector<double> ta, tb;
        for (std::size_t i = 0; i < m.points.size(); ++i) {
            ta.push_back(m.points[i].ms);
            tb.push_back(b.points[i].ms);
        }
        const Comparison over = compare_paired(ta, tb, 1);
        text += fmt::format("over the places of the walk B takes {:.3f} times A's time ({:.3f} to {:.3f}): {}\n",
                            over.ratio, over.low, over.high, word(over.verdict));
        json["b"] = walk_document(b, budget);
        json["comparison"] = {
            {"ratio", over.ratio}, {"low", over.low}, {"high", over.high}, {"verdict", word(over.verdict)}};
    }
    if (!a.csv.empty())
        if (auto ok = write_file_atomically(a.csv, walk_csv(m)); !ok) return complain(ok.error(), badInput);
    keep_circumstances(json, s->setup, scene_of(s->open));
    if (!a.note.empty()) json["step"] = a.note;
    if (a.log) {
        Digest digest;
        digest.value = s->open.asset->digest;
        if (s->open.project.path.empty())
            return complain(
                {"a scene file has no logbook", c.scene, "Save a project of it in the window, and measure that."},
                badInput);
        auto book = Logbook::open(logbook_path(s->open.project.path));
        if (!book) return complain(book.error(), badInput);
        if (a.note.empty()) { // what was changed since the one before names it
            auto before = book->records("walk");
            if (!before) return complain(before.error(), badInput);
            if (!before->empty())
                if (std::string step = step_between(Json::parse(before->front().document, nullptr, false), json);
                    !step.empty())
                    json["step"] = std::move(step);
        }
        if (auto id = book->keep_record("walk", device->renderer, digest.hex(), s->setup, json); !id)
            return complain(id.error(), badInput);
    }
    if (const int code = deliver(c, text, json); code != done) return code;
    const double gated = a.gate == "p50"     ? m.p50
                         : a.gate == "p95"   ? m.p95
                         : a.gate == "p99"   ? m.p99
                         : a.gate == "worst" ? m.worst
                                             : 0.0;
    return gated > budget ? int(gateMissed) : int(done);
}

int selftest(const Common& c, const SelftestArguments& a) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (c.size.empty()) { // small frames: the statistics are on trial, not the scene
        s->view.width = 160;
        s->view.height = 90;
    }
    WorkerClient worker(worker_options(c));
    auto device = worker.device();
    if (!device) return complain(device.error(), deviceFailed);
    if (a.overheadRounds > 0) {
        auto c1 = clock_overhead(worker, scene_of(s->open), s->setup, s->view, a.overheadRounds, 1);
        if (!c1) return complain(c1.error(), deviceFailed);
        const std::string text = fmt::format(
            "the clock in whole frames of {}x{}: {:+.2f} % ({:+.2f} to {:+.2f}; {} paired rounds)\n", s->view.width,
            s->view.height, 100 * (c1->ratio - 1), 100 * (c1->low - 1), 100 * (c1->high - 1), c1->rounds);
        const int code = deliver(c, text,
                                 {{"schema", "mirolux.clockOverhead"},
                                  {"version", 1},
                                  {"ratio", c1->ratio},
                                  {"low", c1->low},
                                  {"high", c1->high},
                                  {"rounds", c1->rounds}});
        return code == done && c1->low > 1.01 ? int(gateMissed) : code;
    }
    SelftestOptions o;
    o.runs = a.longForm ? 200 : a.runs;
    o.rounds = a.rounds;
    o.gpuClock = device->clock.gpuAccepted;
    const bool lively = isatty(STDERR_FILENO);
    o.progress = [&](const std::string& step, int done, int all) {
        if (lively) std::fprintf(stderr, "\r%s: run %d of %d      ", step.c_str(), done + 1, all);
        return true;
    };
    auto r = mirolux::selftest(worker, scene_of(s->open), s->setup, s->view, o);
    if (lively) std::fprintf(stderr, "\n");
    if (!r) return complain(r.error(), deviceFailed);
    Json injections = Json::array();
    std::string text = device->renderer + "\nclocks: " + r->clock.verdict + "\n";
    text += fmt::format("the clock in whole frames: {:+.2f} % ({:+.2f} to {:+.2f}; {} paired rounds)\n",
                        100 * (r->clockOverhead.ratio - 1), 100 * (r->clockOverhead.low - 1),
                        100 * (r->clockOverhead.high - 1), r->clockOverhead.rounds);
    text += fmt::format("A against A: {} false alarms in {} runs of {} rounds (at most {} are within chance at 5 %)\n",
                        r->falseAlarms, r->runs, r->rounds, r->allowedAlarms);
    for (const auto& i : r->injections) {
        injections.push_back({{"asked", i.asked}, {"injected", i.injected}, {"found", i.found}, {"runs", r->runs}});
        text += fmt::format("injected slowdown of {:.1f} % (asked for {:.1f} %): found in {} of {} runs\n",
                            i.injected * 100, i.asked * 100, i.found, r->runs);
    }
    if (r->smallestFound > 0)
        text += fmt::format("a slowdown of {:.1f} % is found in at least 95 of 100 runs: {}\n", r->smallestFound * 100,
                            r->trusted() ? "measurements can be trusted to that size" : "but too many false alarms");
    else
        text += "no injected slowdown up to 40 % is found reliably: measurements here cannot be trusted\n";
    const Json json = {{"schema", "mirolux.selftest"},
                       {"version", 1},
                       {"device", to_json(*device)},
                       {"runs", r->runs},
                       {"rounds", r->rounds},
                       {"clockOverhead",
                        {{"ratio", r->clockOverhead.ratio},
                         {"low", r->clockOverhead.low},
                         {"high", r->clockOverhead.high},
                         {"rounds", r->clockOverhead.rounds}}},
                       {"falseAlarms", r->falseAlarms},
                       {"allowedAlarms", r->allowedAlarms},
                       {"injections", injections},
                       {"smallestFound", r->smallestFound},
                       {"trusted", r->trusted()}};
    if (const int code = deliver(c, text, json); code != done) return code;
    return r->trusted() ? int(done) : int(gateMissed);
}

int noise(const Common& c, int frames, const std::string& report) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (auto ok = can_write({report, c.json}); !ok) return complain(ok.error(), badInput);
    WorkerClient worker(worker_options(c));
    auto device = worker.device();
    if (!device) return complain(device.error(), deviceFailed);
    const bool lively = isatty(STDERR_FILENO);
    auto recorded =
        record_noise(worker, scene_of(s->open), s->setup, s->view, frames, device->clock.gpuAccepted, [&](int done) {
            if (lively && done % 20 == 0) std::fprintf(stderr, "\rframe %d of %d ", done, frames);
            return true;
        });
    if (lively) std::fprintf(stderr, "\n");
    if (!recorded) return complain(recorded.error(), deviceFailed);
    const NoiseStudy study = study_noise(std::move(*recorded), 30, 2000, 1);
    const std::string page = noise_markdown(study, device->renderer,
                                            s->setup.choice("path.kind") + ", " + std::to_string(s->view.width) + "x" +
                                                std::to_string(s->view.height));
    if (!report.empty())
        if (auto ok = write_file_atomically(report, page); !ok) return complain(ok.error(), badInput);
    Json ways = Json::array();
    for (const FalseAlarms& w : study.ways)
        ways.push_back({{"way", w.way}, {"comparisons", w.trials}, {"falseAlarms", w.alarms}});
    return deliver(c, page,
                   {{"schema", "mirolux.noise"},
                    {"version", 1},
                    {"device", to_json(*device)},
                    {"framesMs", study.frames},
                    {"ways", ways}});
}

} // namespace mirolux::cli
