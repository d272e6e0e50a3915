#include "cli/commands.h"
#include "core/bake/light_map_table.h"
#include "core/bake/map_finish.h"
#include "core/bake/probe_grid.h"
#include "core/base/text.h"
#include "core/motion/scene_at.h"
#include "core/visibility/rooms.h"
#include <csignal>
#include <cstdio>
#include <fmt/format.h>
#include <unistd.h>

// What is computed beforehand, and what it comes to.
namespace mirolux::cli {

namespace {

std::atomic<bool> stopped{false};

/// What is done is kept when the user stops a bake.
void stop(int) {
    stopped = true;
}

} // namespace

/// Rooms between the project's doors.
static Result<Json> bake_rooms(const Scene& scene, const Setup& setup, std::string& text) {
    const auto rooms = find_rooms(scene, setup, &stopped);
    if (!rooms) return tl::unexpected(rooms.error());
    std::error_code error;
    std::filesystem::create_directories(scene.bakes, error); // writing says what is wrong
    const auto file = rooms_file(scene.bakes, rooms->digest);
    if (auto ok = write_rooms(*rooms, file); !ok) return tl::unexpected(ok.error());
    text += fmt::format("{} rooms by {} doors in {:.1f} s; {} bytes in {}\n", rooms->rooms, rooms->doors.size(),
                        rooms->seconds, rooms->bytes(), file.string());
    for (const std::string& remark : rooms->remarks)
        text += "  " + remark + "\n";
    return Json{{"rooms", rooms->rooms},     {"doors", rooms->doors.size()}, {"gaps", rooms->gaps.size()},
                {"remarks", rooms->remarks}, {"seconds", rooms->seconds},    {"bytes", rooms->bytes()},
                {"digest", rooms->digest},   {"file", file.string()}};
}

static Result<Json> bake_cells(const Subject& s, const Scene& scene, double seconds, std::string& text) {
    auto wanted = wanted_cells(s.open.project, scene, s.setup);
    if (!wanted) return tl::unexpected(wanted.error());
    auto baking = CellBake::begin(scene, s.setup, std::move(*wanted));
    if (!baking) return tl::unexpected(baking.error());
    CellBake& b = **baking;
    if (!b.remark().empty()) std::fprintf(stderr, "mirolux-cli: %s\n", b.remark().c_str());
    const std::size_t before = b.progress().done;
    const bool lively = isatty(STDERR_FILENO);
    bool over = b.progress().done == b.progress().all;
    while (!over && !stopped && (seconds <= 0 || b.progress().seconds < seconds)) {
        const double left = seconds <= 0 ? 500 : std::min(500.0, 1000 * (seconds - b.progress().seconds));
        const auto worked = b.work(left, &stopped);
        if (!worked) return tl::unexpected(worked.error());
        over = *worked;
        const CellBake::Progress p = b.progress();
        if (lively) std::fprintf(stderr, "\r%zu of %zu cells, %.0f s to go   ", p.done, p.all, p.left);
    }
    if (lively) std::fprintf(stderr, "\n");
    if (auto ok = b.keep(); !ok) return tl::unexpected(ok.error());
    const CellBake::Progress p = b.progress();
    const VisibleSets& sets = b.sets();
    const VisibleSets::Count count = sets.count();
    text += fmt::format("{} of {} cells of {} m, {} of them found now in {:.1f} s; {} rays a cell\n"
                        "seen from a cell: {:.1f} of {} objects on the mean, {} at most; {} bytes in {}\n",
                        p.done, p.all, number_text(sets.edge), p.done - before, p.seconds, rays_of_cell(s.setup),
                        count.mean, sets.objects, count.most, sets.bytes(), b.file().string());
    if (!over)
        text +=
            "It was stopped; the same command goes on from here. Where a cell is missing the frustum alone holds.\n";
    return Json{{"digest", sets.digest},
                {"file", b.file().string()},
                {"cells", p.all},
                {"done", p.done},
                {"found", p.done - before},
                {"complete", over},
                {"objects", sets.objects},
                {"meanSeen", count.mean},
                {"mostSeen", count.most},
                {"bytes", sets.bytes()},
                {"raysOfCell", rays_of_cell(s.setup)},
                {"confidence", s.setup.number("visibility.confidence")},
                {"patch", s.setup.number("visibility.patch")},
                {"seconds", p.seconds}};
}

/// What the setup's kind of visibility needs; of another kind, all that there is.
static Result<void> bake_visibility(const Subject& s, const Scene& scene, double seconds, std::string& text,
                                    Json& json) {
    const VisibilityKind kind = visibility_kind(s.setup);
    if (kind != VisibilityKind::portals) {
        auto cells = bake_cells(s, scene, seconds, text);
        if (!cells) return tl::unexpected(cells.error());
        json.update(*cells);
    }
    if (kind == VisibilityKind::portals || (kind != VisibilityKind::cells && !scene.doors.empty())) {
        auto rooms = bake_rooms(scene, s.setup, text);
        if (!rooms) return tl::unexpected(rooms.error());
        json["rooms"] = *rooms;
    }
    return {};
}

/// Works until nothing is left, the user stops it or so many seconds are over (0: never), and keeps what there is;
/// true: nothing is left.
template <class Bake>
static Result<bool> work_through(Bake& b, double seconds, const char* what) {
    const bool lively = isatty(STDERR_FILENO);
    bool over = b.work(0);
    double kept = 0;
    while (!over && !stopped && (seconds <= 0 || b.progress().seconds < seconds)) {
        over = b.work(seconds <= 0 ? 500 : std::clamp(1000 * (seconds - b.progress().seconds), 1.0, 500.0), &stopped);
        const auto p = b.progress();
        if (lively) std::fprintf(stderr, "\r%zu of %zu %s, %.0f s to go   ", p.done, p.all, what, p.left);
        if (p.seconds - kept < 10) continue; // a kill loses no more than that
        if (auto ok = b.keep(); !ok) return tl::unexpected(ok.error());
        kept = p.seconds;
    }
    if (lively) std::fprintf(stderr, "\n");
    if (auto ok = b.keep(); !ok) return tl::unexpected(ok.error());
    return over;
}

static Result<void> bake_light_map(const Subject& s, const Scene& scene, const BakeArguments& a, std::string& text,
                                   Json& json) {
    LightMapOptions o = light_map_options(s.setup); // --density and the like stand before settings
    if (a.density) o.density = *a.density;
    if (a.samples) o.samples = *a.samples;
    if (a.bounces) o.bounces = *a.bounces;
    auto baking = LightMapBake::begin(scene, s.setup, o);
    if (!baking) return tl::unexpected(baking.error());
    LightMapBake& b = **baking;
    if (!b.remark().empty()) std::fprintf(stderr, "mirolux-cli: %s\n", b.remark().c_str());
    const std::size_t before = b.progress().done;
    const auto worked = work_through(b, a.seconds, "texels");
    if (!worked) return tl::unexpected(worked.error());
    const bool over = *worked;
    const LightMapBake::Progress p = b.progress();
    const LightMap map = b.map();
    const LightMapFiles files = light_map_files(scene.bakes, b.digest());
    const std::size_t texels = static_cast<std::size_t>(map.layout.width) * static_cast<std::size_t>(map.layout.height);
    const SeamStep seams = seam_step(map.layers[0].direct, map.layout);
    text += fmt::format(
        "{} x {} texels, {:.0f} % of them on {} surfaces of {:.0f} square metres; {} layouts, stretch {:.2f} "
        "at most\n{} of {} texels, {} of them now in {:.1f} s by {} rays; half floats would take {} bytes "
        "for each of both maps\n{}\n{}\n",
        map.layout.width, map.layout.height, 100 * map.layout.filled(), map.layout.places.size(), map.layout.area,
        map.layout.meshes.size(), map.layout.stretch(), p.done, p.all, p.done - before, p.seconds, p.rays, texels * 6,
        files.direct.string(), files.indirect.string());
    for (const std::string& remark : map.layout.remarks)
        text += "  " + remark + "\n";
    text += fmt::format(
        "{} layers of switched lights; charts meet at {} places, steps there {:.2f} % on the mean before they are "
        "stitched\n",
        map.layers.size() - 1, seams.places, 100 * seams.mean);
    if (!over) text += "It was stopped; the same command goes on from here.\n";
    json.update(Json{{"digest", b.digest()},
                     {"switched", map.layers.size() - 1},
                     {"seams", {{"places", seams.places}, {"mean", seams.mean}}},
                     {"width", map.layout.width},
                     {"height", map.layout.height},
                     {"filled", map.layout.filled()},
                     {"surfaces", map.layout.places.size()},
                     {"area", map.layout.area},
                     {"stretch", map.layout.stretch()},
                     {"density", o.density},
                     {"samples", o.samples},
                     {"texels", p.all},
                     {"done", p.done},
                     {"found", p.done - before},
                     {"complete", over},
                     {"seconds", p.seconds},
                     {"rays", p.rays},
                     {"files", {files.direct.string(), files.indirect.string(), files.index.string()}},
                     {"remarks", map.layout.remarks}});
    return {};
}

static Result<void> bake_probes(const Subject& s, const Scene& scene, const BakeArguments& a, std::string& text,
                                Json& json) {
    ProbeGridOptions o = probe_grid_options(s.setup); // --spacing and the like stand before settings
    if (a.spacing) o.spacing = *a.spacing;
    if (a.samples) o.samples = *a.samples;
    if (a.bounces) o.bounces = *a.bounces;
    auto baking = ProbeGridBake::begin(scene, s.setup, o);
    if (!baking) return tl::unexpected(baking.error());
    ProbeGridBake& b = **baking;
    if (!b.remark().empty()) std::fprintf(stderr, "mirolux-cli: %s\n", b.remark().c_str());
    const std::size_t before = b.progress().done;
    const auto worked = work_through(b, a.seconds, "probes");
    if (!worked) return tl::unexpected(worked.error());
    const bool over = *worked;
    const ProbeGridBake::Progress p = b.progress();
    const ProbeGrid& g = b.grid();
    const auto walled = static_cast<std::size_t>(std::count(g.walled.begin(), g.walled.end(), std::uint8_t(1)));
    text += fmt::format(
        "{} x {} x {} probes, {} m apart, {} of them within something\n{} of {}, {} of them now in {:.1f} s "
        "by {} rays; {} bytes on a device (order 2, seeing)\n{}\n",
        g.count.x, g.count.y, g.count.z, number_text(double(o.spacing)), walled, p.done, p.all, p.done - before,
        p.seconds, p.rays, g.bytes(2, true), b.file().string());
    if (!over) text += "It was stopped; the same command goes on from here.\n";
    json.update(Json{{"file", b.file().string()},
                     {"count", {g.count.x, g.count.y, g.count.z}},
                     {"spacing", o.spacing},
                     {"samples", o.samples},
                     {"probes", p.all},
                     {"walled", walled},
                     {"done", p.done},
                     {"found", p.done - before},
                     {"complete", over},
                     {"seconds", p.seconds},
                     {"rays", p.rays},
                     {"bytes", g.bytes(2, true)}});
    return {};
}

int bake(const Common& c, const BakeArguments& a) {
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const Scene scene = scene_of(s->open);
    const auto interrupted = std::signal(SIGINT, stop), ended = std::signal(SIGTERM, stop);
    std::string text;
    Json json = {{"schema", "mirolux.bake"}, {"version", 1}, {"what", a.what}};
    const auto ok = a.what == "lightmap" ? bake_light_map(*s, scene, a, text, json)
                    : a.what == "probes" ? bake_probes(*s, scene, a, text, json)
                                         : bake_visibility(*s, scene, a.seconds, text, json);
    std::signal(SIGINT, interrupted);
    std::signal(SIGTERM, ended);
    return ok ? deliver(c, text, json) : complain(ok.error(), badInput);
}

int audit_light_map(const Common& c) {
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const Scene scene = scene_of(s->open);
    WorkerClient worker(worker_options(c));
    const bool lively = isatty(STDERR_FILENO);
    const auto table = light_map_table(worker, scene, s->setup, s->view, [&](double share) {
        if (lively) std::fprintf(stderr, "\r%.0f %%   ", 100 * share);
        return true;
    });
    if (lively) std::fprintf(stderr, "\r");
    if (!table) return complain(table.error(), badInput);
    Json rows = Json::array();
    std::string text = "a metre  paths  kind       store        MiB   store off  picture off  highlights kept\n";
    for (const LightMapRow& r : table->rows) {
        text += fmt::format("{:>7}  {:>5}  {:<9}  {:<8}  {:>7.2f}  {:>8.2f} %  {:>9.2f} %  {:>13.1f} %{}\n",
                            number_text(double(r.options.density)), r.options.samples, word(r.kind), word(r.store),
                            static_cast<double>(r.bytes) / (1 << 20), 100 * r.storeError, 100 * r.pictureError,
                            100 * r.highlightKept, r.chosen ? "  as it is set" : "");
        rows.push_back({{"density", r.options.density},
                        {"samples", r.options.samples},
                        {"bounces", r.options.bounces},
                        {"width", r.width},
                        {"height", r.height},
                        {"kind", word(r.kind)},
                        {"store", word(r.store)},
                        {"bytes", r.bytes},
                        {"storeError", r.storeError},
                        {"pictureError", r.pictureError},
                        {"highlightKept", r.highlightKept},
                        {"chosen", r.chosen}});
    }
    text += fmt::format("Live highlights: {:.4f} cd/m2 on the mean. Pictures are held against the densest map in half "
                        "floats with harmonics.\n",
                        table->highlights);
    for (const std::string& remark : table->remarks)
        text += remark + "\n";
    return deliver(c, text,
                   Json{{"schema", "mirolux.auditLightmap"},
                        {"version", 1},
                        {"rows", rows},
                        {"highlights", table->highlights},
                        {"remarks", table->remarks}});
}

int audit_space_probes(const Common& c, int places, int samples) {
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const Scene scene = scene_of(s->open);
    const auto grids = known_grids(scene, s->setup);
    if (grids.empty()) {
        std::string remark;
        (void)probe_grid_of(scene, s->setup, &remark);
        return complain({remark, c.scene, "Compute some: mirolux-cli bake SCENE --what probes."}, badInput);
    }
    Json rows = Json::array();
    std::string text = "apart    probes  order      MiB      off     leak   off, unseeing  leak, unseeing\n";
    for (const auto& grid : grids)
        for (const int order : {2, 1}) {
            const ProbeComparison e = audit_probes(scene, s->setup, *grid, order, places, samples);
            const std::size_t bytes = grid->bytes(order, true);
            text += fmt::format("{:>5} m  {:>7}  {:>5}  {:>7.2f}  {:>6.1f} %  {:>6.2f} %  {:>12.1f} %  {:>12.2f} %\n",
                                number_text(double(grid->options.spacing)), grid->size(), order,
                                static_cast<double>(bytes) / (1 << 20), 100 * e.with.off, 100 * e.with.leak,
                                100 * e.without.off, 100 * e.without.leak);
            const auto of = [](const ProbeErrors& x) {
                return Json{{"off", x.off}, {"leak", x.leak}, {"places", x.places}, {"dark", x.dark}};
            };
            rows.push_back({{"spacing", grid->options.spacing},
                            {"samples", grid->options.samples},
                            {"probes", grid->size()},
                            {"order", order},
                            {"bytes", bytes},
                            {"with", of(e.with)},
                            {"without", of(e.without)}});
        }
    text += "Against paths from places on what stands still; leak: what is given too much where next to no light is.\n";
    return deliver(c, text, Json{{"schema", "mirolux.auditProbes"}, {"version", 1}, {"rows", rows}});
}

} // namespace mirolux::cli
