#include "core/ambient/probes.h"
#include "cli/commands.h"
#include "core/base/text.h"
#include "core/io/wire.h"
#include <algorithm>
#include <chrono>
#include <fmt/format.h>

namespace mirolux::cli {

namespace {

/// Every probe of a project, or the named one.
Result<std::vector<std::size_t>> chosen_probes(const Project& project, const std::string& name) {
    std::vector<std::size_t> out;
    std::vector<std::string> names;
    for (std::size_t i = 0; i < project.probes.size(); ++i) {
        names.push_back(project.probes[i].name);
        if (name.empty() || name == names.back()) out.push_back(i);
    }
    if (!name.empty() && out.empty())
        return fail("there is no probe of this name", name,
                    names.empty() ? "The project has none." : "It has: " + joined(names) + ".");
    return out;
}

std::string words_of(const glm::vec3& v) {
    return number_text(v.x, 4) + ", " + number_text(v.y, 4) + ", " + number_text(v.z, 4);
}

std::string standing(const Probe& p, const std::string& now) {
    return p.file.empty() ? "not captured" : p.captured == now ? "captured" : "captured in other light";
}

} // namespace

int list_probes(const Common& c, const ProbesArguments& a) {
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const Scene scene = scene_of(s->open);
    const auto chosen = chosen_probes(s->open.project, a.probe);
    if (!chosen) return complain(chosen.error(), badInput);
    const RayScene rays(scene);
    WorkerClient worker(worker_options(c));
    const int size = std::stoi(s->setup.choice("probe.size"));
    Json list = Json::array();
    std::string text;
    for (const std::size_t i : *chosen) {
        const Probe& p = scene.probes[i];
        const std::string now = capture_digest(scene, s->setup, s->view, p), trouble = probe_trouble(rays, p);
        Json j = to_json(p);
        j["standing"] = standing(p, now);
        j["insideWall"] = !trouble.empty();
        text += fmt::format("{:<20} at {}, box {} m, {}{}\n", p.name, words_of(p.position), words_of(p.size),
                            standing(p, now), p.enabled ? "" : ", off");
        if (!trouble.empty()) text += "  " + trouble + "\n";
        if (!p.file.empty()) {
            if (const auto light = read_probe(p.file, size)) {
                j["meanLuminance"] = (*light)->mean;
                text += fmt::format("  {}: mean {} cd/m2 over all directions{}\n", p.file,
                                    number_text((*light)->mean, 3), (*light)->mean > 0 ? "" : "; it is black");
            } else {
                j["trouble"] = to_text(light.error());
                text += "  " + to_text(light.error()) + "\n";
            }
        }
        if (a.cost) { // one of six views, taken twice: the first one also loads and compiles
            const auto ms = view_cost(worker, scene, s->setup, s->view, p);
            if (!ms) return complain(ms.error(), deviceFailed);
            j["captureMs"] = 6 * *ms;
            text += fmt::format("  a capture takes about {:.0f} ms: six views of {}x{}, one of which took {:.0f} ms\n",
                                6 * *ms, size, size, *ms);
        }
        list.push_back(std::move(j));
    }
    if (text.empty()) text = "the project has no probes\n";
    return deliver(c, text, {{"schema", "mirolux.probes"}, {"version", 1}, {"size", size}, {"probes", list}});
}

int capture_probes(const Common& c, const ProbesArguments& a) {
    auto s = solid_subject_of(c);
    if (!s) return complain(s.error(), badInput);
    const std::filesystem::path project = s->open.project.path;
    if (project.empty())
        return complain({"a scene file keeps no probes", c.scene, "Save it as a project and place some."}, badInput);
    const Scene scene = scene_of(s->open);
    const auto chosen = chosen_probes(s->open.project, a.probe);
    if (!chosen) return complain(chosen.error(), badInput);
    if (chosen->empty())
        return complain({"the project has no probes", c.scene, "Place some at the Ambient station."}, badInput);
    const RayScene rays(scene);
    WorkerClient worker(worker_options(c));
    // What is written back is the project as it was kept, whatever else was asked for on the command line.
    auto kept = open_project(project, {.decodeImages = false});
    if (!kept) return complain(kept.error(), badInput);
    Json list = Json::array();
    std::string text;
    for (const std::size_t i : *chosen) {
        const Probe& p = scene.probes[i];
        const auto start = std::chrono::steady_clock::now();
        const auto faces = capture(worker, scene, s->setup, s->view, p);
        if (!faces) return complain(faces.error(), deviceFailed);
        const double ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
        const std::filesystem::path file = probe_file(project, p);
        if (auto ok = write_probe(file, *faces); !ok) return complain(ok.error(), badInput);
        const double mean = probe_light(*faces).mean;
        const std::string trouble = probe_trouble(rays, p);
        Probe& to = kept->project.probes[i];
        to.file = file.string();
        to.captured = capture_digest(scene, s->setup, s->view, p);
        list.push_back({{"name", p.name},
                        {"file", file.string()},
                        {"ms", ms},
                        {"size", faces->width},
                        {"meanLuminance", mean},
                        {"insideWall", !trouble.empty()}});
        text += fmt::format("{}: six views of {}x{} in {:.0f} ms, mean {} cd/m2: {}\n", p.name, faces->width,
                            faces->width, ms, number_text(mean, 3), file.string());
        if (!trouble.empty()) text += "  " + trouble + "\n";
        if (mean <= 0) text += "  Its capture is black: no light reaches this place, or it stands within something.\n";
    }
    if (auto ok = save_project(kept->project, *kept->asset, project); !ok) return complain(ok.error(), badInput);
    return deliver(c, text, {{"schema", "mirolux.probes"}, {"version", 1}, {"probes", list}});
}

} // namespace mirolux::cli
