#include "core/bake/probe_grid.h"
#include "core/ambient/probe_capture.h"
#include "core/bake/baked_light.h"
#include "core/bake/texel_work.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/light/luminance.h"
#include "core/sky/sky_model.h"
#include "core/truth/path_tracer.h"
#include "core/visibility/baked_file.h"
#include <chrono>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <random>

namespace mirolux {

namespace {

constexpr const char* grid_schema = "mirolux.probeGrid";
constexpr int grid_version = 1;
constexpr std::size_t most_probes_of_grid = 200000;
constexpr int distance_ways = 1024; // rays of a probe for its distances
constexpr double least_seen = 1e-4; // weight that an unseen probe keeps, so that there is an answer at all

glm::dvec3 spiral(int i, int all) {
    const double y = 1 - (2 * i + 1.0) / all, r = std::sqrt(std::max(0.0, 1 - y * y)), turn = i * 2.399963229728653;
    return {r * std::cos(turn), y, r * std::sin(turn)};
}

/// Real harmonics of orders 0 to 2, as harmonic_radiance has them.
std::array<double, 9> harmonics_at(const glm::dvec3& n) {
    return {0.282095,
            0.488603 * n.y,
            0.488603 * n.z,
            0.488603 * n.x,
            1.092548 * n.x * n.y,
            1.092548 * n.y * n.z,
            0.315392 * (3 * n.z * n.z - 1),
            1.092548 * n.x * n.z,
            0.546274 * (n.x * n.x - n.y * n.y)};
}
/// What a cosine leaves of each order, over pi.
constexpr double cosine_share[9] = {1, 2.0 / 3, 2.0 / 3, 2.0 / 3, 0.25, 0.25, 0.25, 0.25, 0.25};

double mirrored_sign(double v) {
    return v >= 0 ? 1 : -1;
}

/// Mean distance and mean square toward a direction, between four texels; over the edge the octahedron folds.
glm::dvec2 distances_toward(const std::array<glm::vec2, ProbeGrid::side * ProbeGrid::side>& map,
                            const glm::dvec3& direction) {
    constexpr int side = ProbeGrid::side;
    const glm::dvec2 at = octahedral(direction) * double(side) - 0.5, low = glm::floor(at), f = at - low;
    glm::dvec2 sum(0.0);
    for (int k = 0; k < 4; ++k) {
        const glm::ivec2 t = folded_texel(glm::ivec2(low) + glm::ivec2(k % 2, k / 2), side);
        sum += (k % 2 ? f.x : 1 - f.x) * (k / 2 ? f.y : 1 - f.y) *
               glm::dvec2(map[static_cast<std::size_t>(t.y * side + t.x)]);
    }
    return sum;
}

} // namespace

ProbeGridOptions probe_grid_options(const Setup& setup) {
    return {static_cast<float>(setup.number("grid.spacing")), setup.whole("grid.paths"), setup.whole("grid.bounces"),
            setup.choice("grid.within")};
}
ProbeReading probe_reading(const Setup& setup) {
    return {setup.choice("grid.order") == "1" ? 1 : 2, setup.flag("grid.visibility")};
}

glm::dvec2 octahedral(const glm::dvec3& d) {
    glm::dvec2 p = glm::dvec2(d.x, d.y) / (std::abs(d.x) + std::abs(d.y) + std::abs(d.z));
    if (d.z < 0) p = (1.0 - glm::abs(glm::dvec2(p.y, p.x))) * glm::dvec2(mirrored_sign(p.x), mirrored_sign(p.y));
    return 0.5 * p + 0.5;
}
glm::dvec3 of_octahedral(const glm::dvec2& place) {
    const glm::dvec2 p = 2.0 * place - 1.0;
    glm::dvec3 n(p.x, p.y, 1 - std::abs(p.x) - std::abs(p.y));
    if (n.z < 0) {
        const glm::dvec2 turned =
            (1.0 - glm::abs(glm::dvec2(n.y, n.x))) * glm::dvec2(mirrored_sign(n.x), mirrored_sign(n.y));
        n.x = turned.x;
        n.y = turned.y;
    }
    return glm::normalize(n);
}
glm::ivec2 folded_texel(glm::ivec2 t, int side) {
    if (t.x < 0 || t.x >= side) t = {t.x < 0 ? 0 : side - 1, side - 1 - t.y};
    if (t.y < 0 || t.y >= side) t = {side - 1 - t.x, t.y < 0 ? 0 : side - 1};
    return glm::clamp(t, glm::ivec2(0), glm::ivec2(side - 1));
}

glm::vec3 ProbeGrid::place(std::size_t probe) const {
    const auto x = static_cast<std::size_t>(count.x), y = static_cast<std::size_t>(count.y);
    return low + options.spacing * glm::vec3(probe % x, probe / x % y, probe / (x * y));
}

std::size_t ProbeGrid::bytes(int order, bool visibility) const {
    return size() * (static_cast<std::size_t>(order == 1 ? 4 : 9) * 8 +
                     (visibility ? static_cast<std::size_t>((side + 2) * (side + 2)) * 4 : 0));
}

ProbeAnswer probe_answer(const ProbeGrid& g, const ProbeReading& reading, const glm::dvec3& point,
                         const glm::dvec3& normal) {
    ProbeAnswer out;
    const double spacing = double(g.options.spacing);
    const glm::dvec3 at = (point - glm::dvec3(g.low)) / spacing, last(g.count - 1);
    const glm::dvec3 beyond = glm::max(-at, at - last);
    out.share = std::clamp(1 - std::max({beyond.x, beyond.y, beyond.z}), 0.0, 1.0);
    if (out.share <= 0) return out;
    const glm::dvec3 in = glm::clamp(at, glm::dvec3(0.0), last);
    const glm::ivec3 first = glm::min(glm::ivec3(glm::floor(in)), glm::max(g.count - 2, glm::ivec3(0)));
    const glm::dvec3 f = in - glm::dvec3(first);
    const glm::dvec3 asked = point + normal * (0.1 * spacing);
    const std::array<double, 9> y = harmonics_at(normal);
    double weights = 0;
    for (int k = 0; k < 8; ++k) {
        const glm::ivec3 step(k & 1, k >> 1 & 1, k >> 2), cell = glm::min(first + step, g.count - 1);
        const std::size_t i = (static_cast<std::size_t>(cell.z) * static_cast<std::size_t>(g.count.y) +
                               static_cast<std::size_t>(cell.y)) *
                                  static_cast<std::size_t>(g.count.x) +
                              static_cast<std::size_t>(cell.x);
        const glm::dvec3 near = glm::mix(1.0 - f, f, glm::dvec3(step));
        double w = near.x * near.y * near.z;
        if (w <= 0 || g.walled[i]) continue;
        if (reading.visibility) {
            const glm::dvec3 from = asked - glm::dvec3(g.place(i));
            const double metres = std::max(glm::length(from), 1e-6);
            const double before = 0.5 * (1 - glm::dot(from / metres, normal));
            w *= before * before + 0.05;
            const glm::dvec2 seen = distances_toward(g.distances[i], from / metres);
            if (metres > seen.x) { // Chebyshev's bound for the share that reaches so far
                const double variance = std::max(seen.y - seen.x * seen.x, 1e-4 * spacing * spacing);
                const double share = variance / (variance + (metres - seen.x) * (metres - seen.x));
                w *= std::max(share * share * share, least_seen);
            }
        }
        glm::dvec3 light(0.0);
        for (std::size_t c = 0; c < (reading.order == 1 ? 4u : 9u); ++c)
            light += glm::dvec3(g.light[i][c]) * y[c];
        out.light += w * glm::max(light, glm::dvec3(0.0));
        weights += w;
    }
    if (weights > 0)
        out.light /= weights;
    else
        out.share = 0;
    return out;
}

static std::string grid_scene_digest(const Scene& scene, const Setup& setup) {
    return light_map_scene_digest(scene, setup);
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
/// Its first probe and how many there are: half a spacing of room on all sides.
void place_grid(ProbeGrid& g, const Box& box) {
    g.count = glm::ivec3(glm::ceil(glm::dvec3(box.size()) / double(g.options.spacing))) + 1;
    g.low = box.center() - 0.5f * g.options.spacing * glm::vec3(g.count - 1);
}

} // namespace

std::string probe_grid_digest(const Scene& scene, const Setup& setup, const ProbeGridOptions& o) {
    Digest d;
    std::string text =
        grid_scene_digest(scene, setup) + fmt::format("|probes {} {} {}", o.spacing, o.samples, o.bounces);
    if (!o.within.empty()) {
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
    if (const Box box = box_of_grid(scene, setup, wanted); !box.empty()) place_grid(placed, box);
    for (const auto& grid : files->complete)
        if (grid->options.spacing == wanted.spacing && grid->count == placed.count && grid->low == placed.low)
            return grid;
    if (!wanted.within.empty())
        return say("No probes in space were computed within \"" + wanted.within +
                   "\" yet: ambient light stands in for them.");
    if (!files->complete.empty()) {
        if (remark)
            *remark = fmt::format("The probes in use stand {} m apart: they were computed so.",
                                  files->complete.front()->options.spacing);
        return files->complete.front();
    }
    return say(!files->trouble.empty() ? files->trouble
               : files->under ? "The probes in space are not computed to their end: ambient light stands in for them."
               : files->stale
                   ? "The probes in space are stale: what stands still, a light or the sky has changed since. "
                     "Ambient light stands in for them; compute them again."
                   : "No probes in space were computed yet: ambient light stands in for them.");
}

struct ProbeGridBake::State {
    Scene scene;
    ProbeGrid grid;
    std::filesystem::path file;
    std::shared_ptr<const RayScene> rays;
    std::unique_ptr<truth::PathTracer> tracer;

    void bake(std::size_t i, std::uint64_t& taken) {
        const glm::vec3 at = grid.place(i);
        taken += 96;
        grid.walled[i] = walled_in(*rays, at) > 0.25;
        grid.light[i].fill(glm::vec3(0.0f));
        const double far = double(grid.far());
        // Distances, each ray to the texels around its direction.
        std::array<glm::dvec2, ProbeGrid::side * ProbeGrid::side> sums{};
        std::array<double, ProbeGrid::side * ProbeGrid::side> shares{};
        for (int k = 0; k < distance_ways; ++k) {
            const glm::dvec3 d = spiral(k, distance_ways);
            const RayHit hit = rays->any_surface({at, glm::vec3(d)}, 0, false);
            ++taken;
            const double metres = hit.object >= 0 ? std::min(double(hit.distance), far) : far;
            for (int t = 0; t < ProbeGrid::side * ProbeGrid::side; ++t) {
                const glm::dvec3 of = of_octahedral((glm::dvec2(t % ProbeGrid::side, t / ProbeGrid::side) + 0.5) /
                                                    double(ProbeGrid::side));
                const double alike = glm::dot(of, d);
                if (alike < 0.9) continue;
                const double w = std::pow(alike, 50);
                sums[static_cast<std::size_t>(t)] += w * glm::dvec2(metres, metres * metres);
                shares[static_cast<std::size_t>(t)] += w;
            }
        }
        for (std::size_t t = 0; t < sums.size(); ++t)
            grid.distances[i][t] = shares[t] > 0 ? glm::vec2(sums[t] / shares[t]) : glm::vec2(far, far * far);
        if (grid.walled[i]) return;
        std::array<glm::dvec3, 9> light{};
        const int all = grid.options.samples;
        for (int n = 0; n < all; ++n) {
            const glm::dvec3 d = spiral(n, all);
            const glm::dvec3 arrives =
                tracer->arriving(at, d, static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(n), taken);
            const std::array<double, 9> y = harmonics_at(d);
            for (std::size_t c = 0; c < 9; ++c)
                light[c] += arrives * (y[c] * 4 * glm::pi<double>() / all);
        }
        for (std::size_t c = 0; c < 9; ++c)
            grid.light[i][c] = glm::vec3(light[c] * cosine_share[c]);
    }
};

ProbeGridBake::ProbeGridBake(std::unique_ptr<State> state) : state_(std::move(state)) {}
ProbeGridBake::~ProbeGridBake() = default;

/// A tracer of what bounces off still surfaces, of lamps that are in maps.
static std::unique_ptr<truth::PathTracer> bounced_tracer(const Scene& scene, const Setup& setup, int bounces,
                                                         std::shared_ptr<const RayScene> rays) {
    truth::Options o;
    o.bounces = bounces;
    o.layer = truth::Layer::indirect;
    Scene lit = scene;
    const auto mobilities = mobilities_of(scene);
    for (std::size_t i = 0; i < scene.lights.size(); ++i) {
        if ((*mobilities)[i] == Mobility::moving || (*mobilities)[i] == Mobility::switched)
            o.dark.push_back(scene.lights[i].id);
        lit.lights[i].intensity *= scene.lights[i].indirectShare;
    }
    return std::make_unique<truth::PathTracer>(lit, setup, View(), o, std::move(rays));
}

Result<std::unique_ptr<ProbeGridBake>> ProbeGridBake::begin(const Scene& scene, const Setup& setup,
                                                            const ProbeGridOptions& options) {
    if (auto ok = make_bakes_folder(scene, "probes are"); !ok) return tl::unexpected(ok.error());
    auto s = std::make_unique<State>();
    s->scene = only_still(scene, setup);
    const Box box = box_of_grid(scene, setup, options);
    if (box.empty() && !options.within.empty())
        return fail("no object of the scene is called \"" + options.within + "\"", "grid.within",
                    "Name one, or leave it empty for all that stands still.");
    if (box.empty())
        return fail("nothing that light bounces off stands still", "probes",
                    "Mark objects as still at the objects' bench.");
    ProbeGrid& g = s->grid;
    g.options = options;
    const glm::dvec3 wanted = glm::ceil(glm::dvec3(box.size()) / double(options.spacing));
    if ((wanted.x + 1) * (wanted.y + 1) * (wanted.z + 1) > double(most_probes_of_grid))
        return fail(fmt::format("that would be {} x {} x {} probes, more than {}", wanted.x + 1, wanted.y + 1,
                                wanted.z + 1, most_probes_of_grid),
                    "grid.spacing", "Set them farther apart, or fill less (grid.within).");
    place_grid(g, box);
    g.scene = grid_scene_digest(scene, setup);
    g.light.resize(g.size());
    g.walled.resize(g.size());
    g.distances.resize(g.size());
    std::error_code error;
    std::string remark;
    s->file = probe_grid_file(scene.bakes, probe_grid_digest(scene, setup, options));
    if (std::filesystem::exists(s->file, error)) {
        auto kept = read_probe_grid(s->file);
        if (kept && kept->count == g.count && kept->scene == g.scene) {
            g = std::move(*kept);
        } else {
            std::filesystem::rename(s->file, s->file.string() + ".damaged", error);
            remark =
                "The probes of these circumstances were damaged and are set aside: " + s->file.string() + ".damaged.";
        }
    }
    s->rays = std::make_shared<RayScene>(s->scene);
    s->tracer = bounced_tracer(s->scene, setup, options.bounces, s->rays);
    auto out = std::unique_ptr<ProbeGridBake>(new ProbeGridBake(std::move(s)));
    out->set_places(out->state_->grid.size(), out->state_->grid.done, 16);
    out->remark_ = std::move(remark);
    return out;
}

bool ProbeGridBake::work(double milliseconds, const std::atomic<bool>* stop) {
    const double before = progress().seconds;
    const bool over = Bake::work(milliseconds, stop);
    state_->grid.done = done();
    state_->grid.seconds += progress().seconds - before;
    return over;
}
void ProbeGridBake::compute(std::size_t place, std::uint64_t& rays) {
    state_->bake(place, rays);
}

Result<void> ProbeGridBake::keep() {
    return write_probe_grid(state_->grid, state_->file);
}
const ProbeGrid& ProbeGridBake::grid() const {
    return state_->grid;
}
const std::filesystem::path& ProbeGridBake::file() const {
    return state_->file;
}
ProbeComparison audit_probes(const Scene& scene, const Setup& setup, const ProbeGrid& grid, int order, int places,
                             int samples, const std::function<bool(double share)>& more) {
    const Scene still = only_still(scene, setup);
    const auto rays = std::make_shared<RayScene>(still);
    const auto tracer = bounced_tracer(still, setup, grid.options.bounces, rays);
    // Places spread by area over all that stands still, the same for every grid.
    struct Triangle {
        std::size_t object;
        std::uint32_t first;
        double upTo;
    };
    std::vector<Triangle> all;
    double area = 0;
    const SceneAsset& asset = *still.asset;
    for (std::size_t o = 0; o < still.objects().size(); ++o) {
        const Object& object = still.objects()[o];
        if (object.hidden || object.proxy || object.casts == Casting::unseen || object.body >= 0 ||
            asset.material_of(object).alphaMode == AlphaMode::blend)
            continue;
        const Primitive& p = asset.primitives[static_cast<std::size_t>(object.primitive)];
        const glm::mat3 turn(object.transform);
        for (std::uint32_t i = 0; i + 2 < p.indices.size(); i += 3) {
            const glm::vec3 a = p.vertices[p.indices[i]].position, b = p.vertices[p.indices[i + 1]].position,
                            c = p.vertices[p.indices[i + 2]].position;
            area += 0.5 * double(glm::length(glm::cross(turn * (b - a), turn * (c - a))));
            all.push_back({o, i, area});
        }
    }
    std::vector<SurfacePoint> points;
    std::mt19937 random(7);
    std::uniform_real_distribution<double> unit(0, 1);
    for (int tries = 0; tries < 4 * places && static_cast<int>(points.size()) < places && area > 0; ++tries) {
        const double at = area * unit(random);
        const Triangle& t =
            *std::lower_bound(all.begin(), all.end() - 1, at, [](const Triangle& x, double v) { return x.upTo < v; });
        const Object& object = still.objects()[t.object];
        const Primitive& p = asset.primitives[static_cast<std::size_t>(object.primitive)];
        double u = unit(random), v = unit(random);
        if (u + v > 1) {
            u = 1 - u;
            v = 1 - v;
        }
        glm::vec3 corner[3];
        for (std::uint32_t k = 0; k < 3; ++k)
            corner[k] = glm::vec3(object.transform * glm::vec4(p.vertices[p.indices[t.first + k]].position, 1));
        const glm::vec3 n = glm::cross(corner[1] - corner[0], corner[2] - corner[0]);
        if (!(glm::length(n) > 1e-12f)) continue;
        SurfacePoint s;
        s.side = s.normal = glm::normalize(object.mirrored ? -n : n);
        s.position = corner[0] + static_cast<float>(u) * (corner[1] - corner[0]) +
                     static_cast<float>(v) * (corner[2] - corner[0]);
        if (walled_in(*rays, s.position + 1e-3f * s.side) < 0.25) points.push_back(s);
    }
    std::vector<glm::dvec3> truth(points.size());
    constexpr std::size_t together = 64;
    for (std::size_t first = 0; first < points.size(); first += together) {
        if (more && !more(static_cast<double>(first) / static_cast<double>(points.size()))) return {};
        parallel_for(static_cast<int>(first), static_cast<int>(std::min(first + together, points.size())), [&](int i) {
            std::uint64_t taken = 0;
            const auto k = static_cast<std::size_t>(i);
            for (int n = 0; n < samples; ++n)
                truth[k] +=
                    tracer->falling(points[k], static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(n), taken) /
                    (glm::pi<double>() * samples);
        });
    }
    double mean = 0;
    for (const glm::dvec3& t : truth)
        mean += luminance(t) / static_cast<double>(std::max<std::size_t>(1, truth.size()));
    ProbeComparison out;
    for (const bool visibility : {true, false}) {
        ProbeErrors& e = visibility ? out.with : out.without;
        for (std::size_t i = 0; i < points.size(); ++i) {
            const double given = luminance(probe_answer(grid, {order, visibility}, glm::dvec3(points[i].position),
                                                        glm::dvec3(points[i].normal))
                                               .light),
                         wanted = luminance(truth[i]);
            ++e.places;
            e.off += std::abs(given - wanted);
            if (wanted > mean / 20) continue;
            ++e.dark;
            e.leak += std::max(0.0, given - wanted);
        }
        if (e.places && mean > 0) e.off /= mean * static_cast<double>(e.places);
        if (e.dark && mean > 0) e.leak /= mean * static_cast<double>(e.dark);
    }
    return out;
}

} // namespace mirolux
