#include "gpu/passes/block_world.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_block_mesh(PassFrame& f, const PlannedPass&) {
    auto state = f.state({"block surface"}, "depth");
    if (!state) return tl::unexpected(state.error());
    return prepare_block_runs(f, "blocks/surface.glsl", {}, false, *state, [framebuffer = state->framebuffer] {
        const float nothing[4] = {}, far = 0;
        glClearNamedFramebufferfv(framebuffer, GL_COLOR, 0, nothing);
        glClearNamedFramebufferfv(framebuffer, GL_DEPTH, 0, &far);
    });
}

static Result<Commands> prepare_block_clear(PassFrame& f, const PlannedPass&) {
    auto state = f.state({"scene"}, "depth");
    if (!state) return tl::unexpected(state.error());
    state->blend = {true, GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA};
    return prepare_block_runs(f, "blocks/clear.glsl", block_defines(f), true, *state, {});
}

const GpuTechnique technique::block_mesh{prepare_block_mesh, provide_blocks};
const GpuTechnique technique::block_rays{prepare_block_rays, provide_blocks};
const GpuTechnique technique::block_clear{prepare_block_clear};
const GpuTechnique technique::block_faces{prepare_block_light};
const GpuTechnique technique::block_cast{prepare_block_light};
const GpuTechnique technique::block_flood{prepare_block_light};
const GpuTechnique technique::block_origin{prepare_block_light};

} // namespace mirolux::gpu
