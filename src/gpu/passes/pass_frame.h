#pragma once
#include "core/plan/frame_plan.h"
#include "gpu/frame/resource_pool.h"
#include "gpu/frame/scene_resources.h"
#include "gpu/frame/vitals.h"
#include "gpu/gl/program.h"
#include "gpu/passes/pass_state.h"
#include <any>
#include <functional>
#include <optional>

namespace mirolux::gpu {

/// A run of indirect commands that share a material's textures and state.
struct Batch {
    int material = -1;                // into SceneAsset::materials
    bool mirrored = false;            // front faces turn round
    std::size_t first = 0, count = 0; // into the command buffer
};

/// One light of the additive path: its commands, batched.
struct LightBatches {
    int light = -1;
    PixelRect rect;
    std::vector<Batch> batches;
};

/// Buffers of a CommandList.
struct DrawSource {
    GLuint commands = 0, instances = 0;
};

/// What the instrumented variants of shaders write: work of a pass, or what each light costs and gives.
enum class Instrument { none, count, ledger };

/// Part of a buffer; size 0: all of it.
struct BufferRange {
    GLuint buffer = 0;
    GLintptr offset = 0;
    GLsizeiptr size = 0;
};

/// What techniques keep on the device from frame to frame, by name.
struct DeviceStore {
    std::map<std::string, Buffer> buffers;
    std::map<std::string, Texture> textures;
    std::map<std::string, std::any> objects;

    Buffer& buffer(const std::string& name) { return buffers.try_emplace(name, name).first->second; }
    /// The buffer, or part of it, as a buffer texture.
    GLuint texels(const std::string& name, GLenum format, const BufferRange& range);
};

/// What a program reads and writes, resolved from names to handles; apply() binds it.
struct Bindings {
    struct Image {
        GLuint unit, texture;
        GLenum format;
    };
    std::vector<Image> images;                                     // pictures that a kernel writes
    std::vector<std::pair<GLuint, GLuint>> textures;               // unit, texture
    std::vector<std::pair<GLuint, BufferRange>> buffers;           // binding point, range
    GLint materialUnits[texture_slots] = {-1, -1, -1, -1, -1, -1}; // of a material's textures; -1: not read
    void apply() const;
};

/// A program with what it reads: one call makes it current.
struct Stage {
    ProgramPtr program;
    Bindings bindings;
    GLuint name() const { return program->name(); }
    GLint uniform(const std::string& uniform) const { return program->uniform(uniform); }
    void use() const {
        glUseProgram(program->name());
        bindings.apply();
    }
};

/// The stage for solid materials and the one for masked ones, which the scene may not need.
struct SurfaceStage {
    Stage solid, masked;
    const Stage& of(bool mask) const { return mask ? masked : solid; }
    /// Sets a uniform of both.
    void set(const std::string& uniform, GLint value) const;
    void set(const std::string& uniform, GLuint value) const;
};

/// All that passes of one eye (or of both at once) are prepared with. Names stand for handles: samplers for resources
/// of the plan and for `textures`, storage blocks for `buffers`, images (a sampler's name and "Image") for resources of
/// the plan that a kernel writes.
struct PassFrame {
    const FrameInputs& inputs;
    const FramePlan& plan;
    const SceneResources& scene;
    ProgramCache& programs;
    const GeneratedFiles& generated;
    const ResourceSet& resources;
    DeviceStore& store;
    Vitals& vitals;
    GLuint emptyVertexArray = 0;
    int eye = 0; // 0 left or only, 1 right, -1 both at once: targets are layered, draws have twice the instances
    bool softwareDevice = false;
    Instrument instrument = Instrument::none; // variants that count; never timed
    double gatherMs = 0;                      // RenderOptions::gatherMs
    std::map<std::string, BufferRange> buffers{};
    std::map<std::string, GLuint> textures{};
    /// All that the frustum touches; of that what passes draw; what hides in this frame (core/visibility).
    DrawSource all{}, shown{}, occluders{};
    std::size_t commandCount = 0, instanceCount = 0; // of each
    std::vector<Batch> opaque{}, blended{};          // neighbours of one mesh are instances; blended: farthest first
    /// The same, a command for each draw: the first commands of the buffer, in the order of draw numbers.
    std::vector<Batch> opaqueSingly{}, blendedSingly{};
    std::vector<LightBatches> lights{};
    /// What the last run of a pass drew, where it need not be all that was planned.
    std::optional<Work> drawn{};
    std::map<std::string, std::vector<double>> told{}; // FrameRecord::told
    /// With the ledger: fenced milliseconds that each light's shadow maps take to draw, by its place in the view's
    /// lights.
    std::map<int, double> mapMs{};

    std::vector<CheapShare> cheap{}; // with the ledger

    bool both_eyes() const { return eye < 0; }
    int width() const { return plan.view.width; }
    int height() const { return plan.view.height; }
    GLuint texture(const std::string& resource) const { return resources.texture(resource, eye); }
    Result<GLuint> framebuffer(const std::vector<std::string>& colors, const std::string& depth = {}) const {
        return resources.framebuffer(colors, depth, eye);
    }
    /// State that draws whole to these targets, plain: no blending, depth written where greater, no stencil.
    Result<PassState> state(const std::vector<std::string>& colors, const std::string& depth = {}) const;

    /// Content for a storage block, kept in a buffer of this name and eye.
    void upload(const std::string& block, const void* data, std::size_t bytes);

    using Replaced = std::map<std::string, GLuint>; // samplers that read something else than their name says
    Result<Stage> stage(const std::vector<ShaderStage>& stages, std::vector<std::string> defines,
                        const Replaced& replaced = {}, const GeneratedFiles* files = nullptr) const;
    /// A triangle over the whole picture with this fragment shader.
    Result<Stage> screen_stage(const std::string& fragment, std::vector<std::string> defines,
                               const Replaced& replaced = {}, const GeneratedFiles* files = nullptr) const;
    /// The scene's meshes with a fragment shader, solid and masked.
    Result<SurfaceStage> mesh_stage(const std::string& fragment, std::vector<std::string> defines,
                                    const Replaced& replaced = {}, const GeneratedFiles* files = nullptr) const;
    /// The scene's surfaces, shaded: surface/fragment.glsl with the plan's shading and `variant`.
    Result<SurfaceStage> surface_stage(std::vector<std::string> variant, const Replaced& replaced = {},
                                       const GeneratedFiles* files = nullptr) const;
    /// The variant of surface/fragment.glsl that shades blended surfaces on the plan's path.
    std::vector<std::string> blended_variant() const;
    /// Defines of shaders that shade surfaces or lights.
    std::vector<std::string> shading_defines(std::vector<std::string> variant) const;

    /// Draws batches: binds textures, culling and the stage that the material's alpha mode asks for. `state` is
    /// applied.
    void draw(const std::vector<Batch>& batches, const SurfaceStage& stage, const PassState& state) const {
        draw(batches, stage, state, shown);
    }
    void draw(const std::vector<Batch>& batches, const SurfaceStage& stage, const PassState& state,
              const DrawSource& source) const;
    /// Draws one triangle over the picture with the state and stage applied.
    void draw_screen(const Stage& stage, const PassState& state) const;

private:
    Result<Bindings> bind(const BuiltProgram& program, const Replaced& replaced) const;
};

/// What a prepared pass does on the device: commands only. Nothing is compiled, allocated or put into words here.
using Commands = std::function<void()>;

/// A technique's side on the device, of the same name as in core/technique/all.def. A frame outlives its commands.
struct GpuTechnique {
    /// Programs, uploads, names to handles; never timed.
    Result<Commands> (*prepare)(PassFrame&, const PlannedPass&);
    /// Buffers and textures that other passes read by name; called for each frame of the eyes before any pass is
    /// prepared.
    void (*provide)(PassFrame&) = nullptr;
    /// Adds what it knows of a pixel that was probed.
    Result<void> (*probe)(PassFrame&, PixelProbe&) = nullptr;
    /// Adds what the frame came to, to PassFrame::told; called once its passes ran, for the first eye.
    void (*tell)(PassFrame&) = nullptr;
};

/// The device side of a technique that has passes.
const GpuTechnique& gpu_technique(const Technique& technique);
/// The same, or null where it has none.
const GpuTechnique* find_gpu_technique(const Technique& technique);
/// Adds a device side for a technique beside those of the registry.
void add_gpu_technique(const Technique& technique, const GpuTechnique& side);

} // namespace mirolux::gpu
