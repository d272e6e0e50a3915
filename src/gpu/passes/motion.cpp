#include "core/motion/motion.h"
#include "core/motion/skinning.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

/// Projections of an eye without jitter, of this frame and of the one before (shaders/motion/motion.glsl).
struct MotionEye {
    glm::mat4 now, before;
};

void provide_motion(PassFrame& f) {
    const FrameInputs& in = f.inputs;
    const std::vector<View> now = eye_views(in.view), before = in.before ? eye_views(in.before->view) : now;
    const double aspect = aspect_of(in.view);
    const auto projected = [&](const Camera& c) { return projection_matrix(c, aspect) * view_matrix(c); };
    std::vector<MotionEye> eyes;
    for (std::size_t e = 0; e < now.size(); ++e)
        if (f.both_eyes() || static_cast<int>(e) == f.eye)
            eyes.push_back({projected(now[e].camera), projected(before[e].camera)});
    f.upload("MotionEyeBuffer", eyes.data(), eyes.size() * sizeof(MotionEye));
    std::vector<glm::mat4> draws;
    for (const auto* part : {&in.draws.opaque, &in.draws.blended})
        for (const Draw& d : *part)
            draws.emplace_back(to_before(in, d.object));
    f.upload("MotionDrawBuffer", draws.data(), draws.size() * sizeof(glm::mat4));
}

Result<Commands> prepare_motion(PassFrame& f, const PlannedPass&) {
    std::vector<std::string> defines;
    if (f.both_eyes()) defines.push_back("BOTH_EYES");
    auto sky = f.stage({{GL_VERTEX_SHADER, f.both_eyes() ? "motion/both_eyes.glsl" : "screen/vertex.glsl", ""},
                        {GL_FRAGMENT_SHADER, "motion/sky.glsl", ""}},
                       defines);
    if (!sky) return tl::unexpected(sky.error());
    const bool bends = skinning_of(f.inputs.scene, f.inputs.setup) != Skinning::none;
    auto surfaces = f.mesh_stage("motion/fragment.glsl",
                                 bends ? std::vector<std::string>{"BEND_BEFORE"} : std::vector<std::string>{});
    if (!surfaces) return tl::unexpected(surfaces.error());
    auto state = f.state({"motion"}, "motion depth");
    if (!state) return tl::unexpected(state.error());
    PassState behind = *state;
    behind.depthTest = behind.depthWrite = false;
    return [&f, sky = std::move(*sky), surfaces = std::move(*surfaces), state = *state, behind] {
        state.apply(); // a clear obeys the masks that the last draw left
        const float zero = 0.0f;
        glClearNamedFramebufferfv(state.framebuffer, GL_DEPTH, 0, &zero);
        behind.apply();
        sky.use();
        glBindVertexArray(f.emptyVertexArray);
        glDrawArraysInstanced(GL_TRIANGLES, 0, 3, f.both_eyes() ? 2 : 1);
        f.draw(f.opaque, surfaces, state);
    };
}

} // namespace

const GpuTechnique technique::motion{prepare_motion, provide_motion};

} // namespace mirolux::gpu
