#include "core/bake/baked_light.h"
#include "core/bake/probe_grid_parts.h"
#include "core/base/recent.h"
#include "core/base/text.h"
#include "core/visibility/baked_file.h"
#include "core/visibility/visibility.h"
#include <cstring>
#include <fmt/format.h>

// Where probes in space stand, and their files.
namespace mirolux {

namespace {

constexpr const char* grid_schema = "mirolux.probeGrid";
constexpr int grid_version = 2;

} // namespace

std::string grid_scene_digest(const Scene& scene, const Setup& setup) {
    return still_light_digest(scene, setup, false);
}

namespace {

/// What a grid fills.
Box box_of_grid(const Scene& scene, const Setup& setup, const ProbeGridOptions& o) {
    Box box;
    if (!o.within.empty()) {
        for (const int i : objects_named(scene, o.within))
            box.add(scene.objects()[static_cast<std::size_t>(i)].bounds);
        return box;
    }
    const Stillness stillness = stillness_of(scene, setup);
    for (std::size_t i = 0; i < scene.objects().size(); ++i) {
        const Object& object = scene.objects()[i];
        if (stillness.still[i] && !object.hidden && !object.proxy && object.casts != Casting::unseen)
            box.add(object.bounds);
    }
    return box;
}
/// The middles of the objects that options name.
std::vector<glm::vec3> middles(const Scene& scene, const ProbeGridOptions& o) {
    std::vector<glm::vec3> out;
    for (const int i : objects_named(scene, o.at))
        out.push_back(scene.objects()[static_cast<std::size_t>(i)].bounds.center());
    return out;
}

} // namespace

Result<void> place_probes(ProbeGrid& g, const Scene& scene, const Setup& setup) {
    const ProbeGridOptions& o = g.options;
    const auto unnamed = [](const std::string& name, const char* key, const char* otherwise) {
        return fail("no object of the scene is called \"" + name + "\"", key,
                    std::string("Name one, or leave it empty for ") + otherwise + ".");
    };
    if (!o.at.empty()) {
        g.placed = middles(scene, o);
        if (g.placed.empty()) return unnamed(o.at, "grid.at", "a grid");
        if (g.placed.size() > most_probes_by_hand)
            return fail(fmt::format("that would be {} probes placed by hand, more than {}", g.placed.size(),
                                    most_probes_by_hand),
                        "grid.at", "Name fewer objects, or take a grid.");
        g.count = {static_cast<int>(g.placed.size()), 1, 1};
        return {};
    }
    const Box box = box_of_grid(scene, setup, o);
    if (box.empty() && !o.within.empty()) return unnamed(o.within, "grid.within", "all that stands still");
    if (box.empty())
        return fail("nothing that light bounces off stands still", "probes",
                    "Mark objects as still at the objects' bench.");
    const glm::dvec3 steps = glm::ceil(glm::dvec3(box.size()) / double(o.spacing)) + 1.0;
    if (steps.x * steps.y * steps.z > double(most_probes_of_grid))
        return fail(fmt::format("that would be {} x {} x {} probes, more than {}", steps.x, steps.y, steps.z,
                                most_probes_of_grid),
                    "grid.spacing", "Set them farther apart, or fill less (grid.within).");
    g.count = glm::ivec3(steps); // half a spacing of room on all sides
    g.low = box.center() - 0.5f * o.spacing * glm::vec3(g.count - 1);
    return {};
}

std::string probe_grid_digest(const Scene& scene, const Setup& setup, const ProbeGridOptions& o) {
    Digest d;
    std::string text =
        grid_scene_digest(scene, setup) + fmt::format("|probes {} {} {}", o.spacing, o.samples, o.bounces);
    if (!o.at.empty())
        for (const glm::vec3& p : middles(scene, o))
            text += fmt::format("|{} {} {}", p.x, p.y, p.z);
    else if (!o.within.empty()) {
        const Box box = box_of_grid(scene, setup, o);
        text += fmt::format("|{} {} {} {} {} {}", box.low.x, box.low.y, box.low.z, box.high.x, box.high.y, box.high.z);
    }
    d.add(text.data(), text.size());
    return d.hex();
}

std::filesystem::path probe_grid_file(const std::filesystem::path& bakes, const std::string& digest) {
    return bakes / ("probes-" + digest + ".cbor");
}

Result<void> write_probe_grid(const ProbeGrid& g, const std::filesystem::path& file) {
    const auto bytes = [](const auto& list) {
        std::vector<std::uint8_t> out(list.size() * sizeof(list[0]));
        if (!out.empty()) std::memcpy(out.data(), list.data(), out.size());
        return nlohmann::json::binary(std::move(out));
    };
    return write_document({{"schema", grid_schema},
                           {"version", grid_version},
                           {"scene", g.scene},
                           {"spacing", g.options.spacing},
                           {"samples", g.options.samples},
                           {"bounces", g.options.bounces},
                           {"low", {g.low.x, g.low.y, g.low.z}},
                           {"count", {g.count.x, g.count.y, g.count.z}},
                           {"placed", bytes(g.placed)},
                           {"done", g.done},
                           {"seconds", g.seconds},
                           {"light", bytes(g.light)},
                           {"walled", bytes(g.walled)},
                           {"distances", bytes(g.distances)}},
                          file);
}

Result<ProbeGrid> read_probe_grid(const std::filesystem::path& file) {
    const auto document = read_document(file, grid_schema, grid_version, "probes in space");
    if (!document) return tl::unexpected(document.error());
    const auto broken = [&](const std::string& what) {
        return fail("the file of probes is damaged: " + what, file.string(), "Compute the probes again.");
    };
    try {
        const nlohmann::json& j = *document;
        ProbeGrid g;
        g.scene = j.at("scene").get<std::string>();
        g.options = {j.at("spacing").get<float>(), j.at("samples").get<int>(), j.at("bounces").get<int>()};
        for (int k = 0; k < 3; ++k) {
            g.low[k] = j.at("low").at(static_cast<std::size_t>(k)).get<float>();
            g.count[k] = j.at("count").at(static_cast<std::size_t>(k)).get<int>();
            if (g.count[k] < 1 || g.count[k] > static_cast<int>(most_probes_of_grid)) return broken("its size");
        }
        const nlohmann::json::binary_t& placed = j.at("placed").get_binary();
        g.placed.resize(placed.size() / sizeof(glm::vec3));
        if (!g.placed.empty() && (g.placed.size() != g.size() || placed.size() != g.size() * sizeof(glm::vec3)))
            return broken("fewer places than probes");
        std::memcpy(g.placed.data(), placed.data(), g.placed.size() * sizeof(glm::vec3));
        g.done = j.at("done").get<std::size_t>();
        g.seconds = j.at("seconds").get<double>();
        if (g.size() > most_probes_of_grid || g.done > g.size() || !(g.options.spacing > 0)) return broken("its size");
        const auto take = [&](const char* name, auto& list) {
            const nlohmann::json::binary_t& bytes = j.at(name).get_binary();
            list.resize(g.size());
            if (bytes.size() != list.size() * sizeof(list[0])) return false;
            std::memcpy(list.data(), bytes.data(), bytes.size());
            return true;
        };
        if (!take("light", g.light) || !take("walled", g.walled) || !take("distances", g.distances))
            return broken("fewer numbers than probes");
        for (const auto& light : g.light)
            for (const glm::vec3& c : light)
                if (!std::isfinite(c.x) || !std::isfinite(c.y) || !std::isfinite(c.z))
                    return broken("light without a number");
        return g;
    } catch (const nlohmann::json::exception& e) {
        return broken(e.what());
    }
}

namespace {

/// Files of grids in a folder, and whose they are; asked again when the folder changes.
struct GridQuestion {
    std::string bakes, scene;
    std::filesystem::file_time_type folder{};
    bool operator==(const GridQuestion&) const = default;
};
struct GridFiles {
    std::vector<std::shared_ptr<const ProbeGrid>> complete; // the finest first
    bool stale = false, under = false;
    std::string trouble;
};
std::shared_ptr<const GridFiles> grids_for(const Scene& asked, const Setup& setup) {
    static Recent<GridQuestion, GridFiles> kept(3);
    const Scene scene = at_no_time(asked);
    std::error_code e;
    GridQuestion q{scene.bakes, {}, {}};
    if (!scene.bakes.empty()) {
        q.scene = grid_scene_digest(scene, setup);
        q.folder = std::filesystem::last_write_time(scene.bakes, e);
    }
    return kept.of(q, [](const GridQuestion& question) {
        GridFiles out;
        std::error_code error;
        if (question.bakes.empty()) return out;
        for (const auto& entry : std::filesystem::directory_iterator(question.bakes, error)) {
            const std::string name = entry.path().filename().string();
            if (!name.starts_with("probes-") || !name.ends_with(".cbor")) continue;
            auto grid = read_probe_grid(entry.path());
            if (!grid) {
                out.trouble = to_text(grid.error());
                continue;
            }
            if (grid->scene != question.scene)
                out.stale = true;
            else if (grid->done < grid->size())
                out.under = true;
            else
                out.complete.push_back(std::make_shared<const ProbeGrid>(std::move(*grid)));
        }
        std::sort(out.complete.begin(), out.complete.end(), [](const auto& a, const auto& b) {
            return a->options.spacing != b->options.spacing ? a->options.spacing < b->options.spacing
                                                            : a->options.samples > b->options.samples;
        });
        return out;
    });
}

} // namespace

std::vector<std::shared_ptr<const ProbeGrid>> known_grids(const Scene& scene, const Setup& setup) {
    return grids_for(scene, setup)->complete;
}

std::shared_ptr<const ProbeGrid> probe_grid_of(const Scene& scene, const Setup& setup, std::string* remark) {
    const auto say = [&](const std::string& text) -> std::shared_ptr<const ProbeGrid> {
        if (remark) *remark = text;
        return nullptr;
    };
    if (remark) remark->clear();
    if (scene.bakes.empty()) return say("Probes in space are kept beside a project: save it, then compute them.");
    const auto files = grids_for(scene, setup);
    const ProbeGridOptions wanted = probe_grid_options(setup);
    ProbeGrid placed;
    placed.options = wanted;
    if (place_probes(placed, scene, setup))
        for (const auto& grid : files->complete)
            if (grid->options.spacing == wanted.spacing && grid->count == placed.count && grid->low == placed.low &&
                grid->placed == placed.placed)
                return grid;
    const std::string stale = "The probes in space are stale: what stands still, a light or the sky has changed since. "
                              "Ambient light stands in for them; compute them again.";
    if (files->complete.empty() && !files->under && files->trouble.empty() && files->stale) return say(stale);
    if (!wanted.at.empty())
        return say("The probes placed by hand (\"" + wanted.at +
                   "\") were not computed where they stand: ambient light stands in for them.");
    if (!wanted.within.empty())
        return say("No probes in space were computed within \"" + wanted.within +
                   "\" yet: ambient light stands in for them.");
    for (const auto& grid : files->complete)
        if (grid->placed.empty()) {
            if (remark)
                *remark =
                    fmt::format("The probes in use stand {} m apart: they were computed so.", grid->options.spacing);
            return grid;
        }
    return say(!files->trouble.empty() ? files->trouble
               : files->under ? "The probes in space are not computed to their end: ambient light stands in for them."
               : files->stale ? stale
                              : "No probes in space were computed yet: ambient light stands in for them.");
}

} // namespace mirolux
