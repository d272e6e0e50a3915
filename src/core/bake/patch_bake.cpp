#include "core/bake/patch_bake.h"
#include "core/bake/light_map_files.h"
#include "core/bake/map_light.h"
#include "core/bake/power_tree.h"
#include "core/bake/texel_work.h"
#include "core/base/parallel.h"
#include "core/light/luminance.h"
#include "core/truth/sampler.h"
#include "core/visibility/baked_file.h"
#include <algorithm>
#include <chrono>
#include <cmath>

namespace mirolux {

using nlohmann::json;

namespace {

constexpr const char* patches_schema = "mirolux.patches";
constexpr int patches_version = 1;
constexpr float sliver = 0.25f;     // share of a texel: less of a surface belongs to the patch beside it
constexpr int shine_through = 8;    // panes that a ray passes at most
constexpr int places_of_albedo = 4; // that a patch's material is read at

/// Where a patch's surface lies for a ray that begins on it.
SurfacePoint seen_point(const RayScene& rays, const SurfacePoint& p) {
    constexpr float away = 1e-3f;
    const Ray ray{p.position + away * p.side, -p.side};
    const RayHit hit = rays.any_surface(ray, 0, false);
    return hit.object >= 0 && hit.distance < 4 * away ? surface_point(rays, ray, hit, false) : p;
}

} // namespace

std::filesystem::path patches_file(const std::filesystem::path& bakes, const std::string& digest) {
    return bakes / ("patches-" + digest + ".cbor");
}

struct PatchBake::State {
    TexelWork work;
    LightMapOptions options;
    double rest = 0.01;
    std::string digest, sceneDigest;
    std::vector<LayerLight> light;
    std::vector<int> patchOf;   // by texel of the map; -1: none
    std::vector<int> placeOf;   // by object: into the layout's places; -1: none
    std::vector<Patch> patches; // by target; slivers have no area and are never asked
    std::vector<std::uint8_t> covered;
    struct Layer {
        std::vector<glm::vec3> straight, around; // lux of lamps; of what glows and the surroundings
        std::vector<glm::vec3> received, unshot; // lux from patches; lumens a square metre that are left to send on
        std::vector<glm::mat3> toward;
    };
    std::vector<Layer> layers;
    PowerTree powers;                 // what is left, by layer and patch
    std::vector<std::uint32_t> shots; // of each patch
    bool begun = false;               // straight light is there, and handed over to be shot
    double total = 0;                 // luminous power that there was to send on, of all layers
    PatchShot last;
    std::uint64_t taken = 0;
    double seconds = 0;

    /// The patch that a texel belongs to: its own, or of a sliver the largest beside it.
    void find_patches() {
        const LightMapLayout& layout = *work.layout;
        patchOf.assign(static_cast<std::size_t>(layout.width) * static_cast<std::size_t>(layout.height), -1);
        placeOf.assign(work.scene.objects().size(), -1);
        for (std::size_t i = 0; i < layout.places.size(); ++i)
            placeOf[static_cast<std::size_t>(layout.places[i].object)] = static_cast<int>(i);
        patches.assign(work.targets.size(), {});
        for (std::size_t i = 0; i < patches.size(); ++i) {
            patches[i].point = work.targets[i];
            patches[i].area = work.targets[i].area;
            patchOf[work.targets[i].texel] = static_cast<int>(i);
        }
        const std::vector<int> own = patchOf;
        for (std::size_t i = 0; i < patches.size(); ++i) {
            const MapPoint& t = work.targets[i];
            const float whole = glm::length(glm::cross(t.across, t.down));
            if (t.area >= sliver * whole) continue;
            int best = -1;
            for (const int step : {-1, 1, -layout.width, layout.width}) {
                const auto at = static_cast<std::ptrdiff_t>(t.texel) + step;
                if (at < 0 || at >= static_cast<std::ptrdiff_t>(own.size())) continue;
                const int beside = own[static_cast<std::size_t>(at)];
                if (beside < 0) continue;
                const MapPoint& b = work.targets[static_cast<std::size_t>(beside)];
                const bool near = glm::distance(b.point.position, t.point.position) <
                                      2 * (glm::length(t.across) + glm::length(t.down)) &&
                                  glm::dot(b.point.side, t.point.side) > 0.7f;
                if (near && b.area >= sliver * whole &&
                    (best < 0 || b.area > work.targets[static_cast<std::size_t>(best)].area))
                    best = beside;
            }
            if (best < 0) continue;
            patchOf[t.texel] = best;
            patches[static_cast<std::size_t>(best)].area += t.area;
            patches[i].area = 0;
        }
    }
    /// Points of a patch that lie within nothing, and how many lie on its surface at all.
    std::vector<SurfacePoint> open_points(const MapPoint& target, std::uint64_t& rays, int* onSurface = nullptr) const {
        constexpr float lift = 1e-3f;
        const bool within = covered_up(*work.rays, target.point, rays);
        std::vector<SurfacePoint> out;
        int lie = 0;
        for (const SurfacePoint& p : spread_points(target, points_of_texel)) {
            const RayHit below = work.rays->any_surface({p.position + lift * p.side, -p.side}, 0, false);
            ++rays;
            if (below.object < 0 || below.distance > 3 * lift) continue; // beyond the surface's border
            ++lie;
            const glm::vec3 step = p.position - target.point.position;
            const float metres = glm::length(step);
            const bool open =
                within ? !covered_up(*work.rays, p, rays)
                       : !(metres > 0) ||
                             !work.rays->occluded({target.point.position + lift * target.point.side, step / metres}, 0,
                                                  metres);
            if (open) out.push_back(p);
        }
        if (onSurface) *onSurface = lie;
        if (lie == 0 && !within) out.push_back(target.point); // a sliver
        return out;
    }
    void bake(std::size_t i, std::uint64_t& rays) {
        Patch& patch = patches[i];
        int lie = 0;
        const std::vector<SurfacePoint> points = open_points(patch.point, rays, &lie);
        covered[i] = points.empty();
        if (covered[i]) return;
        patch.point.point = points.front();
        // What lies within a wall takes no light: of a patch there that part does not count.
        patch.area *= static_cast<float>(points.size()) / static_cast<float>(std::max(1, lie));
        glm::vec3 albedo(0.0f);
        const auto asked = std::min<std::size_t>(places_of_albedo, points.size());
        for (std::size_t k = 0; k < asked; ++k) {
            const SurfacePoint s = seen_point(*work.rays, points[k]);
            albedo += s.unlit ? glm::vec3(0.0f) : s.baseColor * (1 - s.metallic);
        }
        patch.albedo = albedo / static_cast<float>(asked);
        const auto place = static_cast<std::uint32_t>(i);
        for (std::size_t k = 0; k < layers.size(); ++k) {
            Layer& l = layers[k];
            glm::dmat3 toward(0.0), ways(0.0);
            l.straight[i] = glm::vec3(light[k].straight(points, place, rays, toward));
            glm::dmat3 anyway(0.0);
            bouncing[k][i] = glm::vec3(light[k].bouncing_light(points, place, rays, anyway));
            glm::dvec3 around(0.0);
            const int samples = 64; // each asks what glows, and a direction of the surroundings
            for (int n = 0; n < samples; ++n)
                around += light[k].indirect->falling(points[static_cast<std::size_t>(n) % points.size()], place,
                                                     static_cast<std::uint32_t>(n), rays, &ways);
            l.around[i] = glm::vec3(around / double(samples));
            l.toward[i] = glm::mat3(toward + ways / double(samples));
        }
    }
    double power_of(const Layer& l, std::size_t i) const {
        return luminance(glm::dvec3(l.unshot[i])) * double(patches[i].area);
    }
    double left() const { return powers.sum(); }
    void count_powers() {
        powers = PowerTree(layers.size() * patches.size());
        powers.fill([&](std::size_t n) { return power_of(layers[n / patches.size()], n % patches.size()); });
    }
    /// Straight light is there: what of it patches send on.
    void hand_over() {
        begun = true;
        for (std::size_t k = 0; k < layers.size(); ++k) {
            Layer& l = layers[k];
            for (std::size_t i = 0; i < patches.size(); ++i) {
                l.unshot[i] = covered[i] ? glm::vec3(0.0f) : patches[i].albedo * (bouncing[k][i] + l.around[i]);
            }
        }
        count_powers();
        total = left();
    }
    std::vector<std::vector<glm::vec3>> bouncing; // by layer and patch: lux of lamps that is to be sent on
    /// The patch that a ray ends on, -1: none.
    int met(const Ray& ray, truth::Sampler& sampler) {
        float from = 0;
        for (int pane = 0; pane < shine_through; ++pane) {
            const RayHit hit = work.rays->any_surface(ray, from, false);
            if (hit.object < 0) return -1;
            if (hit.alpha < 1 && sampler.one() >= hit.alpha) {
                from = hit.distance + 1e-4f;
                continue;
            }
            const int number = hit.front ? placeOf[static_cast<std::size_t>(hit.object)] : -1;
            if (number < 0) return -1;
            const LightMapLayout::Place& place = work.layout->places[static_cast<std::size_t>(number)];
            const MappedMesh& m = work.layout->meshes[static_cast<std::size_t>(place.mesh)];
            const float weights[] = {1 - hit.u - hit.v, hit.u, hit.v};
            glm::vec2 at(place.x, place.y);
            for (std::uint32_t k = 0; k < 3; ++k)
                at += weights[k] * m.places[m.mesh.indices[3 * hit.triangle + k]];
            const int x = std::clamp(static_cast<int>(at.x), 0, work.layout->width - 1),
                      y = std::clamp(static_cast<int>(at.y), 0, work.layout->height - 1);
            return patchOf[static_cast<std::size_t>(y) * static_cast<std::size_t>(work.layout->width) +
                           static_cast<std::size_t>(x)];
        }
        return -1;
    }
    void shoot() {
        last.lit.clear();
        const std::size_t strongest = powers.largest();
        const bool nothing = strongest >= layers.size() * patches.size();
        const std::size_t from = nothing ? no_patch : strongest % patches.size(),
                          layer = nothing ? 0 : strongest / patches.size(), first = layer * patches.size();
        last.patch = from;
        last.layer = static_cast<int>(layer);
        last.unshot = total > 0 ? left() / total : 0;
        if (nothing) return;
        ++last.number;
        const Patch& patch = patches[from];
        Layer& l = layers[layer];
        const glm::vec3 leaves = l.unshot[from];
        last.power = leaves * patch.area;
        l.unshot[from] = glm::vec3(0.0f);
        powers.set(first + from, 0);
        const std::uint32_t before = shots[from]++;
        std::uint64_t asked = 0;
        const std::vector<SurfacePoint> points = open_points(patch.point, asked);
        const auto count = static_cast<std::size_t>(options.samples);
        std::vector<int> ends(count);
        std::vector<glm::vec3> ways(count);
        glm::dvec3 t, b;
        truth::frame_of(glm::dvec3(patch.point.point.side), t, b);
        parallel_for(0, static_cast<int>(count), [&](int i) {
            truth::Sampler sampler(static_cast<std::uint32_t>(from),
                                   before * static_cast<std::uint32_t>(count) + static_cast<std::uint32_t>(i), 7,
                                   truth::Sequence::sobol);
            const glm::dvec2 u = sampler.two();
            const double r = std::sqrt(u.x), phi = 2 * glm::pi<double>() * u.y;
            const glm::dvec3 d = r * (std::cos(phi) * t + std::sin(phi) * b) +
                                 std::sqrt(std::max(0.0, 1 - u.x)) * glm::dvec3(patch.point.point.side);
            const SurfacePoint& p = points[static_cast<std::size_t>(i) % points.size()];
            const auto at = static_cast<std::size_t>(i);
            ways[at] = glm::normalize(glm::vec3(d));
            ends[at] = met({p.position + 1e-3f * p.side, ways[at]}, sampler);
        });
        taken += asked + count;
        const float share = 1.0f / static_cast<float>(count);
        for (std::size_t i = 0; i < count; ++i) {
            if (ends[i] < 0) continue;
            const auto to = static_cast<std::size_t>(ends[i]);
            if (!(patches[to].area > 0)) continue;
            const glm::vec3 lux = last.power * (share / patches[to].area);
            l.received[to] += lux;
            for (int c = 0; c < 3; ++c)
                l.toward[to][c] -= lux[c] * ways[i];
            if (!covered[to]) l.unshot[to] += patches[to].albedo * lux;
            last.lit.push_back({to, share});
        }
        std::sort(last.lit.begin(), last.lit.end(), [](const auto& x, const auto& y) { return x.patch < y.patch; });
        std::size_t kept = 0;
        for (const PatchShot::Lit& lit : last.lit)
            if (kept > 0 && last.lit[kept - 1].patch == lit.patch)
                last.lit[kept - 1].share += lit.share;
            else
                last.lit[kept++] = lit;
        last.lit.resize(kept);
        for (const PatchShot::Lit& lit : last.lit)
            powers.set(first + lit.patch, power_of(l, lit.patch));
        last.unshot = left() / total;
    }

    LightOfMap map_of(std::size_t k, std::size_t done) const {
        const LightMapLayout& layout = *work.layout;
        const Layer& l = layers[k];
        LightOfMap out{light[k].light, light[k].intensity, empty_map(layout), empty_map(layout), {}};
        for (FloatImage& t : out.toward)
            t = empty_map(layout);
        for (std::size_t i = 0; i < done; ++i) {
            // A sliver takes what the patch beside it received.
            const auto of = static_cast<std::size_t>(patchOf[work.targets[i].texel]);
            const float alpha = covered[i] ? 0.5f : 1.0f;
            const auto put = [&](FloatImage& image, const glm::vec3& v) {
                float* p = image.data.data() + 4 * work.targets[i].texel;
                for (int c = 0; c < 3; ++c)
                    p[c] = v[c];
                p[3] = alpha;
            };
            put(out.direct, l.straight[i]);
            put(out.indirect, l.around[i] + l.received[of]);
            for (std::size_t c = 0; c < 3; ++c)
                put(out.toward[c], l.toward[of][static_cast<int>(c)]);
        }
        return out;
    }

    /// What a run before has left; false: it is damaged.
    bool take_kept(std::size_t& done) {
        const auto read =
            read_document(patches_file(work.scene.bakes, digest), patches_schema, patches_version, "patches");
        if (!read) return false;
        try {
            const json& j = *read;
            if (j.at("patches").get<std::size_t>() != patches.size() || j.at("layers").size() != layers.size())
                return false;
            const auto floats = [&](const json& from, void* to, std::size_t bytes) {
                const auto& binary = from.get_binary();
                if (binary.size() != bytes) throw json::other_error::create(501, "size", nullptr);
                std::copy(binary.begin(), binary.end(), static_cast<std::uint8_t*>(to));
            };
            const std::size_t n = patches.size();
            for (std::size_t k = 0; k < layers.size(); ++k) {
                const json& from = j.at("layers")[k];
                Layer& l = layers[k];
                for (const auto& [key, to] : {std::pair{"straight", &l.straight},
                                              {"around", &l.around},
                                              {"received", &l.received},
                                              {"unshot", &l.unshot}})
                    floats(from.at(key), to->data(), n * sizeof(glm::vec3));
                floats(from.at("toward"), l.toward.data(), n * sizeof(glm::mat3));
                floats(from.at("bouncing"), bouncing[k].data(), n * sizeof(glm::vec3));
            }
            std::vector<glm::vec3> albedo(n);
            floats(j.at("albedo"), albedo.data(), n * sizeof(glm::vec3));
            std::vector<glm::vec3> positions(n);
            floats(j.at("positions"), positions.data(), n * sizeof(glm::vec3));
            std::vector<float> areas(n);
            floats(j.at("areas"), areas.data(), n * sizeof(float));
            for (std::size_t i = 0; i < n; ++i) {
                patches[i].albedo = albedo[i];
                patches[i].area = areas[i];
                patches[i].point.point.position = positions[i];
            }
            floats(j.at("covered"), covered.data(), n);
            floats(j.at("shotsOf"), shots.data(), n * sizeof(std::uint32_t));
            done = j.at("done").get<std::size_t>();
            begun = j.at("begun").get<bool>();
            total = j.at("total").get<double>();
            last.number = j.at("shots").get<std::size_t>();
            count_powers();
            last.unshot = total > 0 && begun ? left() / total : 1;
            return done <= n && (!begun || done == n);
        } catch (const json::exception&) {
            return false;
        }
    }
    void clear() {
        find_patches();
        const std::size_t n = patches.size();
        for (Layer& l : layers)
            l = {std::vector<glm::vec3>(n, glm::vec3(0.0f)), std::vector<glm::vec3>(n, glm::vec3(0.0f)),
                 std::vector<glm::vec3>(n, glm::vec3(0.0f)), std::vector<glm::vec3>(n, glm::vec3(0.0f)),
                 std::vector<glm::mat3>(n, glm::mat3(0.0f))};
        bouncing.assign(layers.size(), std::vector<glm::vec3>(n, glm::vec3(0.0f)));
        covered.assign(n, 0);
        shots.assign(n, 0);
        powers = PowerTree();
        begun = false;
        total = 0;
        last = {};
    }
};

PatchBake::PatchBake(std::unique_ptr<State> state) : state_(std::move(state)) {}
PatchBake::~PatchBake() = default;

Result<std::unique_ptr<PatchBake>> PatchBake::begin(const Scene& scene, const Setup& setup,
                                                    const LightMapOptions& asked, double rest) {
    auto work = texel_work(scene, setup, asked.density, "patches are");
    if (!work) return tl::unexpected(work.error());
    auto s = std::make_unique<State>();
    s->work = std::move(*work);
    s->options = asked;
    s->options.patches = true;
    s->options.bounces = -1;
    s->rest = rest;
    s->digest = light_map_digest(scene, setup, s->options);
    s->sceneDigest = light_map_scene_digest(scene, setup);
    s->light = layers_of_light(s->work.scene, setup, 0, s->work.rays);
    s->layers.resize(s->light.size());
    s->clear();
    const std::filesystem::path file = patches_file(scene.bakes, s->digest);
    std::size_t done = 0;
    std::string remark;
    std::error_code e;
    if (std::filesystem::exists(file, e) && !s->take_kept(done)) {
        set_aside({file});
        s->clear(); // it was read in part
        done = 0;
        remark = "The patches of these circumstances were damaged and are set aside: " + file.string() + ".damaged.";
    }
    auto out = std::unique_ptr<PatchBake>(new PatchBake(std::move(s)));
    out->set_places(out->state_->patches.size(), done, 64);
    out->remark_ = std::move(remark);
    return out;
}

void PatchBake::compute(std::size_t place, std::uint64_t& rays) {
    state_->bake(place, rays);
}

bool PatchBake::work(double milliseconds, const std::atomic<bool>* stop) {
    State& s = *state_;
    const auto start = std::chrono::steady_clock::now();
    const auto passed = [&] {
        return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    };
    if (!Bake::work(milliseconds, stop)) return false;
    if (!s.begun) s.hand_over();
    const double before = passed();
    bool nothing = !(s.total > 0); // is left
    while (!nothing && s.last.unshot > s.rest && passed() < milliseconds && !(stop && *stop)) {
        s.shoot();
        nothing = s.last.patch == no_patch;
    }
    s.seconds += (passed() - before) / 1000;
    return nothing || s.last.unshot <= s.rest;
}

const PatchShot& PatchBake::shoot() {
    State& s = *state_;
    if (done() < all()) return s.last;
    if (!s.begun) s.hand_over();
    s.shoot();
    return s.last;
}

BakeProgress PatchBake::progress() const {
    const State& s = *state_;
    BakeProgress p = Bake::progress();
    p.rays += s.taken;
    if (!s.begun) return p;
    const double whole = std::log(1 / std::max(s.rest, 1e-9)), over = std::log(1 / std::max(s.last.unshot, 1e-9)),
                 share = std::clamp(whole > 0 ? over / whole : 1.0, 0.0, 1.0);
    p.seconds += s.seconds;
    p.all = 1000;
    p.done = static_cast<std::size_t>(1000 * share);
    p.left = share > 0 ? s.seconds / share * (1 - share) : 0;
    return p;
}

const PatchShot& PatchBake::last() const {
    return state_->last;
}
std::uint64_t PatchBake::rays() const {
    return state_->taken;
}
const std::string& PatchBake::digest() const {
    return state_->digest;
}
const std::vector<Patch>& PatchBake::patches() const {
    State& s = *state_;
    for (std::size_t i = 0; i < s.patches.size(); ++i)
        s.patches[i].received = s.layers[0].received[i];
    return s.patches;
}

Result<void> PatchBake::keep() {
    const State& s = *state_;
    const auto binary = [](const auto& values) {
        const auto* bytes = reinterpret_cast<const std::uint8_t*>(values.data());
        return json::binary({bytes, bytes + values.size() * sizeof(values[0])});
    };
    json layers = json::array();
    for (std::size_t k = 0; k < s.layers.size(); ++k) {
        const State::Layer& l = s.layers[k];
        layers.push_back({{"straight", binary(l.straight)},
                          {"around", binary(l.around)},
                          {"received", binary(l.received)},
                          {"unshot", binary(l.unshot)},
                          {"toward", binary(l.toward)},
                          {"bouncing", binary(s.bouncing[k])}});
    }
    std::vector<glm::vec3> albedo, positions;
    std::vector<float> areas;
    for (const Patch& p : s.patches) {
        positions.push_back(p.point.point.position);
        albedo.push_back(p.albedo);
        areas.push_back(p.area);
    }
    const json document = {{"schema", patches_schema},
                           {"version", patches_version},
                           {"patches", s.patches.size()},
                           {"done", done()},
                           {"begun", s.begun},
                           {"total", s.total},
                           {"shots", s.last.number},
                           {"shotsOf", binary(s.shots)},
                           {"albedo", binary(albedo)},
                           {"areas", binary(areas)},
                           {"positions", binary(positions)},
                           {"covered", binary(s.covered)},
                           {"layers", layers}};
    if (auto ok = write_document(document, patches_file(s.work.scene.bakes, s.digest)); !ok) return ok;
    std::vector<LightOfMap> maps;
    for (std::size_t k = 0; k < s.layers.size(); ++k)
        maps.push_back(s.map_of(k, done()));
    LightMapIndex index;
    index.common.scene = s.sceneDigest;
    index.common.all = s.patches.size();
    index.common.done = done();
    index.options = s.options;
    index.unshot = s.begun ? s.last.unshot : 1;
    return write_light_map(s.work.scene, *s.work.layout, maps, index, s.digest);
}

LightMap PatchBake::map() const {
    const State& s = *state_;
    LightMap out{*s.work.layout, s.options.density, {}};
    for (std::size_t k = 0; k < s.layers.size(); ++k) {
        out.layers.push_back(s.map_of(k, done()));
        fill(out.layers.back(), out.layout);
    }
    return out;
}

} // namespace mirolux
