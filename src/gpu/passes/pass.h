#pragma once
#include "core/plan/frame_plan.h"
#include "gpu/frame/scene_resources.h"
#include "gpu/frame/targets.h"
#include "gpu/gl/program.h"
#include <functional>

namespace mirolux::gpu {

/// A run of indirect commands that share a material's textures and state.
struct Batch {
    int material = -1;     // into SceneAsset::materials
    bool mirrored = false; // front faces turn round
    std::size_t first = 0, count = 0; // into the command buffer
};

/// One light of the additive path: its commands, batched.
struct LightBatches {
    int light = -1;
    PixelRect rect;
    std::vector<Batch> batches;
};

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
    std::vector<Batch> opaque{}, blended{}; // blended: one command a batch, farthest first
    std::vector<LightBatches> lights{};
    PathShape path{};
    GBuffer* gbuffer = nullptr;   // deferred paths
    glm::ivec3 cells{0};          // columns, rows, slices of the light lists
    bool prepass = false;    // depth is laid before shading
    bool counting = false;   // instrumented variants
    std::function<void()> alive{}; // called inside long passes: the watchdog's sign of life
};

/// A pass of the plan: how to prepare the programs it needs, and how to run. Adding one touches its own file and all_passes().
struct Pass {
    PassKind kind;
    Result<void> (*prepare)(PassContext&); // builds programs, so that compilation is never timed
    void (*run)(PassContext&);
};

const Pass& pass_of(PassKind kind);

/// Defines that the shading settings turn into; `what` is PASS_FORWARD and so on.
std::vector<std::string> shading_defines(const PassContext& context, const std::string& what, bool masked);
/// The program for a surface pass, from the cache; prepare() has made sure that it builds.
Result<GLuint> surface_program(PassContext& context, const std::string& what, bool masked);
Result<void> prepare_surface(PassContext& context, const std::string& what);
/// Draws batches: binds textures, culling and the program that `what` and the material's alpha mode ask for.
void draw_batches(PassContext& context, const std::vector<Batch>& batches, const std::function<GLuint(bool masked)>& program);

extern const Pass depth_pass, forward_pass, ambient_pass, lights_pass, gbuffer_pass, culling_pass, shading_pass, listed_pass, sky_pass, transparent_pass, finish_pass;

} // namespace mirolux::gpu
