#include "core/ambient/probe_capture.h"
#include "core/bake/light_map.h"
#include "core/bake/probe_grid_parts.h"
#include "core/bake/texel_work.h"
#include "core/sky/sky_model.h"
#include <cmath>

namespace mirolux {

namespace {

constexpr int distance_ways = 1024; // rays of a probe for its distances

glm::dvec3 spiral(int i, int all) {
    const double y = 1 - (2 * i + 1.0) / all, r = std::sqrt(std::max(0.0, 1 - y * y)), turn = i * 2.399963229728653;
    return {r * std::cos(turn), y, r * std::sin(turn)};
}

/// What a cosine leaves of each order, over pi.
constexpr double cosine_share[9] = {1, 2.0 / 3, 2.0 / 3, 2.0 / 3, 0.25, 0.25, 0.25, 0.25, 0.25};

} // namespace

std::unique_ptr<truth::PathTracer> bounced_tracer(const Scene& scene, const Setup& setup, int bounces,
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

Result<std::unique_ptr<ProbeGridBake>> ProbeGridBake::begin(const Scene& scene, const Setup& setup,
                                                            const ProbeGridOptions& options) {
    if (auto ok = make_bakes_folder(scene, "probes are"); !ok) return tl::unexpected(ok.error());
    auto s = std::make_unique<State>();
    s->scene = only_still(scene, setup);
    ProbeGrid& g = s->grid;
    g.options = options;
    if (auto ok = place_probes(g, scene, setup); !ok) return tl::unexpected(ok.error());
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

} // namespace mirolux
