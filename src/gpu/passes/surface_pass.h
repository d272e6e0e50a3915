#pragma once
#include "gpu/passes/pass_frame.h"

// What passes over surfaces have in common on the device.
namespace mirolux::gpu {

/// Defines of finish/fragment.glsl: where the exposure comes from.
std::vector<std::string> finish_variant(const FramePlan& plan);

/// Clears the depth of a framebuffer, and its stencil where it has one.
Commands depth_clear(const PassFrame& frame, GLuint framebuffer);
void clear_color(GLuint framebuffer, int attachment = 0);
/// The runs of draws within `batches` that are chosen, by their place in the command buffer, in which they lie one by
/// one in their order.
std::vector<Batch> runs_of(const std::vector<Batch>& batches, const std::function<bool(std::size_t)>& chosen);
/// Where the pass also writes diffuse light apart, adds that target and the define that says where it lies.
void write_diffuse_light(const PlannedPass& pass, std::vector<std::string>& targets, std::vector<std::string>& defines);
/// True if the pass also writes what surfaces mirror of ambient light.
bool writes_shares(const PlannedPass& pass);

/// Opaque and masked surfaces into `targets` and the depth, with a variant of surface/fragment.glsl. Clears the first
/// target, what surfaces mirror and the diffuse light apart, and the depth unless a pass before laid it; then draws
/// where depth is equal, once a pixel.
Result<Commands> prepare_opaque(PassFrame& frame, const PlannedPass& pass, std::vector<std::string> targets,
                                std::vector<std::string> variant);

namespace technique {
#define MIROLUX_TECHNIQUE(name) extern const GpuTechnique name;
#define MIROLUX_VALUES(name)
#include "core/technique/all.def"
#undef MIROLUX_TECHNIQUE
#undef MIROLUX_VALUES
} // namespace technique

} // namespace mirolux::gpu
