#include "cli/commands.h"
#include "core/base/text.h"
#include "core/cost/report.h"
#include "core/io/file.h"
#include <cstdio>
#include <unistd.h>

namespace mirolux::cli {

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
            budget = t.budgetMs;
            if (c.size.empty()) {
                s->view.width = t.width;
                s->view.height = t.height;
            }
        }
        if (!found) return complain({"there is no target named \"" + a.target + "\"", c.scene, "It has: " + joined(names) + "."}, badInput);
    } else target = {"custom", s->view.width, s->view.height, budget > 0 ? budget : target.budgetMs, 0};

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
    if (o.gpuClock && !device->clock.gpuAccepted) return complain({"the GPU clock cannot be believed here", "--clock gpu", device->clock.verdict + ". Use --clock fenced."}, deviceFailed);
    const bool lively = isatty(STDERR_FILENO);
    o.progress = [&](const MeasureProgress& p) {
        if (lively) {
            if (p.round == 0) std::fprintf(stderr, "\rwarming up ");
            else std::fprintf(stderr, "\rround %d of %d, %.2f ms ", p.round, p.rounds, p.estimateMs);
            if (p.round == p.rounds) std::fprintf(stderr, "\n");
        }
        return true;
    };
    const Scene scene = scene_of(s->open);
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
    Digest digest;
    digest.value = s->open.asset->digest;
    const auto changes = differences(s->setup, b);
    const PairedMeasurement* pair = both ? &*both : nullptr;
    const auto json = measurement_document(first, pair, *device, s->setup, digest.hex(), changes);
    if (!a.csv.empty())
        if (auto ok = write_file_atomically(a.csv, measurement_csv(first)); !ok) return complain(ok.error(), badInput);
    if (!a.html.empty())
        if (auto ok = write_file_atomically(a.html, measurement_html(s->open.project.name, first, pair, *device, target, s->setup, changes)); !ok) return complain(ok.error(), badInput);
    std::string text = device->renderer + "\n" + device->clock.verdict + "\n";
    for (const std::string& d : changes)
        if (paired) text += "B differs: " + d + "\n";
    text += measurement_text(first, pair, budget);
    if (const int code = deliver(c, text, json); code != done) return code;
    return budget > 0 && first.p95 > budget ? int(gateMissed) : int(done);
}

} // namespace mirolux::cli
