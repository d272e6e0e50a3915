#include "core/bake/baked_light.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/scene/geometry.h"
#include "core/truth/integrals.h"
#include "core/truth/sampler.h"
#include "core/visibility/baked_file.h"
#include <cmath>
#include <fmt/format.h>

namespace mirolux {

using nlohmann::json;

namespace {

constexpr const char* occlusion_schema = "mirolux.bakedOcclusion";
constexpr int occlusion_version = 1;
constexpr int row_of_vertices = 4096; // in the picture that holds them

std::filesystem::path picture_of(const std::filesystem::path& index) {
    return index.parent_path() / (index.stem().string() + ".png");
}

/// The vertices of all objects that are laid out, each as a point of its surface.
std::vector<MapPoint> vertex_points(const Scene& scene, const LightMapLayout& layout, std::vector<int>& firstOf) {
    firstOf.assign(scene.objects().size(), -1);
    std::vector<MapPoint> out;
    for (const LightMapLayout::Place& place : layout.places) {
        const Object& o = scene.objects()[static_cast<std::size_t>(place.object)];
        const Primitive& mesh = scene.asset->primitives[static_cast<std::size_t>(o.primitive)];
        const glm::mat3 normals = normal_matrix(o.transform);
        firstOf[static_cast<std::size_t>(place.object)] = static_cast<int>(out.size());
        for (const Vertex& v : mesh.vertices) {
            MapPoint p;
            p.texel = out.size();
            p.point.position = glm::vec3(o.transform * glm::vec4(v.position, 1));
            const glm::vec3 n = normals * v.normal;
            p.point.normal = p.point.side = glm::dot(n, n) > 1e-20f ? glm::normalize(n) : glm::vec3(0, 1, 0);
            out.push_back(p);
        }
    }
    return out;
}

} // namespace

OcclusionOptions occlusion_options(const Setup& setup) {
    return {static_cast<float>(setup.number("lightmap.density")), setup.whole("occlusion.bakedRays"),
            static_cast<float>(setup.number("occlusion.within")), setup.choice("occlusion.baked") == "vertices"};
}
bool uses_baked_occlusion(const Setup& setup) {
    return setup.stage == Stage::solid && setup.choice("occlusion.baked") != "none";
}

std::string occlusion_scene_digest(const Scene& scene, const Setup& setup) {
    Digest d;
    const OcclusionOptions o = occlusion_options(setup);
    const std::string text = surfaces_digest(scene, setup, {}) + (o.vertices ? " vertices" : " texels");
    d.add(text.data(), text.size());
    return d.hex();
}
std::string occlusion_digest(const Scene& scene, const Setup& setup, const OcclusionOptions& options) {
    Digest d;
    const std::string text = occlusion_scene_digest(scene, setup) +
                             json{options.vertices ? 0 : options.density, options.samples, options.reach}.dump();
    d.add(text.data(), text.size());
    return d.hex();
}
std::filesystem::path occlusion_index(const std::filesystem::path& bakes, const std::string& digest) {
    return bakes / ("occlusion-" + digest + ".json");
}

Result<BakedOcclusion> read_baked_occlusion(const std::filesystem::path& file) {
    const auto damaged = [&] {
        return fail("a file of the baked occlusion is missing or damaged", file.string(), "Delete it and bake again.");
    };
    const auto index = read_baked_index(file, occlusion_schema, occlusion_version);
    if (!index) return damaged();
    BakedOcclusion out;
    out.index = file;
    out.options.density = index->density;
    out.options.samples = index->samples;
    out.width = index->width;
    out.height = index->height;
    try {
        out.options.reach = index->rest.at("reach").get<float>();
        out.firstOf = index->rest.at("firstOf").get<std::vector<int>>();
        out.options.vertices = index->rest.at("vertices").get<bool>();
    } catch (const json::exception&) {
        return damaged();
    }
    const auto picture = read_png(picture_of(file));
    if (!picture) return damaged();
    const std::size_t texels = picture->rgba.size() / 4;
    if (out.options.vertices ? texels < index->all || picture->width != row_of_vertices
                             : picture->width != out.width || picture->height != out.height)
        return damaged();
    for (const int first : out.firstOf)
        if (first < -1 || first >= static_cast<int>(std::max<std::size_t>(1, index->all))) return damaged();
    out.open.resize(out.options.vertices ? index->all : texels);
    for (std::size_t i = 0; i < out.open.size(); ++i)
        out.open[i] = picture->rgba[4 * i];
    return out;
}

struct OcclusionBake::State {
    TexelWork work;
    BakedOcclusion occlusion;
    std::string scene;
    std::vector<std::uint8_t> known; // by target

    void bake(std::size_t place, std::uint64_t& taken) {
        const MapPoint& target = work.targets[place];
        const bool vertex = occlusion.options.vertices;
        known[place] = vertex || !covered_up(*work.rays, target.point, taken);
        if (!known[place]) return;
        const std::vector<SurfacePoint> points = spread_over(target, *work.rays, vertex ? 1 : 16, taken);
        double sum = 0;
        for (int i = 0; i < occlusion.options.samples; ++i) {
            truth::Sampler at(static_cast<std::uint32_t>(place), static_cast<std::uint32_t>(i), 1,
                              truth::Sequence::sobol);
            sum += truth::occlusion_sample(*work.rays, points[static_cast<std::size_t>(i) % points.size()],
                                           occlusion.options.reach, at.two());
            ++taken;
        }
        occlusion.open[target.texel] = static_cast<std::uint8_t>(
            std::lround(255 * std::clamp(sum / std::max(1, occlusion.options.samples), 0.0, 1.0)));
    }
    BakedOcclusion filled(std::size_t done) const {
        BakedOcclusion out = occlusion;
        if (out.options.vertices) return out;
        std::vector<std::uint8_t> has(out.open.size(), 0);
        for (std::size_t i = 0; i < done; ++i)
            if (known[i]) has[work.targets[i].texel] = 1;
        spread_in_charts(*work.layout, has, [&](std::size_t from, std::size_t to) { out.open[to] = out.open[from]; });
        return out;
    }
    bool take_kept(std::size_t& done) {
        const auto index = read_baked_index(occlusion.index, occlusion_schema, occlusion_version);
        auto kept = read_baked_occlusion(occlusion.index);
        if (!index || !kept || index->all != work.targets.size() || kept->open.size() != occlusion.open.size() ||
            kept->firstOf != occlusion.firstOf)
            return false;
        done = index->done;
        parallel_for(0, static_cast<int>(done), [&](int i) {
            std::uint64_t taken = 0;
            const auto k = static_cast<std::size_t>(i);
            known[k] = occlusion.options.vertices || !covered_up(*work.rays, work.targets[k].point, taken);
            if (known[k]) occlusion.open[work.targets[k].texel] = kept->open[work.targets[k].texel];
        });
        return true;
    }
};

OcclusionBake::OcclusionBake(std::unique_ptr<State> state) : state_(std::move(state)) {}
OcclusionBake::~OcclusionBake() = default;

Result<std::unique_ptr<OcclusionBake>> OcclusionBake::begin(const Scene& scene, const Setup& setup,
                                                            const OcclusionOptions& options) {
    auto work = texel_work(scene, setup, options.density, "baked occlusion is");
    if (!work) return tl::unexpected(work.error());
    auto s = std::make_unique<State>();
    s->work = std::move(*work);
    BakedOcclusion& o = s->occlusion;
    o.options = options;
    if (options.vertices)
        s->work.targets = vertex_points(s->work.scene, *s->work.layout, o.firstOf);
    else {
        o.width = s->work.layout->width;
        o.height = s->work.layout->height;
    }
    o.open.assign(options.vertices ? s->work.targets.size()
                                   : static_cast<std::size_t>(o.width) * static_cast<std::size_t>(o.height),
                  255);
    s->scene = occlusion_scene_digest(scene, setup);
    o.index = occlusion_index(scene.bakes, occlusion_digest(scene, setup, options));
    s->known.assign(s->work.targets.size(), 0);
    std::size_t done = 0;
    std::string remark;
    std::error_code e;
    if (std::filesystem::exists(o.index, e) && !s->take_kept(done)) {
        set_aside({o.index, picture_of(o.index)});
        std::fill(o.open.begin(), o.open.end(), std::uint8_t(255));
        remark = "The baked occlusion of these circumstances was damaged and is set aside: " + o.index.string() +
                 ".damaged.";
    }
    auto out = std::unique_ptr<OcclusionBake>(new OcclusionBake(std::move(s)));
    out->set_places(out->state_->work.targets.size(), done, 256);
    out->remark_ = std::move(remark);
    return out;
}

void OcclusionBake::compute(std::size_t place, std::uint64_t& rays) {
    state_->bake(place, rays);
}
const char* OcclusionBake::places() const {
    return state_->occlusion.options.vertices ? "vertices" : "texels";
}

Result<void> OcclusionBake::keep() {
    const State& s = *state_;
    const BakedOcclusion o = s.filled(done());
    const int wide = o.options.vertices ? row_of_vertices : o.width,
              high = static_cast<int>((o.open.size() + static_cast<std::size_t>(wide) - 1) /
                                      static_cast<std::size_t>(std::max(1, wide)));
    ByteImage picture{wide, high, {}};
    picture.rgba.assign(4 * static_cast<std::size_t>(wide) * static_cast<std::size_t>(high), 255);
    for (std::size_t i = 0; i < o.open.size(); ++i)
        std::fill_n(&picture.rgba[4 * i], 3, o.open[i]);
    if (auto ok = write_png(picture_of(o.index), picture); !ok) return ok;
    return write_file_atomically(
        o.index, to_json({s.scene,
                          o.options.density,
                          o.options.samples,
                          o.width,
                          o.height,
                          s.work.targets.size(),
                          done(),
                          {{"vertices", o.options.vertices}, {"reach", o.options.reach}, {"firstOf", o.firstOf}}},
                         occlusion_schema, occlusion_version)
                     .dump(1));
}

BakedOcclusion OcclusionBake::occlusion() const {
    return state_->filled(done());
}
const std::vector<MapPoint>& OcclusionBake::targets() const {
    return state_->work.targets;
}

namespace {

std::filesystem::path find_occlusion(const Scene& scene, const Setup& setup, float density, std::string* remark) {
    if (remark) remark->clear();
    const auto say = [&](const std::string& text) {
        if (remark) *remark = text;
        return std::filesystem::path();
    };
    if (scene.bakes.empty()) return say("Baked occlusion is kept beside a project: save it, then bake.");
    OcclusionOptions options = occlusion_options(setup);
    if (options.vertices) density = 0;
    if (density > 0) options.density = density;
    const BakedQuestion question{scene.bakes,
                                 "occlusion-",
                                 occlusion_schema,
                                 occlusion_version,
                                 occlusion_scene_digest(scene, setup),
                                 occlusion_index(scene.bakes, occlusion_digest(scene, setup, options)),
                                 density};
    const BakedAnswer answer = find_baked(question);
    switch (answer.state) {
    case BakedState::found:
        if (remark && answer.index != question.exact)
            *remark = fmt::format("The baked occlusion in use has {} texels a metre, {} rays and reaches {} m: it was "
                                  "baked so.",
                                  answer.held->density, answer.held->samples, answer.held->rest.value("reach", 0.0));
        return answer.index;
    case BakedState::under:
        return say("The baked occlusion is not computed to its end: it is left out. Bake goes on where it was.");
    case BakedState::stale:
        return say("The baked occlusion is stale: what stands still has changed since. It is left out; bake again.");
    case BakedState::none:
        break;
    }
    return say(density > 0
                   ? fmt::format("No occlusion was baked with the map's {} texels a metre: it is left out.", density)
                   : "No occlusion was baked yet: it is left out.");
}

} // namespace

std::shared_ptr<const BakedOcclusion> baked_occlusion_of(const Scene& asked, const Setup& setup, float density,
                                                         std::string* remark, Patience patience) {
    const Scene scene = at_no_time(asked);
    std::string said;
    const std::filesystem::path index = find_occlusion(scene, setup, density, &said);
    if (remark) *remark = said;
    const auto state = index.empty() ? std::nullopt : state_of(index);
    if (!state) return nullptr;
    static Beside<FileState, BakedOcclusion> all;
    const auto held = all.of(*state, patience, [index] { return read_baked_occlusion(index); });
    if (!held) {
        if (remark) *remark = "The baked occlusion is being read.";
        return nullptr;
    }
    if (!*held) {
        if (remark) *remark = "The baked occlusion is left out: " + to_text(held->error());
        return nullptr;
    }
    return {held, &**held};
}

} // namespace mirolux
