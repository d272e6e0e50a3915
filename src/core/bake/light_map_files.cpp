#include "core/bake/light_map_files.h"
#include "core/bake/light_map_table.h"
#include "core/bake/texel_work.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/scene/project.h"
#include <algorithm>
#include <fmt/format.h>

namespace mirolux {

using nlohmann::json;

namespace {

constexpr const char* light_map_schema = "mirolux.lightMap";
constexpr int light_map_version = 3; // 3: straight light of every lamp, over a texel's surface

} // namespace

std::optional<LightMapIndex> read_light_map_index(const std::filesystem::path& file) {
    auto common = read_baked_index(file, light_map_schema, light_map_version);
    if (!common) return std::nullopt;
    try {
        LightMapIndex out;
        out.options = {common->density, common->samples, common->rest.at("bounces").get<int>(),
                       common->rest.value("source", "paths") == "patches"};
        out.unshot = common->rest.value("unshot", 0.0);
        for (const json& s : common->rest.at("switched"))
            out.switched.push_back({s.at("light").get<int>(), s.at("intensity").get<float>()});
        out.common = std::move(*common);
        return out;
    } catch (const json::exception&) {
        return std::nullopt;
    }
}

namespace {

/// Maps of the scene as it stands.
BakedQuestion question_of(const Scene& scene, const Setup& setup) {
    return {scene.bakes,
            "lightmap-",
            light_map_schema,
            light_map_version,
            light_map_scene_digest(scene, setup),
            light_map_files(scene.bakes, light_map_digest(scene, setup, light_map_options(setup))).index,
            0};
}

} // namespace

std::vector<KnownMap> known_maps(const Scene& scene, const Setup& setup) {
    std::vector<KnownMap> out;
    if (scene.bakes.empty()) return out;
    for (const auto& [file, common] : all_baked(question_of(scene, setup)))
        if (const auto index = read_light_map_index(file))
            out.push_back(
                {file, index->options, common.width, common.height, 1 + static_cast<int>(index->switched.size())});
    std::sort(out.begin(), out.end(), [](const KnownMap& a, const KnownMap& b) {
        if (a.options.density != b.options.density) return a.options.density > b.options.density;
        if (a.options.patches != b.options.patches) return b.options.patches;
        return a.options.samples > b.options.samples;
    });
    out.erase(std::unique(out.begin(), out.end(),
                          [](const KnownMap& a, const KnownMap& b) {
                              return a.options.density == b.options.density && a.options.patches == b.options.patches;
                          }),
              out.end());
    return out;
}

std::filesystem::path find_light_map(const Scene& scene, const Setup& setup, std::string* remark) {
    const auto say = [&](const std::string& text) {
        if (remark) *remark = text;
        return std::filesystem::path();
    };
    if (scene.bakes.empty()) return say("A light map is kept beside a project: save it, then bake.");
    const BakedQuestion question = question_of(scene, setup);
    const BakedAnswer answer = find_baked(question);
    switch (answer.state) {
    case BakedState::found:
        if (const auto index = read_light_map_index(answer.index); remark && index) {
            if (answer.index != question.exact)
                *remark = index->options.patches
                              ? fmt::format("The light map in use is of patches, {} a metre: it was baked so.",
                                            index->options.density)
                              : fmt::format("The light map in use has {} texels a metre and {} paths a texel: it was "
                                            "baked so.",
                                            index->options.density, index->options.samples);
            if (index->unshot > 0)
                *remark += fmt::format("{}{:.1f} % of the light is not shot on yet.", remark->empty() ? "" : " ",
                                       100 * index->unshot);
        }
        return answer.index;
    case BakedState::under:
        return say("The light map is not computed to its end: surfaces are lit live. Bake goes on where it was.");
    case BakedState::stale:
        return say("The light map is stale: what stands still, a still light or the sky has changed since. Surfaces "
                   "are lit live; bake again.");
    case BakedState::none:
        break;
    }
    return say("No light map was baked yet: surfaces are lit live.");
}

FloatImage empty_map(const LightMapLayout& layout) {
    FloatImage out{layout.width, layout.height, 4, {}};
    out.data.assign(4 * static_cast<std::size_t>(layout.width) * static_cast<std::size_t>(layout.height), 0.0f);
    return out;
}

namespace {

/// What has no light of its own takes the nearest: in charts, for lookups; between them, for then blocks of texels that
/// are stored together differ less.
void fill(FloatImage& image, const LightMapLayout& layout) {
    std::vector<std::uint8_t> known(image.data.size() / 4);
    for (std::size_t i = 0; i < known.size(); ++i)
        known[i] = image.data[4 * i + 3] == 1.0f;
    const auto copy = [&](float alpha) {
        return [&image, alpha](std::size_t from, std::size_t to) {
            std::copy_n(&image.data[4 * from], 3, &image.data[4 * to]);
            if (alpha > 0) image.data[4 * to + 3] = alpha;
        };
    };
    spread_in_charts(layout, known, copy(0.5f));
    spread_between(layout, known, copy(0));
}

} // namespace

void fill(LightOfMap& light, const LightMapLayout& layout) {
    for (FloatImage* image : {&light.direct, &light.indirect, &light.toward[0], &light.toward[1], &light.toward[2]})
        fill(*image, layout);
}

std::optional<LightOfMap> read_layer(const LightMapFiles& files, int width, int height) {
    LightOfMap out;
    const auto take = [&](const std::filesystem::path& file, FloatImage& to) {
        auto image = read_exr(file);
        if (!image || image->width != width || image->height != height || image->channels < 4) return false;
        to = std::move(*image);
        return true;
    };
    if (!take(files.direct, out.direct) || !take(files.indirect, out.indirect)) return std::nullopt;
    for (std::size_t c = 0; c < 3; ++c)
        if (!take(files.toward[c], out.toward[c])) return std::nullopt;
    return out;
}

Result<LightMap> read_light_map(const Scene& scene, const Setup& setup, const std::filesystem::path& file) {
    const auto damaged = [&] {
        return fail("a file of the light map is missing or damaged", file.string(), "Delete it and bake again.");
    };
    const auto index = read_light_map_index(file);
    if (!index) return damaged();
    const auto kept = kept_layout(scene, setup, index->options.density);
    if (!*kept) return tl::unexpected(kept->error());
    const LightMapLayout* layout = &**kept;
    if (layout->width != index->common.width || layout->height != index->common.height) return damaged();
    const std::string name = file.stem().string();
    LightMap out{*layout, index->options.density, {}};
    std::vector<LightMapIndex::Switched> all = {{-1, 1}};
    all.insert(all.end(), index->switched.begin(), index->switched.end());
    for (const LightMapIndex::Switched& s : all) {
        auto layer = read_layer(light_map_files(file.parent_path(), name.substr(9), s.light), index->common.width,
                                index->common.height);
        if (!layer) return damaged();
        layer->light = s.light;
        layer->intensity = s.intensity;
        fill(*layer, out.layout);
        out.layers.push_back(std::move(*layer));
    }
    return out;
}

Result<void> write_light_map(const Scene& scene, const LightMapLayout& layout, const std::vector<LightOfMap>& layers,
                             const LightMapIndex& index, const std::string& digest) {
    json meshes = json::array(), places = json::array(), switched = json::array();
    for (const MappedMesh& m : layout.meshes)
        meshes.push_back({{"width", m.width},
                          {"height", m.height},
                          {"density", m.density},
                          {"charts", m.flat.charts.size()},
                          {"stretch", m.flat.stretch()}});
    for (const LightMapLayout::Place& p : layout.places)
        places.push_back({{"object", object_name(scene, p.object).id},
                          {"mesh", p.mesh},
                          {"x", p.x},
                          {"y", p.y},
                          {"density", p.density}});
    for (const LightOfMap& l : layers) {
        if (l.light >= 0) switched.push_back({{"light", l.light}, {"intensity", l.intensity}});
        const LightMapFiles files = light_map_files(scene.bakes, digest, l.light);
        if (auto ok = write_exr(files.direct, l.direct); !ok) return ok;
        if (auto ok = write_exr(files.indirect, l.indirect); !ok) return ok;
        for (std::size_t c = 0; c < 3; ++c)
            if (auto ok = write_exr(files.toward[c], l.toward[c]); !ok) return ok;
    }
    BakedIndex common = index.common;
    common.density = index.options.density;
    common.samples = index.options.samples;
    common.width = layout.width;
    common.height = layout.height;
    common.rest = {{"digest", digest},
                   {"source", index.options.patches ? "patches" : "paths"},
                   {"unshot", index.unshot},
                   {"switched", switched},
                   {"bounces", index.options.bounces},
                   {"area", layout.area},
                   {"meshes", meshes},
                   {"places", places},
                   {"remarks", layout.remarks}};
    return write_file_atomically(light_map_files(scene.bakes, digest).index,
                                 to_json(common, light_map_schema, light_map_version).dump(1));
}

} // namespace mirolux
