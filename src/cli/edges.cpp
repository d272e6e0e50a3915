#include "core/finish/edges.h"
#include "cli/commands.h"
#include "core/cost/measure.h"
#include "core/finish/edge_quality.h"
#include "core/finish/render_scale.h"
#include <chrono>
#include <fmt/format.h>

// audit edges: ways of smoothing edges, held against many samples a pixel.
namespace mirolux::cli {

int audit_edges(const Common& c, const EdgesArguments& a) {
    auto s = subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    auto ways = edge_ways(s->setup, a.ways);
    if (!ways) return complain(ways.error(), badInput);
    const Scene scene = scene_of(s->open);
    if (scene.is_flat()) // nothing of the plane has depth to follow or several samples
        std::erase_if(*ways, [](const auto& way) { return edges_of(way.second) == Edges::temporal; });
    WorkerClient worker(worker_options(c));
    auto said = std::chrono::steady_clock::now();
    const auto tell = [&](const char* what, double share) {
        const auto now = std::chrono::steady_clock::now();
        if (now - said > std::chrono::seconds(3)) {
            said = now;
            std::fprintf(stderr, "%s: %.0f %%\n", what, 100 * share);
        }
        return true;
    };
    EdgeQuestion question{scene, s->setup, s->view, *ways, a.frames, a.pan, a.side};
    auto quality = edge_quality(worker, question, tell);
    if (!quality) return complain(quality.error(), deviceFailed);
    Setup plain = s->setup;
    (void)plain.set("edges.kind", std::string("none"));
    std::string text = fmt::format("against {} samples a pixel, which change by {:.2f} codes a frame\n"
                                   "{:17} {:>8} {:>8} {:>8} {:>8} {:>8} {:>9} {:>16}\n",
                                   quality->samples, quality->change, "way", "still", "p95", "panned", "change",
                                   "crawl", "MiB", a.rounds > 0 ? "frame over none" : "");
    nlohmann::json list = nlohmann::json::array();
    for (const EdgeWay& w : quality->ways) {
        nlohmann::json one = {{"way", w.word},
                              {"error", w.still.mean},
                              {"p95", w.still.p95},
                              {"pannedError", w.moving.mean},
                              {"pixels", w.still.pixels},
                              {"change", w.change},
                              {"crawl", w.crawl},
                              {"bytes", w.bytes},
                              {"leftOut", w.leftOut}};
        text += fmt::format("{:17} {:8.2f} {:8.1f} {:8.2f} {:8.2f} {:8.2f} {:9.1f}", w.word, w.still.mean, w.still.p95,
                            w.moving.mean, w.change, w.crawl, double(w.bytes) / (1 << 20));
        if (a.rounds > 0) {
            MeasureOptions o;
            o.rounds = a.rounds;
            auto times = measure_paired(worker, scene, plain, w.setup, s->view, o);
            if (!times) return complain(times.error(), deviceFailed);
            one["medianMs"] = times->b.frame.median;
            one["over"] = {{"ratio", times->frame.ratio},
                           {"low", times->frame.low},
                           {"high", times->frame.high},
                           {"verdict", word(times->frame.verdict)}};
            text += fmt::format("{:9.2f} ({:.2f} to {:.2f})", times->frame.ratio, times->frame.low, times->frame.high);
        }
        text += "\n";
        if (!w.leftOut.empty()) text += "    " + w.leftOut + "\n";
        list.push_back(one);
    }
    text += "Codes of luma on edges of the truth; crawl: change that the truth has not.\n";
    return deliver(c, text,
                   {{"schema", "mirolux.auditEdges"},
                    {"version", 1},
                    {"samples", quality->samples},
                    {"change", quality->change},
                    {"pan", a.pan},
                    {"frames", a.frames},
                    {"size", {s->view.width, s->view.height}},
                    {"ways", list}});
}

} // namespace mirolux::cli
