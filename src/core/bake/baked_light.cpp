#include "core/bake/baked_light.h"
#include "core/bake/map_finish.h"
#include "core/bake/probe_grid.h"
#include "core/bake/stale_bakes.h"
#include "core/base/parallel.h"
#include "core/base/recent.h"
#include "core/light/luminance.h"
#include "core/motion/scene_at.h"
#include "core/visibility/baked_file.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

const char* word(DirectionKind kind) {
    return kind == DirectionKind::plain ? "plain" : kind == DirectionKind::dominant ? "dominant" : "harmonics";
}
DirectionKind direction_kind(const Setup& setup) {
    const std::string& k = setup.choice("lightmap.kind");
    return k == "plain" ? DirectionKind::plain : k == "dominant" ? DirectionKind::dominant : DirectionKind::harmonics;
}
TexelStore texel_store(const Setup& setup) {
    for (const TexelStore s : all_texel_stores)
        if (setup.choice("lightmap.store") == word(s)) return s;
    return TexelStore::half;
}
bool uses_light_map(const Setup& setup) {
    return setup.stage == Stage::solid && setup.choice("indirect.kind") == "lightmap";
}

std::size_t BakedLight::bytes() const {
    std::size_t sum = 0;
    for (const StoredLayer& l : layers) {
        sum += l.texels.bytes.size();
        for (const ByteImage& t : l.toward)
            sum += t.rgba.size();
    }
    return sum;
}

namespace {

FloatImage joined_light(const LightOfMap& light) {
    FloatImage out = light.direct;
    for (std::size_t i = 0; i < out.data.size(); ++i)
        if (i % 4 != 3) out.data[i] += light.indirect.data[i];
    return out;
}

std::vector<ByteImage> directions(const LightOfMap& light, DirectionKind kind) {
    const FloatImage& any = light.direct;
    std::vector<ByteImage> out;
    for (int c = 0; c < directions_of(kind); ++c) {
        ByteImage image{any.width, any.height, {}};
        image.rgba.resize(4 * static_cast<std::size_t>(any.width) * static_cast<std::size_t>(any.height));
        parallel_for(0, any.height, [&](int y) {
            for (int x = 0; x < any.width; ++x) {
                const float *straight = light.direct.pixel(x, y), *bounced = light.indirect.pixel(x, y);
                glm::dvec3 v(0.0);
                double all = 0;
                for (int k = 0; k < 3; ++k) {
                    const double share =
                        kind == DirectionKind::harmonics ? k == c : luminance(glm::dvec3(k == 0, k == 1, k == 2));
                    const float* t = light.toward[static_cast<std::size_t>(k)].pixel(x, y);
                    v += share * glm::dvec3(t[0], t[1], t[2]);
                    all += share * double(straight[k] + bounced[k]);
                }
                if (all > 0) v /= all;
                if (const double l = glm::length(v); l > 1) v /= l;
                std::uint8_t* to = &image.rgba[4 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(any.width) +
                                                    static_cast<std::size_t>(x))];
                for (int k = 0; k < 3; ++k)
                    to[k] = static_cast<std::uint8_t>(std::lround(127.5 * (v[k] + 1)));
                to[3] = 255;
            }
        });
        out.push_back(std::move(image));
    }
    return out;
}

} // namespace

StoredLayer stored_layer(const LightOfMap& light, TexelStore store, DirectionKind kind) {
    return {light.light, light.intensity, stored(joined_light(light), store), directions(light, kind)};
}

namespace {

/// What a folder holds for a scene; asked again when the folder changes.
struct MapQuestion {
    std::string bakes, scene, options;
    std::filesystem::file_time_type folder{};
    bool operator==(const MapQuestion&) const = default;
};
struct MapFound {
    std::filesystem::path index;
    std::string remark;
};
std::shared_ptr<const MapFound> found_for(const Scene& scene, const Setup& setup) {
    static Recent<MapQuestion, MapFound> kept(4);
    std::error_code e;
    MapQuestion asked{scene.bakes, {}, {}, {}};
    if (!scene.bakes.empty()) {
        asked.scene = light_map_scene_digest(scene, setup);
        asked.options = light_map_digest(scene, setup, light_map_options(setup));
        asked.folder = std::filesystem::last_write_time(scene.bakes, e);
    }
    return kept.of(asked, [&](const MapQuestion&) {
        MapFound out;
        out.index = find_light_map(scene, setup, &out.remark);
        return out;
    });
}

/// A map read, and as it was finished: kept apart from how it is stored.
struct Finished {
    FileState state;
    bool stitched = false, denoised = false;
    bool operator==(const Finished&) const = default;
};
struct Stored {
    Finished finished;
    TexelStore store = TexelStore::half;
    DirectionKind kind = DirectionKind::plain;
    bool operator==(const Stored&) const = default;
};

std::shared_ptr<const Result<LightMap>> finished_map(const Scene& scene, const Setup& setup, const Finished& how,
                                                     const std::filesystem::path& index) {
    static Recent<Finished, Result<LightMap>> kept(2);
    return kept.of(how, [&](const Finished&) -> Result<LightMap> {
        Scene still = only_still(scene, setup);
        auto map = read_light_map(scene, setup, index);
        if (!map) return map;
        if (how.denoised) {
            const std::vector<MapPoint> points = map_points(still, map->layout);
            for (LightOfMap& l : map->layers)
                denoise(l, map->layout, points);
        }
        if (how.stitched)
            for (LightOfMap& l : map->layers) {
                stitch(l.direct, map->layout);
                stitch(l.indirect, map->layout);
            }
        return map;
    });
}

} // namespace

namespace {

Result<BakedLight> read_baked(const Scene& scene, const Setup& setup, const Stored& how,
                              const std::filesystem::path& index) {
    const auto map = finished_map(scene, setup, how.finished, index);
    if (!*map) return tl::unexpected(map->error());
    BakedLight out;
    out.index = index;
    out.layout = (*map)->layout;
    out.density = (*map)->density;
    out.store = how.store;
    out.kind = how.kind;
    for (const LightOfMap& l : (*map)->layers)
        out.layers.push_back(stored_layer(l, how.store, how.kind));
    const auto mobilities = mobilities_of(scene);
    for (std::size_t i = 0; i < scene.lights.size(); ++i)
        if ((*mobilities)[i] == Mobility::still || (*mobilities)[i] == Mobility::switched)
            out.lights.push_back(scene.lights[i].id);
    return out;
}

} // namespace

std::shared_ptr<const BakedLight> baked_light_of(const Scene& asked, const Setup& setup, std::string* remark,
                                                 Patience patience) {
    const Scene scene = at_no_time(asked);
    const auto found = found_for(scene, setup);
    if (remark) *remark = found->remark;
    if (found->index.empty()) return nullptr;
    const auto state = state_of(found->index);
    if (!state) return nullptr;
    const Stored how{{*state, setup.flag("lightmap.stitch"), setup.flag("lightmap.denoise")},
                     texel_store(setup),
                     direction_kind(setup)};
    static Beside<Stored, BakedLight> maps;
    const auto held = maps.of(
        how, patience, [scene, setup, how, index = found->index] { return read_baked(scene, setup, how, index); });
    if (!held) {
        if (remark) *remark = "The light map is being read.";
        return nullptr;
    }
    if (!*held) {
        if (remark) *remark = "The light map is left out: " + to_text(held->error());
        return nullptr;
    }
    return {held, &**held};
}

float density_of_map(const Scene& scene, const Setup& setup) {
    const auto light = uses_light_map(setup) ? baked_light_of(scene, setup) : nullptr;
    return light ? light->density : 0;
}

float density_of_parts(const Scene& scene, const Setup& setup) {
    const float density = density_of_map(scene, setup);
    if (density > 0 || !uses_masks(setup)) return density;
    const auto masks = baked_masks_of(scene, setup, 0);
    return masks ? masks->options.density : 0;
}

namespace {

/// Occlusion by vertices of meshes that are cut at charts: what was one vertex is several.
std::shared_ptr<const BakedOcclusion> cut_open(const BakedOcclusion& whole, const LightMapLayout& layout) {
    auto out = std::make_shared<BakedOcclusion>(whole);
    out->open.clear();
    for (const LightMapLayout::Place& p : layout.places) {
        const auto object = static_cast<std::size_t>(p.object);
        const int first = object < whole.firstOf.size() ? whole.firstOf[object] : -1;
        if (first < 0) continue;
        out->firstOf[object] = static_cast<int>(out->open.size());
        for (const std::uint32_t v : layout.meshes[static_cast<std::size_t>(p.mesh)].from)
            out->open.push_back(whole.open[static_cast<std::size_t>(first) + v]);
    }
    return out;
}

} // namespace

std::shared_ptr<const BakedLight> baked_of(const Scene& scene, const Setup& setup) {
    if (setup.stage != Stage::solid || scene.is_flat() || scene.is_blocks() || !scene.asset) return nullptr;
    const auto light = uses_light_map(setup) ? baked_light_of(scene, setup) : nullptr;
    const float density = density_of_parts(scene, setup);
    const auto masks = uses_masks(setup) ? baked_masks_of(scene, setup, light ? light->density : 0) : nullptr;
    const auto occlusion = uses_baked_occlusion(setup) ? baked_occlusion_of(scene, setup, density) : nullptr;
    if (!masks && !occlusion) return light;
    using Parts = std::tuple<std::shared_ptr<const BakedLight>, std::shared_ptr<const BakedMasks>,
                             std::shared_ptr<const BakedOcclusion>>;
    static Recent<Parts, BakedLight> kept(3);
    return kept.of({light, masks, occlusion}, [&](const Parts&) {
        BakedLight out;
        if (light) out = *light;
        out.masks = masks;
        out.occlusion = occlusion;
        const float own = masks ? masks->options.density : occlusion->options.density;
        if (!light && (masks || !occlusion->options.vertices)) {
            const auto layout = kept_layout(at_no_time(scene), setup, own);
            if (*layout) out.layout = **layout; // it was read by this layout
        }
        const auto lies = [&](int width, int height) { // whatever its index says
            return width == out.layout.width && height == out.layout.height;
        };
        if (masks && !lies(masks->width, masks->height)) out.masks.reset();
        if (occlusion && !occlusion->options.vertices && !lies(occlusion->width, occlusion->height))
            out.occlusion.reset();
        if (occlusion && occlusion->options.vertices && !out.layout.places.empty())
            out.occlusion = cut_open(*occlusion, out.layout);
        return out;
    });
}

std::vector<std::string> stale_bakes(const Scene& scene, const Setup& setup) {
    std::vector<std::string> out;
    if (setup.stage != Stage::solid || scene.is_flat() || scene.is_blocks() || !scene.asset) return out;
    const Scene rest = at_no_time(scene);
    const auto ask = [&](bool wanted, const char* name, const auto& remark_of) {
        if (wanted && remark_of().find(" stale:") != std::string::npos) out.emplace_back(name);
    };
    ask(uses_light_map(setup), "light map", [&] { return found_for(rest, setup)->remark; });
    ask(uses_masks(setup), "shadow masks", [&] {
        std::string remark;
        (void)find_masks(rest, setup, density_of_map(scene, setup), &remark);
        return remark;
    });
    ask(uses_baked_occlusion(setup), "occlusion", [&] {
        std::string remark;
        (void)baked_occlusion_of(scene, setup, density_of_parts(scene, setup), &remark);
        return remark;
    });
    ask(setup.choice("indirect.kind") == "probes", "probes in space", [&] {
        std::string remark;
        (void)probe_grid_of(scene, setup, &remark);
        return remark;
    });
    return out;
}

namespace {

using AssetPtr = std::shared_ptr<const SceneAsset>;
using BakedPtr = std::shared_ptr<const BakedLight>;
using PlacedPtr = std::shared_ptr<const PlacedObjects>;

void take_places(std::vector<Object>& objects, const BakedLight& baked, std::size_t firstMesh) {
    for (const LightMapLayout::Place& p : baked.layout.places) {
        Object& o = objects[static_cast<std::size_t>(p.object)];
        o.primitive = static_cast<int>(firstMesh + static_cast<std::size_t>(p.mesh));
        o.map = map_word(p.x, p.y);
    }
}

} // namespace

Scene at_no_time(Scene scene) {
    if (scene.asset && scene.asset->unmapped) scene.asset = scene.asset->unmapped;
    if (scene.placed && scene.placed->unmapped) scene.placed = scene.placed->unmapped;
    if (scene.placed && scene.placed->pose) scene.placed = scene.placed->base;
    scene.baked.reset();
    return scene;
}

Scene with_baked_light(Scene scene, const Setup& setup) {
    if (scene.baked) return scene;
    const BakedPtr baked = baked_of(scene, setup);
    if (!baked) return scene;
    static Recent<std::pair<AssetPtr, BakedPtr>, AssetPtr> assets(3);
    static Recent<std::tuple<AssetPtr, BakedPtr, PlacedPtr>, PlacedPtr> placements(6);
    const AssetPtr plain = scene.asset;
    const PlacedPtr placed = scene.placed;
    const std::size_t first = plain->primitives.size();
    scene.asset = *assets.of({plain, baked}, [&](const auto&) {
        auto out = std::make_shared<SceneAsset>(*plain);
        out->unmapped = plain;
        for (const MappedMesh& m : baked->layout.meshes) {
            out->primitives.push_back(m.mesh);
            std::vector<glm::vec3> places(m.places.size(), glm::vec3(0.0f));
            for (std::size_t i = 0; i < m.mesh.indices.size(); ++i)
                if (const std::uint32_t chart = m.flat.chartOf[i / 3]; chart != Unwrapping::none)
                    places[m.mesh.indices[i]] = {m.places[m.mesh.indices[i]], static_cast<float>(chart)};
            out->primitives.back().places = SharedList<glm::vec3>(std::move(places));
        }
        take_places(out->objects, *baked, first);
        return out;
    });
    if (placed)
        scene.placed = *placements.of({plain, baked, placed}, [&](const auto&) {
            auto out = std::make_shared<PlacedObjects>(*placed);
            out->unmapped = placed;
            take_places(out->objects, *baked, first);
            return out;
        });
    scene.baked = baked;
    return scene;
}

std::vector<glm::vec3> layer_factors(const Scene& scene, double seconds) {
    std::vector<glm::vec3> out(scene.baked ? scene.baked->layers.size() : 0, glm::vec3(0.0f));
    if (out.empty()) return out;
    out[0] = glm::vec3(1.0f);
    const std::vector<Light> lights = lights_at(scene, seconds);
    for (std::size_t i = 1; i < out.size(); ++i)
        for (const Light& l : lights)
            if (l.id == scene.baked->layers[i].light && l.enabled)
                out[i] = effective_color(l) * (l.intensity / scene.baked->layers[i].intensity);
    return out;
}

} // namespace mirolux
