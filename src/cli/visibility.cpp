#include "cli/commands.h"
#include "core/bake/light_map.h"
#include "core/base/text.h"
#include "core/motion/scene_at.h"
#include "core/visibility/rooms.h"
#include "core/visibility/visibility_audit.h"
#include <csignal>
#include <cstdio>
#include <fmt/format.h>
#include <unistd.h>

namespace mirolux::cli {

namespace {

std::atomic<bool> stopped{false};

/// What is done is kept when the user stops a bake.
void stop(int) {
    stopped = true;
}

const Walk* walk_of(const Project& project, const std::string& name) {
    for (const Walk& w : project.walks)
        if (name.empty() || w.name == name) return &w;
    return nullptr;
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

static Result<void> bake_light_map(const Subject& s, const Scene& scene, const BakeArguments& a, std::string& text,
                                   Json& json) {
    LightMapOptions o;
    o.density = a.density;
    o.samples = a.samples;
    o.bounces = a.bounces;
    auto baking = LightMapBake::begin(scene, s.setup, o);
    if (!baking) return tl::unexpected(baking.error());
    LightMapBake& b = **baking;
    if (!b.remark().empty()) std::fprintf(stderr, "mirolux-cli: %s\n", b.remark().c_str());
    const std::size_t before = b.progress().done;
    const bool lively = isatty(STDERR_FILENO);
    bool over = b.work(0);
    double kept = 0;
    while (!over && !stopped && (a.seconds <= 0 || b.progress().seconds < a.seconds)) {
        over =
            b.work(a.seconds <= 0 ? 500 : std::clamp(1000 * (a.seconds - b.progress().seconds), 1.0, 500.0), &stopped);
        const LightMapBake::Progress p = b.progress();
        if (lively) std::fprintf(stderr, "\r%zu of %zu texels, %.0f s to go   ", p.done, p.all, p.left);
        if (p.seconds - kept < 10) continue; // a kill loses no more than that
        if (auto ok = b.keep(); !ok) return ok;
        kept = p.seconds;
    }
    if (lively) std::fprintf(stderr, "\n");
    if (auto ok = b.keep(); !ok) return ok;
    const LightMapBake::Progress p = b.progress();
    const LightMap map = b.map();
    const LightMapFiles files = light_map_files(scene.bakes, b.digest());
    const std::size_t texels = static_cast<std::size_t>(map.layout.width) * static_cast<std::size_t>(map.layout.height);
    text += fmt::format(
        "{} x {} texels, {:.0f} % of them on {} surfaces of {:.0f} square metres; {} layouts, stretch {:.2f} "
        "at most\n{} of {} texels, {} of them now in {:.1f} s by {} rays; half floats would take {} bytes "
        "for each of both maps\n{}\n{}\n",
        map.layout.width, map.layout.height, 100 * map.layout.filled(), map.layout.places.size(), map.layout.area,
        map.layout.meshes.size(), map.layout.stretch(), p.done, p.all, p.done - before, p.seconds, p.rays, texels * 6,
        files.direct.string(), files.indirect.string());
    for (const std::string& remark : map.layout.remarks)
        text += "  " + remark + "\n";
    if (!over) text += "It was stopped; the same command goes on from here.\n";
    json.update(Json{{"digest", b.digest()},
                     {"width", map.layout.width},
                     {"height", map.layout.height},
                     {"filled", map.layout.filled()},
                     {"surfaces", map.layout.places.size()},
                     {"area", map.layout.area},
                     {"stretch", map.layout.stretch()},
                     {"density", a.density},
                     {"samples", a.samples},
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

int bake(const Common& c, const BakeArguments& a) {
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const Scene scene = scene_of(s->open);
    const auto interrupted = std::signal(SIGINT, stop), ended = std::signal(SIGTERM, stop);
    std::string text;
    Json json = {{"schema", "mirolux.bake"}, {"version", 1}, {"what", a.what}};
    const auto ok = a.what == "lightmap" ? bake_light_map(*s, scene, a, text, json)
                                         : bake_visibility(*s, scene, a.seconds, text, json);
    std::signal(SIGINT, interrupted);
    std::signal(SIGTERM, ended);
    return ok ? deliver(c, text, json) : complain(ok.error(), badInput);
}

/// What one kind has left out, in words and as JSON.
static Json findings(const VisibilityAudit& a, const std::string& kind, const Scene& scene,
                     const std::vector<View>& views, std::string& text) {
    const auto share = [](std::uint64_t part, std::uint64_t whole) {
        return whole ? 100.0 * static_cast<double>(part) / static_cast<double>(whole) : 0.0;
    };
    const double frames = static_cast<double>(std::max<std::uint64_t>(1, a.frames));
    text += fmt::format("{}: a picture draws {:.1f} objects; {:.1f} show, the frustum holds {:.1f} of {}\n"
                        "  missing {} ({:.4f} % of what shows), surplus {} ({:.1f} % of what is drawn)\n",
                        kind, static_cast<double>(a.drawn) / frames, static_cast<double>(a.seen) / frames,
                        static_cast<double>(a.inFrustum) / frames, scene.objects().size(), a.missing,
                        share(a.missing, a.seen), a.surplus, share(a.surplus, a.drawn));
    Json worst = Json::array();
    for (const MissingObject& m : a.worst) {
        const Camera& eye = views[m.view].camera;
        const std::string name = object_name(scene, m.object).id;
        worst.push_back({{"object", name},
                         {"pixels", m.pixels},
                         {"eye", to_array(eye.eye)},
                         {"aim", to_array(eye.aim)},
                         {"seconds", views[m.view].seconds}});
        if (worst.size() <= 8)
            text += fmt::format("    {}: {} pixels from {:.2f},{:.2f},{:.2f} towards {:.2f},{:.2f},{:.2f}\n", name,
                                m.pixels, eye.eye.x, eye.eye.y, eye.eye.z, eye.aim.x, eye.aim.y, eye.aim.z);
    }
    for (const std::string& note : a.notes)
        text += "  " + note + "\n";
    return {{"kind", kind},
            {"frames", a.frames},
            {"objects", scene.objects().size()},
            {"inFrustum", a.inFrustum},
            {"drawn", a.drawn},
            {"seen", a.seen},
            {"missing", a.missing},
            {"missingPixels", a.most_pixels()},
            {"surplus", a.surplus},
            {"worst", worst},
            {"notes", a.notes}};
}

int audit_visibility(const Common& c, const VisibilityArguments& a) {
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    std::vector<View> views{s->view};
    if (a.along) {
        const Walk* walk = walk_of(s->open.project, a.walk);
        if (!walk)
            return complain({a.walk.empty() ? "the project has no walk" : "there is no walk named \"" + a.walk + "\"",
                             c.scene, "Record one in the window, or leave --along out."},
                            badInput);
        views = views_along(*walk, s->view, a.every, a.headings);
    }
    std::vector<Setup> setups(std::max<std::size_t>(1, a.kinds.size()), s->setup);
    for (std::size_t i = 0; i < a.kinds.size(); ++i)
        if (auto ok = setups[i].set_text("visibility.kind", a.kinds[i]); !ok) return complain(ok.error(), badInput);
    WorkerClient worker(worker_options(c));
    const bool lively = isatty(STDERR_FILENO);
    const Scene scene = scene_of(s->open);
    const auto audits = audit_visibility(
        worker, scene, setups, views, [&](std::size_t done, const std::vector<VisibilityAudit>& sofar) {
            if (lively)
                std::fprintf(stderr, "\rview %zu of %zu, %llu missing ", done, views.size(),
                             static_cast<unsigned long long>(sofar.front().missing));
            return true;
        });
    if (lively) std::fprintf(stderr, "\n");
    if (!audits) return complain(audits.error(), deviceFailed);
    std::string text = fmt::format("{} pictures of {}x{}\n", views.size(), s->view.width, s->view.height);
    Json list = Json::array();
    bool missing = false;
    for (std::size_t i = 0; i < setups.size(); ++i) {
        list.push_back(findings((*audits)[i], setups[i].choice("visibility.kind"), scene, views, text));
        missing = missing || (*audits)[i].missing > 0;
    }
    Json json = {{"schema", "mirolux.auditVisibility"}, {"version", 1}, {"size", {s->view.width, s->view.height}}};
    json.update(list.front());
    if (!a.kinds.empty()) json["audits"] = list;
    const int code = deliver(c, text, json);
    return code == done && missing ? gateMissed : code;
}

} // namespace mirolux::cli
