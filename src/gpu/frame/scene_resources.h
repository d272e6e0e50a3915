#pragma once
#include "core/scene/scene.h"
#include "gpu/frame/gpu_structs.h"
#include "gpu/gl/objects.h"
#include <array>
#include <map>
#include <memory>
#include <tuple>
#include <vector>

namespace mirolux::gpu {

/// A scene asset on the device: one vertex and one index buffer for all primitives, textures with mipmaps, materials.
class SceneResources {
public:
    /// before: another state of the same file's asset, whose vertices and textures are taken over as far as they are
    /// the same; null: there is none.
    explicit SceneResources(std::shared_ptr<const SceneAsset> asset, SceneResources* before = nullptr);

    const SceneAsset& asset() const { return *asset_; }
    bool holds(const std::shared_ptr<const SceneAsset>& asset) const { return asset_ == asset; }
    /// The meshes, to be drawn by commands of a CommandList, whose instances the buffer holds. eyes: how often each is
    /// drawn, in a row.
    void bind_meshes(GLuint instances, GLuint eyes) const;
    /// Place of a primitive in the shared buffers.
    struct Slice {
        std::uint32_t firstIndex = 0, count = 0;
        std::int32_t baseVertex = 0;
    };
    const Slice& slice(int primitive) const { return slices_[static_cast<std::size_t>(primitive)]; }
    /// Binds those of a material's textures that have a unit (not -1).
    void bind_textures(int material, const GLint (&units)[texture_slots]) const;
    /// A sheet of a flat stage: its colours (sRGB, read as linear), normals and emission; plain ones where it has none.
    struct SheetTextures {
        GLuint colors, normals, emission;
    };
    const SheetTextures& sheet(int index) const { return sheets_[static_cast<std::size_t>(index)]; }
    GLuint materials() const { return materials_.name(); }
    /// The scene's vertices; those of bodies are as they were bent last.
    GLuint vertices() const { return vertices_.name(); }
    /// Of include/bend.glsl: a body without what changes from frame to frame, and what all of them read.
    const BodyData& body(std::size_t index) const { return bodies_[index]; }
    GLuint rest() const { return rest_.name(); }
    GLuint influences() const { return influences_.name(); }
    GLuint shape_changes() const { return shapeChanges_.name(); }

private:
    std::shared_ptr<const SceneAsset> asset_;
    VertexArray vertexArray_;
    Buffer vertices_{"vertices"}, indices_{"indices"}, materials_{"materials"}, places_{"places in the light map"};
    std::vector<Slice> slices_;
    void make_sheets();
    void make_bodies();
    void upload_geometry(const SceneResources* before);
    void make_materials(SceneResources* before);
    /// What a texture is made of: texels by their place in memory, and how it is read.
    using TextureKey = std::tuple<const std::uint8_t*, bool, bool, bool, Wrap, Wrap>;
    std::map<TextureKey, Texture> made_;
    Buffer rest_{"bodies at rest"}, influences_{"joints of vertices"}, shapeChanges_{"shapes"};
    std::vector<BodyData> bodies_;
    std::vector<Texture> textures_;
    std::vector<SheetTextures> sheets_;
    std::vector<std::array<GLuint, texture_slots>> materialTextures_;
};

} // namespace mirolux::gpu
