#pragma once
#include "core/bake/baked_index.h"
#include "core/bake/light_map.h"

// How light maps lie in files (docs/baked-format.md).
namespace mirolux {

/// What the index of a light map says beside what all do.
struct LightMapIndex {
    BakedIndex common;
    LightMapOptions options;
    struct Switched {
        int light = -1;
        float intensity = 1;
    };
    std::vector<Switched> switched;
    double unshot = 0; // of patches: share of all light that they have not sent on yet
};
std::optional<LightMapIndex> read_light_map_index(const std::filesystem::path& file);
/// The pictures of a layer, of this size; nothing where one is missing or another's. What lies around surfaces is
/// empty.
std::optional<LightOfMap> read_layer(const LightMapFiles& files, int width, int height);
/// Pictures first, then the index: of it `common.scene`, `all` and `done`, the options and `unshot` are taken.
Result<void> write_light_map(const Scene& scene, const LightMapLayout& layout, const std::vector<LightOfMap>& layers,
                             const LightMapIndex& index, const std::string& digest);

/// Black, four channels.
FloatImage empty_map(const LightMapLayout& layout);
/// What has no light of its own takes the nearest.
void fill(LightOfMap& light, const LightMapLayout& layout);

} // namespace mirolux
