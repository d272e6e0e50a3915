#include "core/bake/mask_bake.h"
#include "core/bake/baked_light.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "core/light/falloff.h"
#include "core/light/head_lamp.h"
#include "core/motion/scene_at.h"
#include "core/shadow/shadow_set.h"
#include "core/sky/sky_model.h"
#include "core/truth/integrals.h"
#include "core/truth/path_tracer.h"
#include "core/visibility/baked_file.h"
#include <bit>
#include <cmath>
#include <fmt/format.h>

namespace mirolux {

using nlohmann::json;

/// A lamp as texels see it.
struct StayingLamp {
    Light light;
    float reach = 0;    // metres; 0: everywhere
    double opacity = 1; // of its shadow
};

namespace {

constexpr const char* masks_schema = "mirolux.bakedMasks";
constexpr int masks_version = 1;
constexpr int first_rays = 5; // where they agree, no edge of a shadow lies on the texel

/// What stays where it is, of the scene's lamps and those of the sky.
std::vector<StayingLamp> staying_lamps(const Scene& scene, const Setup& setup) {
    const auto mobilities = mobilities_of(scene);
    std::vector<StayingLamp> out;
    for (const Light& l : lights_of(scene, setup, View())) {
        const double opacity = shadow_look(l, setup).opacity;
        if (l.id == head_lamp_id || l.shadow.mode == ShadowMode::none || opacity <= 0) continue;
        const auto own =
            std::find_if(scene.lights.begin(), scene.lights.end(), [&](const Light& s) { return s.id == l.id; });
        if (own != scene.lights.end() &&
            (*mobilities)[static_cast<std::size_t>(own - scene.lights.begin())] == Mobility::moving)
            continue;
        out.push_back({l,
                       l.type == LightType::directional
                           ? 0
                           : derived_range(l, static_cast<float>(setup.number("light.threshold"))),
                       opacity});
    }
    return out;
}

/// Whether a lamp may light a texel: in reach, within its cone, before the surface, each with room for what lookups
/// between texels and bumps of the surface take in.
bool reaches(const StayingLamp& lamp, const SurfacePoint& p, float room) {
    constexpr float behind = -0.35f; // cosine: bumps turn a surface so far
    if (lamp.light.type == LightType::directional) return glm::dot(p.normal, -lamp.light.direction) > behind;
    const glm::vec3 v = lamp.light.position - p.position;
    const float metres = glm::length(v);
    if (lamp.reach > 0 && metres > lamp.reach + room) return false;
    if (!(metres > 1e-6f)) return true;
    if (glm::dot(p.normal, v) < behind * metres) return false;
    if (lamp.light.type == LightType::point) return true;
    const float angle = std::acos(std::clamp(-glm::dot(v, lamp.light.direction) / metres, -1.0f, 1.0f));
    return angle <= lamp.light.outerConeAngle + std::atan(room / metres);
}

using Bits = std::vector<std::uint64_t>;

/// A channel for each lamp, -1 where none is left: those that reach a texel in common have different ones. Lamps with
/// most others in their way choose first.
std::vector<int> channels_of(const std::vector<Bits>& reached) {
    const std::size_t count = reached.size();
    std::vector<std::vector<std::size_t>> beside(count);
    for (std::size_t a = 0; a < count; ++a)
        for (std::size_t b = a + 1; b < count; ++b)
            for (std::size_t w = 0; w < reached[a].size(); ++w)
                if (reached[a][w] & reached[b][w]) {
                    beside[a].push_back(b);
                    beside[b].push_back(a);
                    break;
                }
    std::vector<std::size_t> order(count);
    for (std::size_t i = 0; i < count; ++i)
        order[i] = i;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return beside[a].size() > beside[b].size(); });
    std::vector<int> out(count, -1);
    for (const std::size_t i : order) {
        std::uint64_t taken = 0;
        for (const std::size_t other : beside[i])
            if (out[other] >= 0) taken |= std::uint64_t(1) << out[other];
        out[i] = taken == ~std::uint64_t(0) ? -1 : std::countr_one(taken);
    }
    return out;
}

} // namespace

MaskOptions mask_options(const Setup& setup) {
    return {static_cast<float>(setup.number("lightmap.density")), setup.whole("shadow.bakedRays")};
}
bool uses_masks(const Setup& setup) {
    return setup.stage == Stage::solid && setup.flag("shadow.baked");
}

int BakedMasks::channel_of(int light) const {
    for (const Lamp& l : lamps)
        if (l.light == light) return l.channel;
    return -1;
}

std::string masks_scene_digest(const Scene& scene, const Setup& setup) {
    json all = json::array();
    for (const StayingLamp& l : staying_lamps(scene, setup))
        all.push_back({l.light.id, word(l.light.type), to_array(l.light.position), to_array(l.light.direction),
                       l.light.outerConeAngle, l.light.sourceSize, l.reach, l.opacity});
    Digest d;
    const std::string text = surfaces_digest(scene, setup, {}) + all.dump();
    d.add(text.data(), text.size());
    return d.hex();
}
std::string masks_digest(const Scene& scene, const Setup& setup, const MaskOptions& options) {
    Digest d;
    const std::string text = masks_scene_digest(scene, setup) + json{options.density, options.samples}.dump();
    d.add(text.data(), text.size());
    return d.hex();
}
std::filesystem::path masks_index(const std::filesystem::path& bakes, const std::string& digest) {
    return bakes / ("masks-" + digest + ".json");
}
std::filesystem::path masks_sheet(const std::filesystem::path& index, int sheet) {
    return index.parent_path() / (index.stem().string() + "." + std::to_string(sheet) + ".png");
}

std::filesystem::path find_masks(const Scene& scene, const Setup& setup, float density, std::string* remark) {
    if (remark) remark->clear();
    const auto say = [&](const std::string& text) {
        if (remark) *remark = text;
        return std::filesystem::path();
    };
    if (scene.bakes.empty()) return say("Baked masks are kept beside a project: save it, then bake.");
    MaskOptions options = mask_options(setup);
    if (density > 0) options.density = density;
    const BakedQuestion question{scene.bakes,
                                 "masks-",
                                 masks_schema,
                                 masks_version,
                                 masks_scene_digest(scene, setup),
                                 masks_index(scene.bakes, masks_digest(scene, setup, options)),
                                 density};
    const BakedAnswer answer = find_baked(question);
    switch (answer.state) {
    case BakedState::found:
        if (remark && answer.index != question.exact)
            *remark = fmt::format("The baked masks in use have {} texels a metre and {} rays: they were baked so.",
                                  answer.held->density, answer.held->samples);
        return answer.index;
    case BakedState::under:
        return say("The baked masks are not computed to their end: shadows are live. Bake goes on where it was.");
    case BakedState::stale:
        return say("The baked masks are stale: what stands still or a lamp's place has changed since. Shadows are "
                   "live; bake again.");
    case BakedState::none:
        break;
    }
    return say(
        density > 0
            ? fmt::format("No masks were baked with the light map's {} texels a metre: shadows are live.", density)
            : "No masks were baked yet: shadows are live.");
}

namespace {

json to_json(const std::vector<BakedMasks::Lamp>& lamps) {
    json out = json::array();
    for (const BakedMasks::Lamp& l : lamps)
        out.push_back({{"light", l.light}, {"channel", l.channel}});
    return out;
}

int sheets_of(const std::vector<BakedMasks::Lamp>& lamps) {
    int most = -1;
    for (const BakedMasks::Lamp& l : lamps)
        most = std::max(most, l.channel);
    return most / 4 + 1;
}

} // namespace

Result<BakedMasks> read_masks(const std::filesystem::path& file) {
    const auto damaged = [&] {
        return fail("a file of the baked masks is missing or damaged", file.string(), "Delete it and bake again.");
    };
    const auto index = read_baked_index(file, masks_schema, masks_version);
    if (!index) return damaged();
    BakedMasks out;
    out.index = file;
    out.options = {index->density, index->samples};
    out.width = index->width;
    out.height = index->height;
    try {
        for (const json& l : index->rest.at("lamps"))
            out.lamps.push_back({l.at("light").get<int>(), l.at("channel").get<int>()});
    } catch (const json::exception&) {
        return damaged();
    }
    for (const BakedMasks::Lamp& l : out.lamps)
        if (l.channel < -1 || l.channel >= most_mask_channels) return damaged();
    for (int i = 0; i < sheets_of(out.lamps); ++i) {
        auto sheet = read_png(masks_sheet(file, i));
        if (!sheet || sheet->width != out.width || sheet->height != out.height) return damaged();
        out.sheets.push_back(std::move(*sheet));
    }
    return out;
}

struct MaskBake::State {
    TexelWork work;
    std::vector<StayingLamp> lamps;
    BakedMasks masks;
    std::string scene;
    std::vector<std::uint8_t> known; // by target
    double housing = truth::Options().housing;

    std::uint8_t& at(std::size_t texel, int channel) {
        return masks.sheets[static_cast<std::size_t>(channel / 4)]
            .rgba[4 * texel + static_cast<std::size_t>(channel % 4)];
    }
    void bake(std::size_t place, std::uint64_t& taken) {
        const MapPoint& target = work.targets[place];
        known[place] = !covered_up(*work.rays, target.point, taken);
        if (!known[place]) return;
        const std::vector<SurfacePoint> points =
            spread_over(target, *work.rays, std::max(1, masks.options.samples), taken);
        const float texel = std::max(glm::length(target.across), glm::length(target.down));
        for (std::size_t l = 0; l < lamps.size(); ++l) {
            const int channel = masks.lamps[l].channel;
            if (channel < 0 || !reaches(lamps[l], target.point, 2 * texel)) continue;
            truth::Sampler sampler(static_cast<std::uint32_t>(place), static_cast<std::uint32_t>(l), 1,
                                   truth::Sequence::sobol);
            double sum = 0;
            int asked = 0;
            for (; asked < masks.options.samples; ++asked) {
                if (asked == first_rays && (sum == 0 || sum == first_rays)) break;
                sum += truth::visibility_sample(*work.rays, points[static_cast<std::size_t>(asked) % points.size()],
                                                lamps[l].light, housing,
                                                lamps[l].light.sourceSize > 0 ? sampler.two() : glm::dvec2(0.0));
                ++taken;
            }
            const double left = 1 - lamps[l].opacity * (1 - std::clamp(sum / asked, 0.0, 1.0));
            at(target.texel, channel) = static_cast<std::uint8_t>(std::lround(255 * left));
        }
    }
    void make_sheets() {
        ByteImage sheet{masks.width, masks.height, {}};
        sheet.rgba.assign(4 * static_cast<std::size_t>(masks.width) * static_cast<std::size_t>(masks.height), 255);
        masks.sheets.assign(static_cast<std::size_t>(sheets_of(masks.lamps)), sheet);
    }
    void choose_channels() {
        std::vector<Bits> reached(lamps.size(), Bits((work.targets.size() + 63) / 64, 0));
        parallel_for(0, static_cast<int>(lamps.size()), [&](int i) {
            const auto l = static_cast<std::size_t>(i);
            for (std::size_t t = 0; t < work.targets.size(); ++t) {
                const MapPoint& p = work.targets[t];
                const float texel = std::max(glm::length(p.across), glm::length(p.down));
                if (reaches(lamps[l], p.point, 2 * texel)) reached[l][t / 64] |= std::uint64_t(1) << t % 64;
            }
        });
        const std::vector<int> channels = channels_of(reached);
        for (std::size_t l = 0; l < lamps.size(); ++l)
            masks.lamps.push_back({lamps[l].light.id, channels[l]});
        make_sheets();
    }
    /// What a run before has left; false: it is damaged.
    bool take_kept(std::size_t& done) {
        const auto index = read_baked_index(masks.index, masks_schema, masks_version);
        auto kept = read_masks(masks.index);
        if (!index || !kept || index->all != work.targets.size() || kept->sheets.size() != masks.sheets.size() ||
            kept->width != masks.width || kept->height != masks.height || to_json(kept->lamps) != to_json(masks.lamps))
            return false;
        done = index->done;
        parallel_for(0, static_cast<int>(done), [&](int i) {
            std::uint64_t taken = 0;
            const auto k = static_cast<std::size_t>(i);
            known[k] = !covered_up(*work.rays, work.targets[k].point, taken);
            if (!known[k]) return; // what was filled in is filled in again
            for (std::size_t sheet = 0; sheet < masks.sheets.size(); ++sheet)
                std::copy_n(&kept->sheets[sheet].rgba[4 * work.targets[k].texel], 4,
                            &masks.sheets[sheet].rgba[4 * work.targets[k].texel]);
        });
        return true;
    }
    BakedMasks filled(std::size_t done) const {
        BakedMasks out = masks;
        std::vector<std::uint8_t> has(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height), 0);
        for (std::size_t i = 0; i < done; ++i)
            if (known[i]) has[work.targets[i].texel] = 1;
        const auto copy = [&](std::size_t from, std::size_t to) {
            for (ByteImage& s : out.sheets)
                std::copy_n(&s.rgba[4 * from], 4, &s.rgba[4 * to]);
        };
        spread_in_charts(*work.layout, has, copy);
        return out;
    }
};

MaskBake::MaskBake(std::unique_ptr<State> state) : state_(std::move(state)) {}
MaskBake::~MaskBake() = default;

Result<std::unique_ptr<MaskBake>> MaskBake::begin(const Scene& scene, const Setup& setup, const MaskOptions& options) {
    auto work = texel_work(scene, setup, options.density, "baked masks are");
    if (!work) return tl::unexpected(work.error());
    auto s = std::make_unique<State>();
    s->work = std::move(*work);
    s->lamps = staying_lamps(scene, setup);
    if (s->lamps.empty())
        return fail("no lamp stays where it is", "shadowmask", "Mark lamps as still, switched or mixed.");
    s->scene = masks_scene_digest(scene, setup);
    s->masks.options = options;
    s->masks.width = s->work.layout->width;
    s->masks.height = s->work.layout->height;
    s->masks.index = masks_index(scene.bakes, masks_digest(scene, setup, options));
    s->known.assign(s->work.targets.size(), 0);
    s->choose_channels();
    std::size_t done = 0;
    std::string remark;
    std::error_code e;
    if (std::filesystem::exists(s->masks.index, e) && !s->take_kept(done)) {
        std::vector<std::filesystem::path> files = {s->masks.index};
        for (std::size_t i = 0; i < s->masks.sheets.size(); ++i)
            files.push_back(masks_sheet(s->masks.index, static_cast<int>(i)));
        set_aside(files);
        s->make_sheets();
        remark = "The baked masks of these circumstances were damaged and are set aside: " + s->masks.index.string() +
                 ".damaged.";
    }
    auto out = std::unique_ptr<MaskBake>(new MaskBake(std::move(s)));
    out->set_places(out->state_->work.targets.size(), done, 256);
    out->remark_ = std::move(remark);
    return out;
}

void MaskBake::compute(std::size_t place, std::uint64_t& rays) {
    state_->bake(place, rays);
}

Result<void> MaskBake::keep() {
    const State& s = *state_;
    const BakedMasks whole = s.filled(done());
    for (std::size_t i = 0; i < whole.sheets.size(); ++i)
        if (auto ok = write_png(masks_sheet(whole.index, static_cast<int>(i)), whole.sheets[i]); !ok) return ok;
    return write_file_atomically(whole.index, to_json({s.scene,
                                                       whole.options.density,
                                                       whole.options.samples,
                                                       whole.width,
                                                       whole.height,
                                                       s.work.targets.size(),
                                                       done(),
                                                       {{"lamps", to_json(whole.lamps)}}},
                                                      masks_schema, masks_version)
                                                  .dump(1));
}

const BakedMasks& MaskBake::masks() const {
    return state_->masks;
}
const std::vector<MapPoint>& MaskBake::targets() const {
    return state_->work.targets;
}
const LightMapLayout& MaskBake::layout() const {
    return *state_->work.layout;
}

std::shared_ptr<const BakedMasks> baked_masks_of(const Scene& asked, const Setup& setup, float density,
                                                 std::string* remark, Patience patience) {
    const Scene scene = at_no_time(asked);
    const std::filesystem::path index = find_masks(scene, setup, density, remark);
    const auto state = index.empty() ? std::nullopt : state_of(index);
    if (!state) return nullptr;
    static Beside<FileState, BakedMasks> masks;
    const auto held = masks.of(*state, patience, [index] { return read_masks(index); });
    if (!held) {
        if (remark) *remark = "The baked masks are being read.";
        return nullptr;
    }
    if (!*held) {
        if (remark) *remark = "The baked masks are left out: " + to_text(held->error());
        return nullptr;
    }
    return {held, &**held};
}

} // namespace mirolux
