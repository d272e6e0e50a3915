#pragma once
#include "core/air/air_volume.h"
#include "core/ambient/probe.h"
#include "core/base/shared_list.h"
#include "core/flat/world.h"
#include "core/light/brdf.h"
#include "core/light/cheap_light.h"
#include "core/light/light.h"
#include "core/motion/clip_play.h"
#include "core/scene/stage.h"
#include "core/visibility/door.h"
#include <cstdint>
#include <glm/glm.hpp>
#include <memory>
#include <string>
#include <vector>

namespace mirolux::blocks {
struct World; // core/blocks/volume.h
using WorldPtr = std::shared_ptr<const World>;
} // namespace mirolux::blocks

namespace mirolux {

struct Rig;        // core/motion/rig.h
struct BakedLight; // core/bake/baked_light.h
struct Built;      // core/scene/built.h

/// 52 bytes, as the vertex buffer holds it.
struct Vertex {
    glm::vec3 position{0.0f};                  // metres, object space
    glm::vec3 normal{0.0f, 1.0f, 0.0f};        // unit
    glm::vec4 tangent{1.0f, 0.0f, 0.0f, 1.0f}; // unit; w is the bitangent's sign, as in glTF
    glm::vec2 uv{0.0f};
    std::uint32_t color = 0xFFFFFFFFu; // linear RGBA, 8 bits each, R lowest
};
static_assert(sizeof(Vertex) == 52);

struct Box {
    glm::vec3 low{3.4e38f}, high{-3.4e38f};
    void add(const glm::vec3& p) {
        low = glm::min(low, p);
        high = glm::max(high, p);
    }
    void add(const Box& b) {
        low = glm::min(low, b.low);
        high = glm::max(high, b.high);
    }
    bool empty() const { return low.x > high.x; }
    glm::vec3 center() const { return 0.5f * (low + high); }
    glm::vec3 size() const { return empty() ? glm::vec3(0.0f) : high - low; }
};

struct Primitive {
    SharedList<Vertex> vertices;
    SharedList<std::uint32_t> indices; // triangles, counter-clockwise in front
    int material = -1;                 // -1: the default material
    Box bounds;                        // object space
    SharedList<glm::vec2> secondUv{};  // by vertex: the file's own layout for what is baked (TEXCOORD_1); empty: none
    SharedList<glm::vec3> places{};    // by vertex: texels in its rectangle of a light map, and its chart; empty: none
};

enum class AlphaMode { opaque, mask, blend };
enum class TextureSlot { baseColor, metallicRoughness, normal, occlusion, emissive, thickness };
inline constexpr int texture_slots = 6;

/// Metallic-roughness material, fields as in glTF 2.0.
struct Material {
    std::string name;
    glm::vec4 baseColor{1.0f}; // linear
    float metallic = 1.0f;
    float roughness = 1.0f;
    glm::vec3 emissive{0.0f}; // cd/m2: emissiveFactor times emissiveStrength
    float normalScale = 1.0f;
    float occlusionStrength = 1.0f;
    float alphaCutoff = 0.5f;
    AlphaMode alphaMode = AlphaMode::opaque;
    bool doubleSided = false;
    bool unlit = false;                                     // KHR_materials_unlit: shows baseColor as it is
    int textures[texture_slots] = {-1, -1, -1, -1, -1, -1}; // by TextureSlot; index into SceneAsset::textures
    brdf::Optics optics{};
    int opticsNumber = 0; // into SceneAsset::optics
};

enum class Wrap { repeat, mirror, clamp };

struct Texture {
    int image = -1;
    Wrap wrapU = Wrap::repeat, wrapV = Wrap::repeat;
    bool linear = true, mipmaps = true;
};

struct TextureImage {
    std::string name;
    int width = 0, height = 0;
    SharedList<std::uint8_t> rgba; // 4 bytes a pixel; empty when images were not decoded
};

/// Whether an object stands in the way of lamps' light. Everything else (what is seen, mirrored, or bounces light)
/// meets what is drawn.
enum class Casting {
    yes,    // drawn, and casts shadows from both sides of its surfaces
    front,  // drawn, and casts where lamps meet what its material shows: single-sided surfaces from their front only
    no,     // drawn, lamps shine through it
    unseen, // not drawn, casts shadows
    proxied // drawn, and proxies cast in its place wherever `shadow.proxies` has them
};
inline constexpr Casting all_castings[] = {Casting::yes, Casting::front, Casting::no, Casting::unseen,
                                           Casting::proxied};
const char* word(Casting casting);

/// One primitive placed in the world: the unit that is culled, drawn and given lights.
struct Object {
    int primitive = -1;
    glm::mat4 transform{1.0f}; // object to world
    Box bounds;                // world
    bool mirrored = false;     // negative determinant: front faces turn round
    bool hidden = false;       // not drawn, casts and lights nothing
    Casting casts = Casting::yes;
    bool receives = true;    // false: lamps reach it through everything
    float mapDetail = 1;     // texels a metre of what is baked for it, times those asked for; 0: none
    bool proxy = false;      // a box of the user's that only casts into shadow maps, where `shadow.proxies` has it
    int body = -1;           // into Rig::bodies, of one that bones or shapes bend; -1: rigid
    std::uint64_t shape = 0; // digest of how it is bent; 0: rigid
    std::uint32_t map = 0;   // where its rectangle lies in the light map (map_word); 0: in none
};
/// Object::map of a rectangle whose first texel is this one; both below 16384.
inline std::uint32_t map_word(int x, int y) {
    return 1u << 31 | static_cast<std::uint32_t>(y) << 15 | static_cast<std::uint32_t>(x);
}

/// How an object is called. The id lasts: it is made from the node's name, not from its place in the file.
struct ObjectName {
    std::string id;   // unique: "crane", "crane~2" for the second node of that name, "crane#1" for a node's second part
    std::string name; // the node's
    int node = -1;    // objects of one node are parts of one thing
    int thing = -1;   // into Built::things; -1: of the scene file
};

struct Camera {
    std::string name;
    glm::vec3 eye{0.0f, 2.0f, 5.0f}; // metres
    glm::vec3 aim{0.0f};             // a point it looks at
    float fovY = 0.9f;               // radians
    float near = 0.1f;               // metres
    float span = 0.0f; // of a Flat stage: units from the picture's bottom to its top, around eye.xy; 0: perspective

    bool operator==(const Camera&) const = default;
};

/// Which of a file's scenes is shown, and in which of its materials' variants (KHR_materials_variants); by name. Empty:
/// as the file has it.
struct SceneChoice {
    std::string scene, variant;

    bool operator==(const SceneChoice&) const = default;
};

/// What a scene file holds; immutable once read, shared between values.
struct SceneAsset {
    std::string path;
    std::vector<Primitive> primitives;
    std::vector<Material> materials;                  // the default material is appended last
    std::vector<brdf::Optics> optics{brdf::Optics{}}; // those that materials have (number_optics), the plain one first
    std::vector<Texture> textures;
    std::vector<TextureImage> images;
    std::vector<Object> objects;         // as the file places them; Scene::objects() has the user's edits
    std::vector<ObjectName> objectNames; // parallel to objects
    int proxyBox = -1;                   // primitive: a box of one metre around the origin, which no object has
    std::vector<Camera> cameras;
    std::vector<Light> lights;
    std::vector<std::string> warnings; // "file: /json/pointer: text"
    Box bounds;                        // world
    std::uint64_t digest = 0;          // of every byte that was read
    std::uint64_t fileDigest = 0;      // of the scene file itself: tells whether it has changed since
    flat::WorldPtr flat{};             // of a Flat stage, which has neither primitives nor objects
    std::vector<Motion> motions{};     // of a Flat stage's file; projects keep their own
    blocks::WorldPtr blocks{};         // of a Blocks stage, which has neither primitives nor objects
    std::vector<std::string> sceneNames{}, variantNames{}; // that the file offers
    SceneChoice choice{};                                  // that it was read with
    bool picturesRead = true;                              // false: images have sizes alone
    int sceneShown = -1;                                   // into sceneNames
    std::shared_ptr<const Rig> rig{};                      // of a glTF file: its nodes, and what moves them
    std::shared_ptr<const Built> built{};                  // what a project has built in it (built_on); null: nothing
    std::shared_ptr<const SceneAsset> file{};              // with that: as the file alone has it
    std::shared_ptr<const SceneAsset> unmapped{}; // of one whose meshes are cut for a light map: the one that it was

    std::size_t triangles() const {
        std::size_t n = 0;
        for (const Object& o : objects)
            n += primitives[o.primitive].indices.size() / 3;
        return n;
    }
    /// Index into materials; primitives without one have the default, which is the last.
    std::size_t material_index(const Object& o) const {
        const int m = primitives[o.primitive].material;
        return m < 0 ? materials.size() - 1 : static_cast<std::size_t>(m);
    }
    const Material& material_of(const Object& o) const { return materials[material_index(o)]; }
};

/// What the file alone holds, of an asset that something was built in or that has a light map.
inline const SceneAsset* file_asset(const SceneAsset& a) {
    const SceneAsset* plain = a.unmapped ? a.unmapped.get() : &a;
    return plain->file ? plain->file.get() : plain;
}

struct PlacedObjects;

/// Night or day behind everything: radiance by direction, blended between horizon and zenith.
struct Sky {
    glm::vec3 horizon{0.0f}; // cd/m2
    glm::vec3 zenith{0.0f};  // cd/m2

    bool operator==(const Sky&) const = default;
};

/// What exists. The asset is shared; the rest are plain values that an edit replaces.
struct Scene {
    std::shared_ptr<const SceneAsset> asset;
    std::vector<Light> lights;
    std::vector<Motion> motions;
    Sky sky;
    std::shared_ptr<const PlacedObjects> placed = nullptr; // objects with the user's edits; null: as the file has them
    std::vector<AirVolume> volumes{};
    std::vector<CheapLight> cheapLights{};
    flat::WorldPtr flat{}; // of a Flat stage, with the user's edits
    std::vector<Probe> probes{};
    blocks::WorldPtr blocks{};     // of a Blocks stage, with the user's edits
    std::vector<ClipPlay> clips{}; // how the file's clips play; empty: usual_clips
    std::vector<Door> doors{};
    std::vector<DrawnRoom> drawnRooms{};
    std::string bakes{};                       // folder where what was computed beforehand lies; empty: there is none
    std::shared_ptr<const BakedLight> baked{}; // that surfaces take (with_baked_light); null: none

    bool is_flat() const { return flat != nullptr; }
    bool is_blocks() const { return blocks != nullptr; }
    Stage stage() const { return flat ? Stage::flat : blocks ? Stage::blocks : Stage::solid; }
    const std::vector<Object>& objects() const;
    /// World bounds of all that is shown.
    const Box& bounds() const;
};

} // namespace mirolux
