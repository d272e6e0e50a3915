#pragma once
#include "core/bake/beside.h"
#include "core/bake/light_map.h"
#include "core/bake/mask_bake.h"
#include "core/bake/occlusion_bake.h"
#include "core/bake/texel_store.h"

// A light map as frames read it.
namespace mirolux {

/// What a map tells of where its light comes from.
enum class DirectionKind {
    plain,    // nothing: the light that falls on the surface as its vertices face
    dominant, // one direction for all channels, and how far the light comes from there
    harmonics // the same by channel: harmonics of order 1 of the light that falls
};
DirectionKind direction_kind(const Setup& setup);
const char* word(DirectionKind kind);
/// Pictures of directions that a layer has: 0, 1, 3.
inline int directions_of(DirectionKind kind) {
    return kind == DirectionKind::plain ? 0 : kind == DirectionKind::dominant ? 1 : 3;
}
TexelStore texel_store(const Setup& setup);

/// A layer of a map as it is kept in memory.
struct StoredLayer {
    int light = -1; // of a switched one; -1: what never changes
    float intensity = 1;
    StoredTexels texels;
    /// RGBA, 8 bits each: a vector in the world from -1 to 1, the direction that the light comes from on the mean times
    /// how alike those directions are (1: all light comes from there).
    std::vector<ByteImage> toward;
};
/// `light` joined, stored as asked for.
StoredLayer stored_layer(const LightOfMap& light, TexelStore store, DirectionKind kind);

/// What frames take of all that was baked by texel.
struct BakedLight {
    std::filesystem::path index;
    LightMapLayout layout;
    float density = 0; // texels a metre, of the light map
    TexelStore store = TexelStore::half;
    DirectionKind kind = DirectionKind::plain;
    std::vector<StoredLayer> layers;
    std::vector<int> lights;                         // Light::id of those whose straight light is in the map
    std::shared_ptr<const BakedMasks> masks;         // null: none
    std::shared_ptr<const BakedOcclusion> occlusion; // null: none

    bool holds(int light) const { return std::find(lights.begin(), lights.end(), light) != lights.end(); }
    int channel_of(int light) const { return masks ? masks->channel_of(light) : -1; }
    bool lit() const { return !layers.empty(); } // there is a light map
    std::size_t bytes() const;                   // of the light map
};

/// Resources of frames.
inline constexpr const char* light_map_resource = "light map";
inline constexpr const char* light_map_directions_resource = "light map directions";
inline constexpr const char* baked_masks_resource = "baked masks";
inline constexpr const char* baked_occlusion_resource = "baked occlusion";
inline constexpr const char* vertex_occlusion_resource = "vertex occlusion";
/// Each pixel's place in what was baked by texel, over its size; a target of G-buffers where masks are read.
inline constexpr const char* map_place_resource = "map place";

/// True where the setup asks for a light map.
bool uses_light_map(const Setup& setup);
/// The map that holds for the scene as it stands, from its folder of bakes, as the settings have it stored; null where
/// there is none. `remark`: why not, or what there is to say of it. The few asked for last are kept. From any thread.
std::shared_ptr<const BakedLight> baked_light_of(const Scene& scene, const Setup& setup, std::string* remark = nullptr,
                                                 Patience patience = Patience::asSet);
/// All that was baked for the scene and that the setup asks for, in one layout: of the light map where there is one,
/// else of the masks. Null: nothing.
std::shared_ptr<const BakedLight> baked_of(const Scene& scene, const Setup& setup);
/// Texels a metre that masks must have: those of the light map that the setup asks for, where there is one; 0: any will
/// do. And occlusion: the masks' where there is no map.
float density_of_map(const Scene& scene, const Setup& setup);
float density_of_parts(const Scene& scene, const Setup& setup);

/// The scene with what was baked: Scene::baked, meshes cut where charts end (the asset's, and which of them objects
/// have), Object::map. As it is where the setup asks for none, there is none, or it has one. Numbers of objects, and
/// triangles in their order, stay.
Scene with_baked_light(Scene scene, const Setup& setup);

/// The scene without its light map, its objects as they stand where no clip plays: what baked light depends on.
Scene at_no_time(Scene scene);

/// What each layer of Scene::baked is multiplied by at a time: 1 of the first, of switched lights by how they shine.
std::vector<glm::vec3> layer_factors(const Scene& scene, double seconds);

} // namespace mirolux
