#pragma once
#include "core/blocks/block_stage.h"
#include "gpu/passes/pass_frame.h"

// A Blocks stage's cells on the device, and what follows from them.
namespace mirolux::gpu {

// One side of pairs: shaders/blocks/world.glsl holds the same structs.
struct BlockPartData {
    glm::mat4 toWorld, fromWorld;
    glm::ivec4 chunks, size, tree;
};
static_assert(sizeof(BlockPartData) == 176);
struct BlockMaterialData {
    glm::vec4 color, surface, lamp;
};
static_assert(sizeof(BlockMaterialData) == 48);
struct BlockChunkData {
    std::uint32_t light, all, extra, pad;
};
static_assert(sizeof(BlockChunkData) == 16);

/// GpuTechnique::provide of what draws cells: brings to the device what is not there yet.
void provide_blocks(PassFrame& f);
/// Defines of shaders that light cells.
std::vector<std::string> block_defines(const PassFrame& f);
/// Draws runs of rectangles with a stage and state.
Result<Commands> prepare_block_runs(PassFrame& f, const std::string& fragment, std::vector<std::string> defines,
                                    bool clear, const PassState& state, std::function<void()> before);
/// The pass that meets cells by rays.
Result<Commands> prepare_block_rays(PassFrame& f, const PlannedPass& pass);
/// The pass that lights what is seen.
Result<Commands> prepare_block_light(PassFrame& f, const PlannedPass& pass);

} // namespace mirolux::gpu
