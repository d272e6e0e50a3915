#pragma once
#include "core/plan/frame_plan.h"
#include "gpu/frame/proxy_meshes.h"
#include "gpu/frame/scene_resources.h"
#include "gpu/frame/targets.h"
#include "gpu/gl/program.h"
#include <functional>

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

/// What the instrumented variants of shaders write: work of a pass, or what each light costs and gives.
enum class Instrument { none, count, ledger };
/// The defines that choose a variant of a shader, PASS_FORWARD and so on.
using Variant = std::vector<std::string>;

/// All that a pass reads. Buffers are uploaded and bound before the first pass runs.
struct PassContext {
    const SceneResources& scene;
    const Setup& setup;
    const DrawList& list;
    Targets& targets;
    ProgramCache& programs;
    GLuint emptyVertexArray;
    GLuint commandBuffer = 0;
    GLuint lightIndexBuffer = 0, cullLightBuffer = 0, overflowBuffer = 0, counterBuffer = 0;
    const ProxyMeshes* proxies = nullptr; // volumes
    PeelTargets* peel = nullptr;          // depth peeling
    GLuint depthCopy = 0;                 // a copy of the final depth: volumes, and the ledger's variants
    GLuint transmittance =
        0; // share of light that the panes before the opaque surface let through: the ledger's variants
    int cullLanes = 64;
    std::vector<Batch> opaque{}, blended{}; // blended: one command a batch, farthest first
    std::vector<LightBatches> lights{};
    PathShape path{};
    GBuffer* gbuffer = nullptr;               // deferred paths
    int eye = 0;                              // 0 left or only, 1 right
    bool bothEyes = false;                    // targets are layered, draws have two instances
    glm::ivec3 cells{0};                      // columns, rows, slices of the light lists
    bool prepass = false;                     // depth is laid before shading
    Instrument instrument = Instrument::none; // variants that count; never timed
    std::function<void()> alive{};            // called inside long passes: the watchdog's sign of life
};

/// A pass of the plan: how to prepare the programs it needs, and how to run. Adding one touches its own file and
/// all_passes().
struct Pass {
    PassKind kind;
    Result<void> (*prepare)(PassContext&); // builds programs, so that compilation is never timed
    void (*run)(PassContext&);
};

const Pass& pass_of(PassKind kind);

/// The variant's defines and those that the shading settings turn into.
std::vector<std::string> shading_defines(const PassContext& context, const Variant& variant, bool masked);
/// Adds the define of the instrument in use, if any.
void add_instrument(const PassContext& context, std::vector<std::string>& defines);
/// The program for a surface pass, from the cache; prepare() has made sure that it builds.
Result<GLuint> surface_program(PassContext& context, const Variant& variant, bool masked);
Result<void> prepare_surface(PassContext& context, const Variant& variant);
/// The variant that shades blended surfaces on the setup's path.
Variant blended_variant(const PassContext& context);
/// Draws batches: binds textures, culling and the program that the material's alpha mode asks for.
void draw_batches(PassContext& context, const std::vector<Batch>& batches,
                  const std::function<GLuint(bool masked)>& program);

extern const Pass depth_pass, forward_pass, ambient_pass, lights_pass, gbuffer_pass, culling_pass, shading_pass,
    volumes_pass, listed_pass, sky_pass, transparent_pass, peeled_pass, finish_pass;

} // namespace mirolux::gpu
