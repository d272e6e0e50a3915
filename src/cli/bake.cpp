#include "cli/commands.h"
#include "core/bake/light_map_table.h"
#include "core/bake/map_finish.h"
#include "core/bake/patch_bake.h"
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
/// true: nothing is left. Adds what every bake says of itself.
static Result<bool> work_through(Bake& b, double seconds, Json& json) {
    if (!b.remark().empty()) std::fprintf(stderr, "mirolux-cli: %s\n", b.remark().c_str());
    const std::size_t before = b.progress().done;
    const bool lively = isatty(STDERR_FILENO);
    bool over = b.work(0);
    double kept = 0;
    while (!over && !stopped && (seconds <= 0 || b.progress().seconds < seconds)) {
        over = b.work(seconds <= 0 ? 500 : std::clamp(1000 * (seconds - b.progress().seconds), 1.0, 500.0), &stopped);
        const auto p = b.progress();
        if (lively) std::fprintf(stderr, "\r%zu of %zu %s, %.0f s to go   ", p.done, p.all, b.places(), p.left);
        if (p.seconds - kept < 10) continue; // a kill loses no more than that
        if (auto ok = b.keep(); !ok) return tl::unexpected(ok.error());
        kept = p.seconds;
    }
    if (lively) std::fprintf(stderr, "\n");
    if (auto ok = b.keep(); !ok) return tl::unexpected(ok.error());
    const BakeProgress p = b.progress();
    json.update(Json{{b.places(), p.all},
                     {"done", p.done},
                     {"found", p.done - before},
                     {"complete", over},
                     {"seconds", p.seconds},
                     {"rays", p.rays}});
    return over;
}
/// "600 of 600 texels, 20 of them now in 1.2 s by 3000 rays"
static std::string words_of(const Json& json, const char* places) {
    return fmt::format("{} of {} {}, {} of them now in {:.1f} s by {} rays{}\n", json["done"].get<std::size_t>(),
                       json[places].get<std::size_t>(), places, json["found"].get<std::size_t>(),
                       json["seconds"].get<double>(), json["rays"].get<std::uint64_t>(),
                       json["complete"].get<bool>() ? "" : ". It was stopped; the same command goes on from here");
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
    if (const auto worked = work_through(b, a.seconds, json); !worked) return tl::unexpected(worked.error());
    const LightMap map = b.map();
    const LightMapFiles files = light_map_files(scene.bakes, b.digest());
    const std::size_t texels = static_cast<std::size_t>(map.layout.width) * static_cast<std::size_t>(map.layout.height);
    FloatImage stitched = map.layers[0].direct;
    const SeamStep seams = seam_step(stitched, map.layout);
    stitch(stitched, map.layout);
    const SeamStep after = seam_step(stitched, map.layout);
    text += fmt::format("{} x {} texels, {:.0f} % of them on {} surfaces of {:.0f} square metres; {} layouts, stretch "
                        "{:.2f} at most\n",
                        map.layout.width, map.layout.height, 100 * map.layout.filled(), map.layout.places.size(),
                        map.layout.area, map.layout.meshes.size(), map.layout.stretch()) +
            words_of(json, b.places()) +
            fmt::format("half floats would take {} bytes for each of both maps\n{}\n{}\n", texels * 6,
                        files.direct.string(), files.indirect.string());
    for (const std::string& remark : map.layout.remarks)
        text += "  " + remark + "\n";
    text +=
        fmt::format("{} layers of switched lights; charts meet at {} places, steps there {:.2f} % on the mean before "
                    "they are stitched, {:.2f} % after\n",
                    map.layers.size() - 1, seams.places, 100 * seams.mean, 100 * after.mean);
    json.update(Json{{"digest", b.digest()},
                     {"switched", map.layers.size() - 1},
                     {"seams", {{"places", seams.places}, {"mean", seams.mean}, {"stitched", after.mean}}},
                     {"width", map.layout.width},
                     {"height", map.layout.height},
                     {"filled", map.layout.filled()},
                     {"surfaces", map.layout.places.size()},
                     {"area", map.layout.area},
                     {"stretch", map.layout.stretch()},
                     {"density", o.density},
                     {"samples", o.samples},
                     {"files", {files.direct.string(), files.indirect.string(), files.index.string()}},
                     {"remarks", map.layout.remarks}});
    return {};
}

static Result<void> bake_patches(const Subject& s, const Scene& scene, const BakeArguments& a, std::string& text,
                                 Json& json) {
    Setup setup = s.setup;
    (void)setup.set_text("lightmap.source", "patches");
    LightMapOptions o = light_map_options(setup);
    if (a.density) o.density = *a.density;
    if (a.samples) o.samples = *a.samples;
    auto baking = PatchBake::begin(scene, setup, o, setup.number("patches.rest") / 100);
    if (!baking) return tl::unexpected(baking.error());
    PatchBake& b = **baking;
    if (const auto worked = work_through(b, a.seconds, json); !worked) return tl::unexpected(worked.error());
    const auto count = static_cast<std::size_t>(
        std::count_if(b.patches().begin(), b.patches().end(), [](const Patch& p) { return p.area > 0; }));
    const PatchShot& last = b.last();
    const auto index = light_map_files(scene.bakes, b.digest()).index;
    text += fmt::format("{} patches, {} shots of {} rays in {:.1f} s; {:.2f} % of the light is left\n{}\n", count,
                        last.number, o.samples, b.progress().seconds, 100 * last.unshot, index.string());
    if (!json["complete"].get<bool>()) text += "It was stopped; the same command goes on from here.\n";
    json.update(Json{{"patches", count},
                     {"shots", last.number},
                     {"unshot", last.unshot},
                     {"density", o.density},
                     {"samples", o.samples},
                     {"file", index.string()}});
    return {};
}

static Result<void> bake_masks(const Subject& s, const Scene& scene, const BakeArguments& a, std::string& text,
                               Json& json) {
    MaskOptions o = mask_options(s.setup);
    if (a.density) o.density = *a.density;
    if (a.samples) o.samples = *a.samples;
    auto baking = MaskBake::begin(scene, s.setup, o);
    if (!baking) return tl::unexpected(baking.error());
    MaskBake& b = **baking;
    if (const auto worked = work_through(b, a.seconds, json); !worked) return tl::unexpected(worked.error());
    const BakedMasks& m = b.masks();
    const auto left = std::count_if(m.lamps.begin(), m.lamps.end(), [](const auto& l) { return l.channel < 0; });
    text += fmt::format("{} x {} texels of {} lamps in {} sheets of four channels; {} bytes on a device\n", m.width,
                        m.height, m.lamps.size(), m.sheets.size(), m.bytes()) +
            words_of(json, b.places()) + m.index.string() + "\n";
    if (left > 0) text += fmt::format("  {} lamps found no channel left: their shadows stay live\n", left);
    Json lamps = Json::array();
    for (const BakedMasks::Lamp& l : m.lamps)
        lamps.push_back({{"light", l.light}, {"channel", l.channel}});
    json.update(Json{{"file", m.index.string()},
                     {"width", m.width},
                     {"height", m.height},
                     {"density", o.density},
                     {"samples", o.samples},
                     {"sheets", m.sheets.size()},
                     {"lamps", lamps},
                     {"withoutChannel", left},
                     {"bytes", m.bytes()}});
    return {};
}

static Result<void> bake_occlusion(const Subject& s, const Scene& scene, const BakeArguments& a, std::string& text,
                                   Json& json) {
    OcclusionOptions o = occlusion_options(s.setup);
    if (a.density) o.density = *a.density;
    if (a.samples) o.samples = *a.samples;
    auto baking = OcclusionBake::begin(scene, s.setup, o);
    if (!baking) return tl::unexpected(baking.error());
    OcclusionBake& b = **baking;
    if (const auto worked = work_through(b, a.seconds, json); !worked) return tl::unexpected(worked.error());
    const BakedOcclusion found = b.occlusion();
    text +=
        words_of(json, b.places()) + fmt::format("{} bytes on a device; {}\n", found.open.size(), found.index.string());
    json.update(Json{{"file", found.index.string()},
                     {"of", b.places()},
                     {"reach", o.reach},
                     {"density", o.density},
                     {"samples", o.samples},
                     {"width", found.width},
                     {"height", found.height},
                     {"bytes", found.open.size()}});
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
    if (const auto worked = work_through(b, a.seconds, json); !worked) return tl::unexpected(worked.error());
    const ProbeGrid& g = b.grid();
    const auto walled = static_cast<std::size_t>(std::count(g.walled.begin(), g.walled.end(), std::uint8_t(1)));
    const std::string where = g.placed.empty() ? fmt::format("{} x {} x {} probes, {} m apart", g.count.x, g.count.y,
                                                             g.count.z, number_text(double(o.spacing)))
                                               : fmt::format("{} probes placed by hand, which shine {} m", g.size(),
                                                             number_text(double(g.reach())));
    text += fmt::format("{}, {} of them within something\n", where, walled) + words_of(json, b.places()) +
            fmt::format("{} bytes on a device (order 2, seeing)\n{}\n", g.bytes(2, true), b.file().string());
    json.update(Json{{"file", b.file().string()},
                     {"count", {g.count.x, g.count.y, g.count.z}},
                     {"spacing", o.spacing},
                     {"placed", !g.placed.empty()},
                     {"samples", o.samples},
                     {"walled", walled},
                     {"bytes", g.bytes(2, true)}});
    return {};
}

int bake(const Common& c, const BakeArguments& a) {
    auto s = solid_subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    const Scene scene = scene_of(s->open);
    const auto interrupted = std::signal(SIGINT, stop), ended = std::signal(SIGTERM, stop);
    std::string text;
    Json json = {{"schema", "mirolux.bake"}, {"version", 1}, {"what", a.what}};
    const auto ok = a.what == "lightmap"     ? bake_light_map(*s, scene, a, text, json)
                    : a.what == "shadowmask" ? bake_masks(*s, scene, a, text, json)
                    : a.what == "occlusion"  ? bake_occlusion(*s, scene, a, text, json)
                    : a.what == "patches"    ? bake_patches(*s, scene, a, text, json)
                    : a.what == "probes"     ? bake_probes(*s, scene, a, text, json)
                                             : bake_visibility(*s, scene, a.seconds, text, json);
    std::signal(SIGINT, interrupted);
    std::signal(SIGTERM, ended);
    return ok ? deliver(c, text, json) : complain(ok.error(), badInput);
}

int audit_light_map(const Common& c, int reference) {
    auto s = solid_subject_of(c, reference > 0);
    if (!s) return complain(s.error(), badInput);
    const Scene scene = scene_of(s->open);
    WorkerClient worker(worker_options(c));
    const bool lively = isatty(STDERR_FILENO);
    const auto table = light_map_table(
        worker, scene, s->setup, s->view,
        [&](double share) {
            if (lively) std::fprintf(stderr, "\r%.0f %%   ", 100 * share);
            return true;
        },
        reference);
    if (lively) std::fprintf(stderr, "\r");
    if (!table) return complain(table.error(), badInput);
    Json rows = Json::array();
    std::string text = "a metre  paths  kind       store        MiB   store off  picture off  highlights kept";
    text += reference > 0 ? "  off live  in squares     bias\n" : "\n";
    for (const LightMapRow& r : table->rows) {
        text += fmt::format("{:>7}  {:>5}  {:<9}  {:<8}  {:>7.2f}  {:>8.2f} %  {:>9.2f} %  {:>13.1f} %{}{}\n",
                            number_text(double(r.options.density)), r.options.samples, word(r.kind), word(r.store),
                            static_cast<double>(r.bytes) / (1 << 20), 100 * r.storeError, 100 * r.pictureError,
                            100 * r.highlightKept,
                            r.live ? fmt::format("  {:>6.2f} %  {:>8.2f} %  {:>5.2f} %", 100 * r.live->mean,
                                                 100 * r.live->coarse, 100 * r.live->bias)
                                   : "",
                            r.chosen ? "  as it is set" : "");
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
        if (r.live) rows.back()["live"] = {{"mean", r.live->mean}, {"coarse", r.live->coarse}, {"bias", r.live->bias}};
    }
    text += fmt::format("Live highlights: {:.4f} cd/m2 on the mean. Pictures are held against the densest map in half "
                        "floats with harmonics.\n",
                        table->highlights);
    if (reference > 0)
        text +=
            fmt::format("Live: straight light with the setup's shadows and bounced light of {} paths a pixel, whose "
                        "standard error is {:.2f} % of all light. In squares: of six pixels.\n",
                        reference, 100 * table->referenceNoise);
    for (const std::string& remark : table->remarks)
        text += remark + "\n";
    return deliver(c, text,
                   Json{{"schema", "mirolux.auditLightmap"},
                        {"version", 1},
                        {"rows", rows},
                        {"highlights", table->highlights},
                        {"reference", reference},
                        {"referenceNoise", table->referenceNoise},
                        {"remarks", table->remarks}});
}

int audit_space_probes(const Common& c, int places, int samples) {
    auto s = solid_subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    const Scene scene = scene_of(s->open);
    const auto grids = known_grids(scene, s->setup);
    if (grids.empty()) {
        std::string remark;
        (void)probe_grid_of(scene, s->setup, &remark);
        return complain({remark, c.scene, "Compute some: mirolux-cli bake SCENE --what probes."}, badInput);
    }
    Json rows = Json::array();
    std::string text = "apart        probes  order      MiB      off     leak   off, unseeing  leak, unseeing\n";
    for (const auto& grid : grids)
        for (const int order : {2, 1}) {
            const ProbeComparison e = audit_probes(scene, s->setup, *grid, order, places, samples);
            const std::size_t bytes = grid->bytes(order, true);
            text +=
                fmt::format("{:>5} m{:<9}{:>5}  {:>5}  {:>7.2f}  {:>6.1f} %  {:>6.2f} %  {:>12.1f} %  {:>12.2f} %\n",
                            number_text(double(grid->options.spacing)), grid->placed.empty() ? "" : " by hand",
                            grid->size(), order, static_cast<double>(bytes) / (1 << 20), 100 * e.with.off,
                            100 * e.with.leak, 100 * e.without.off, 100 * e.without.leak);
            const auto of = [](const ProbeErrors& x) {
                return Json{{"off", x.off}, {"leak", x.leak}, {"places", x.places}, {"dark", x.dark}};
            };
            rows.push_back({{"spacing", grid->options.spacing},
                            {"placed", !grid->placed.empty()},
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
