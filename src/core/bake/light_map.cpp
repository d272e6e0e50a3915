#include "core/bake/light_map.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "core/scene/geometry.h"
#include "core/truth/path_tracer.h"
#include "core/visibility/cells.h"
#include <algorithm>
#include <chrono>
#include <cmath>

namespace mirolux {

using nlohmann::json;

namespace light_maps {

/// A texel of the whole map, and the point of the scene that it stands for.
struct MapPoint {
    std::size_t texel = 0; // y * width + x
    SurfacePoint point;
};

} // namespace light_maps
using light_maps::MapPoint;

namespace {

constexpr const char* light_map_schema = "mirolux.lightMap";
constexpr int light_map_version = 1;
constexpr int ways_out = 16; // rays that tell whether a texel lies within something

std::vector<MapPoint> targets_of(const Scene& scene, const LightMapLayout& layout) {
    std::vector<std::vector<Texel>> texels;
    for (const MappedMesh& m : layout.meshes)
        texels.push_back(covered_texels(m));
    std::vector<MapPoint> out;
    for (const LightMapLayout::Place& place : layout.places) {
        const Object& o = scene.objects()[static_cast<std::size_t>(place.object)];
        const MappedMesh& m = layout.meshes[static_cast<std::size_t>(place.mesh)];
        const glm::mat3 turn(o.transform), normals = normal_matrix(o.transform);
        for (const Texel& t : texels[static_cast<std::size_t>(place.mesh)]) {
            glm::vec3 at(0.0f), normal(0.0f), corner[3];
            for (int k = 0; k < 3; ++k) {
                const Vertex& v = m.mesh.vertices[m.mesh.indices[3 * t.triangle + static_cast<std::uint32_t>(k)]];
                corner[k] = v.position;
                at += t.weights[k] * v.position;
                normal += t.weights[k] * v.normal;
            }
            MapPoint target;
            target.texel = static_cast<std::size_t>(place.y + t.y) * static_cast<std::size_t>(layout.width) +
                           static_cast<std::size_t>(place.x + t.x);
            SurfacePoint& p = target.point;
            p.position = glm::vec3(o.transform * glm::vec4(at, 1));
            p.side = glm::normalize(glm::cross(turn * (corner[1] - corner[0]), turn * (corner[2] - corner[0])));
            if (o.mirrored) p.side = -p.side;
            const glm::vec3 n = normals * normal;
            p.normal = glm::dot(n, n) > 1e-20f ? glm::normalize(n) : p.side;
            if (glm::dot(p.normal, p.side) <= 0) p.normal = p.side;
            p.receives = o.receives;
            out.push_back(target);
        }
    }
    return out;
}

/// Most ways out meet something from behind: the texel lies within it, and no light there is seen.
bool covered_up(const RayScene& rays, const SurfacePoint& p) {
    glm::dvec3 t, b;
    truth::frame_of(glm::dvec3(p.side), t, b);
    int behind = 0;
    for (int i = 0; i < ways_out; ++i) {
        const double u = (i + 0.5) / ways_out, phi = 2.399963 * i; // the golden angle
        const glm::dvec3 d =
            std::sqrt(u) * (std::cos(phi) * t + std::sin(phi) * b) + std::sqrt(1 - u) * glm::dvec3(p.side);
        const RayHit hit = rays.any_surface({p.position + 1e-4f * p.side, glm::normalize(glm::vec3(d))}, 0, false);
        behind += hit.object >= 0 && !hit.front;
    }
    return behind * 2 > ways_out;
}

} // namespace

std::string light_map_digest(const Scene& scene, const Setup& setup, const LightMapOptions& options) {
    Digest d;
    const auto text = [&](const std::string& s) { d.add(s.data(), s.size()); };
    text(still_digest(scene, setup));
    for (const Material& m :
         scene.asset->materials) { // of what is built, and of variants, the file's digest tells nothing
        d.add(&m.baseColor, sizeof m.baseColor);
        d.add(&m.emissive, sizeof m.emissive);
        d.add(&m.metallic, sizeof m.metallic);
        d.add(&m.roughness, sizeof m.roughness);
    }
    for (const Light& l : scene.lights)
        text(to_json(l).dump());
    for (const Setting& s : all_settings())
        if (s.key.starts_with("sky.") || s.key.starts_with("sun.") || s.key.starts_with("moon.") ||
            s.key.starts_with("ambient.") || s.key.starts_with("environment."))
            text(s.key + "=" + to_text(setup.get(s.key)));
    text(json{{"horizon", to_array(scene.sky.horizon)},
              {"zenith", to_array(scene.sky.zenith)},
              {"density", options.density},
              {"samples", options.samples},
              {"bounces", options.bounces}}
             .dump());
    return d.hex();
}

LightMapFiles light_map_files(const std::filesystem::path& bakes, const std::string& digest) {
    const std::string name = "lightmap-" + digest;
    return {bakes / (name + ".direct.exr"), bakes / (name + ".indirect.exr"), bakes / (name + ".json")};
}

struct LightMapBake::State {
    Scene scene;
    LightMapOptions options;
    LightMapLayout layout;
    std::string digest, remark;
    LightMapFiles files;
    std::shared_ptr<const RayScene> rays;
    std::unique_ptr<truth::PathTracer> direct, indirect;
    std::vector<MapPoint> targets;
    std::size_t done = 0, doneBefore = 0;
    std::vector<glm::vec3> sums[2];    // by target: direct, indirect
    std::vector<std::uint8_t> covered; // by target: within something
    std::uint64_t raysTaken = 0;
    double seconds = 0;

    /// What a run before has kept: so many targets, in order.
    void take_kept() {
        const auto text = read_file(files.index);
        if (!text) return;
        const auto aside = [&] {
            std::error_code e;
            for (const auto& f : {files.index, files.direct, files.indirect})
                std::filesystem::rename(f, f.string() + ".damaged", e);
            remark = "The light map of these circumstances was damaged and is set aside: " + files.index.string() +
                     ".damaged.";
        };
        const json j = json::parse(text->begin(), text->end(), nullptr, false);
        const auto a = read_exr(files.direct), b = read_exr(files.indirect);
        if (!j.is_object() || j.value("schema", "") != light_map_schema || j.value("version", 0) != light_map_version ||
            !j.contains("done") || !j["done"].is_number_unsigned() || !a || !b || a->width != layout.width ||
            a->height != layout.height || b->width != layout.width || b->height != layout.height || a->channels < 4 ||
            b->channels < 4)
            return aside();
        const std::size_t kept = j["done"].get<std::size_t>();
        if (kept > targets.size()) return aside();
        const auto pixel = [](const FloatImage& image, std::size_t texel) {
            const float* p = image.data.data() + texel * static_cast<std::size_t>(image.channels);
            return glm::vec4(p[0], p[1], p[2], p[3]);
        };
        for (std::size_t i = 0; i < kept; ++i) {
            const glm::vec4 x = pixel(*a, targets[i].texel), y = pixel(*b, targets[i].texel);
            sums[0][i] = glm::vec3(x);
            sums[1][i] = glm::vec3(y);
            covered[i] = x.w < 0.75f;
        }
        done = doneBefore = kept;
    }
    void bake(std::size_t i, std::uint64_t& taken) {
        const SurfacePoint& p = targets[i].point;
        covered[i] = covered_up(*rays, p);
        taken += ways_out;
        if (covered[i]) return;
        glm::dvec3 sum[2] = {glm::dvec3(0.0), glm::dvec3(0.0)};
        const auto place = static_cast<std::uint32_t>(i);
        for (int n = 0; n < options.samples; ++n) {
            sum[0] += direct->falling(p, place, static_cast<std::uint32_t>(n), taken);
            sum[1] += indirect->falling(p, place, static_cast<std::uint32_t>(n), taken);
        }
        for (int k = 0; k < 2; ++k)
            sums[k][i] = glm::vec3(sum[k] / double(options.samples));
    }
    FloatImage plain(int which) const {
        FloatImage out{layout.width, layout.height, 4, {}};
        out.data.assign(4 * static_cast<std::size_t>(layout.width) * static_cast<std::size_t>(layout.height), 0.0f);
        for (std::size_t i = 0; i < done; ++i) {
            float* p = out.data.data() + 4 * targets[i].texel;
            for (int c = 0; c < 3; ++c)
                p[c] = sums[which][i][c];
            p[3] = covered[i] ? 0.5f : 1.0f;
        }
        return out;
    }
    /// Texels of a chart's area that have no light of their own take that of the nearest one that has.
    void fill(FloatImage& image) const {
        const auto at = [&](int x, int y) {
            return image.data.data() + 4 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(image.width) +
                                            static_cast<std::size_t>(x));
        };
        for (const LightMapLayout::Place& place : layout.places)
            for (const MappedMesh::Area& area : layout.meshes[static_cast<std::size_t>(place.mesh)].areas) {
                const int x0 = place.x + area.x, y0 = place.y + area.y, x1 = x0 + area.width, y1 = y0 + area.height;
                std::vector<glm::ivec2> front; // rings around what is known
                for (int y = y0; y < y1; ++y)
                    for (int x = x0; x < x1; ++x)
                        if (at(x, y)[3] == 1.0f) front.push_back({x, y});
                std::vector<bool> known(static_cast<std::size_t>(area.width) * static_cast<std::size_t>(area.height),
                                        false);
                const auto seen = [&](int x, int y) {
                    return known[static_cast<std::size_t>(y - y0) * static_cast<std::size_t>(area.width) +
                                 static_cast<std::size_t>(x - x0)];
                };
                for (const glm::ivec2& p : front)
                    seen(p.x, p.y) = true;
                for (std::size_t i = 0; i < front.size(); ++i) {
                    const glm::ivec2 p = front[i];
                    for (const glm::ivec2 way :
                         {glm::ivec2(1, 0), {-1, 0}, {0, 1}, {0, -1}, {1, 1}, {1, -1}, {-1, 1}, {-1, -1}}) {
                        const glm::ivec2 q = p + way;
                        if (q.x < x0 || q.y < y0 || q.x >= x1 || q.y >= y1 || seen(q.x, q.y)) continue;
                        seen(q.x, q.y) = true;
                        const float* from = at(p.x, p.y);
                        float* to = at(q.x, q.y);
                        std::copy(from, from + 3, to);
                        to[3] = 0.5f;
                        front.push_back(q);
                    }
                }
            }
    }
};

LightMapBake::LightMapBake(std::unique_ptr<State> state) : state_(std::move(state)) {}
LightMapBake::~LightMapBake() = default;

Result<std::unique_ptr<LightMapBake>> LightMapBake::begin(const Scene& scene, const Setup& setup,
                                                          const LightMapOptions& options) {
    auto layout = lay_out_light_map(scene, setup, options.density);
    if (!layout) return tl::unexpected(layout.error());
    if (scene.bakes.empty()) return fail("a light map is kept beside a project", "bake", "Save the project first.");
    std::error_code error;
    std::filesystem::create_directories(scene.bakes, error);
    if (error) return fail("the folder cannot be made: " + error.message(), scene.bakes, "Choose another place.");
    auto s = std::make_unique<State>();
    s->scene = scene;
    s->options = options;
    s->layout = std::move(*layout);
    s->digest = light_map_digest(scene, setup, options);
    s->files = light_map_files(scene.bakes, s->digest);
    s->rays = std::make_shared<RayScene>(scene);
    truth::Options o;
    o.bounces = options.bounces;
    o.skyAround = true;
    o.layer = truth::Layer::direct;
    s->direct = std::make_unique<truth::PathTracer>(scene, setup, View(), o, s->rays);
    o.layer = truth::Layer::indirect;
    s->indirect = std::make_unique<truth::PathTracer>(scene, setup, View(), o, s->rays);
    s->targets = targets_of(scene, s->layout);
    for (auto& sums : s->sums)
        sums.assign(s->targets.size(), glm::vec3(0.0f));
    s->covered.assign(s->targets.size(), 0);
    s->take_kept();
    return std::unique_ptr<LightMapBake>(new LightMapBake(std::move(s)));
}

bool LightMapBake::work(double milliseconds, const std::atomic<bool>* stop) {
    State& s = *state_;
    const auto start = std::chrono::steady_clock::now();
    const auto passed = [&] {
        return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    };
    constexpr std::size_t together = 64; // texels between two looks at the clock
    while (s.done < s.targets.size() && passed() < milliseconds && !(stop && *stop)) {
        const std::size_t first = s.done, last = std::min(first + together, s.targets.size());
        std::atomic<std::uint64_t> taken{0};
        parallel_for(0, static_cast<int>(last - first), [&](int i) {
            std::uint64_t own = 0;
            s.bake(first + static_cast<std::size_t>(i), own);
            taken += own;
        });
        s.raysTaken += taken;
        s.done = last;
    }
    s.seconds += passed() / 1000;
    return s.done == s.targets.size();
}

Result<void> LightMapBake::keep() {
    const State& s = *state_;
    json meshes = json::array(), places = json::array();
    for (const MappedMesh& m : s.layout.meshes)
        meshes.push_back({{"width", m.width},
                          {"height", m.height},
                          {"density", m.density},
                          {"charts", m.flat.charts.size()},
                          {"stretch", m.flat.stretch()}});
    for (const LightMapLayout::Place& p : s.layout.places)
        places.push_back({{"object", object_name(s.scene, p.object).id},
                          {"mesh", p.mesh},
                          {"x", p.x},
                          {"y", p.y},
                          {"density", p.density}});
    if (auto ok = write_exr(s.files.direct, s.plain(0)); !ok) return ok;
    if (auto ok = write_exr(s.files.indirect, s.plain(1)); !ok) return ok;
    return write_file_atomically(s.files.index, json{{"schema", light_map_schema},
                                                     {"version", light_map_version},
                                                     {"digest", s.digest},
                                                     {"width", s.layout.width},
                                                     {"height", s.layout.height},
                                                     {"density", s.options.density},
                                                     {"samples", s.options.samples},
                                                     {"bounces", s.options.bounces},
                                                     {"texels", s.targets.size()},
                                                     {"done", s.done},
                                                     {"area", s.layout.area},
                                                     {"meshes", meshes},
                                                     {"places", places},
                                                     {"remarks", s.layout.remarks}}
                                                    .dump(1));
}

LightMapBake::Progress LightMapBake::progress() const {
    const State& s = *state_;
    const std::size_t own = s.done - s.doneBefore;
    return {s.done, s.targets.size(), s.seconds,
            own > 0 ? s.seconds / double(own) * double(s.targets.size() - s.done) : 0, s.raysTaken};
}
const std::string& LightMapBake::digest() const {
    return state_->digest;
}
const std::string& LightMapBake::remark() const {
    return state_->remark;
}

LightMap LightMapBake::map() const {
    LightMap out{state_->layout, state_->plain(0), state_->plain(1)};
    state_->fill(out.direct);
    state_->fill(out.indirect);
    return out;
}

} // namespace mirolux
