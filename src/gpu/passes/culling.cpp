#include "gpu/passes/state.h"

namespace mirolux::gpu {

static Result<GLuint> program(PassContext& c) {
    std::vector<std::string> defines = {"LANES " + std::to_string(c.cullLanes)};
    if (c.instrument == Instrument::count) add_instrument(c, defines);
    return c.programs.get_compute("cull_compute.glsl", defines);
}

static Result<void> prepare(PassContext& c) {
    if (auto p = program(c); !p) return tl::unexpected(p.error());
    return {};
}

static void run(PassContext& c) {
    glUseProgram(*program(c));
    glBindTextureUnit(0, c.targets.depth.name());
    // The kernel takes two binding points that other passes use for other things; they are given back.
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 4, c.cullLightBuffer);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 7, c.overflowBuffer);
    const GLuint zero = 0;
    glClearNamedBufferData(c.overflowBuffer, GL_R32UI, GL_RED_INTEGER, GL_UNSIGNED_INT, &zero);
    glDispatchCompute(static_cast<GLuint>(c.cells.x), static_cast<GLuint>(c.cells.y), 1);
    glMemoryBarrier(GL_SHADER_STORAGE_BARRIER_BIT | GL_TEXTURE_FETCH_BARRIER_BIT | GL_BUFFER_UPDATE_BARRIER_BIT);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 4, c.lightIndexBuffer);
    if (c.counterBuffer) glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 7, c.counterBuffer);
}

const Pass culling_pass{PassKind::culling, prepare, run};

} // namespace mirolux::gpu
