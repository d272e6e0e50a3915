#include "gpu/passes/surface_pass.h"
#include "core/ambient/reflection.h"
#include "core/bake/baked_light.h"
#include "core/surface/subsurface.h"
#include <algorithm>

namespace mirolux::gpu {

Commands depth_clear(const PassFrame& f, GLuint framebuffer) {
    const bool stencil = f.plan.resource("depth")->spec.format == Format::depth32fStencil8;
    return [framebuffer, stencil] {
        const float zero = 0.0f;
        if (stencil)
            glClearNamedFramebufferfi(framebuffer, GL_DEPTH_STENCIL, 0, 0.0f, 0);
        else
            glClearNamedFramebufferfv(framebuffer, GL_DEPTH, 0, &zero);
    };
}

bool writes_shares(const PlannedPass& pass) {
    return std::find(pass.writes.begin(), pass.writes.end(), mirror_share_resource) != pass.writes.end();
}

void clear_color(GLuint framebuffer, int attachment) {
    const float zero[4] = {};
    glClearNamedFramebufferfv(framebuffer, GL_COLOR, attachment, zero);
}

std::vector<Batch> runs_of(const std::vector<Batch>& batches, const std::function<bool(std::size_t)>& chosen) {
    std::vector<Batch> out;
    for (const Batch& b : batches) {
        bool open = false;
        for (std::size_t i = b.first; i < b.first + b.count; ++i) {
            const bool has = chosen(i);
            if (has && open)
                ++out.back().count;
            else if (has)
                out.push_back({b.material, b.mirrored, i, 1});
            open = has;
        }
    }
    return out;
}

static void write_places(const PlannedPass& pass, std::vector<std::string>& targets,
                         std::vector<std::string>& defines) {
    if (std::find(pass.writes.begin(), pass.writes.end(), map_place_resource) == pass.writes.end()) return;
    defines.push_back("PLACE_TARGET " + std::to_string(targets.size()));
    targets.emplace_back(map_place_resource);
}

void write_diffuse_light(const PlannedPass& pass, std::vector<std::string>& targets,
                         std::vector<std::string>& defines) {
    if (std::find(pass.writes.begin(), pass.writes.end(), diffuse_light_resource) == pass.writes.end()) return;
    defines.push_back("DIFFUSE_TARGET " + std::to_string(targets.size()));
    targets.emplace_back(diffuse_light_resource);
}

Result<Commands> prepare_opaque(PassFrame& f, const PlannedPass& pass, std::vector<std::string> targets,
                                std::vector<std::string> variant) {
    const std::size_t own = targets.size();
    if (writes_shares(pass)) {
        targets.emplace_back(mirror_share_resource);
        variant.emplace_back("MIRROR_SHARES");
    }
    write_diffuse_light(pass, targets, variant);
    write_places(pass, targets, variant);
    auto stage = f.surface_stage(std::move(variant));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(targets, "depth");
    if (!state) return tl::unexpected(state.error());
    if (pass.laidDepth) {
        state->depthFunc = GL_EQUAL;
        state->depthWrite = false;
        state->stencil = PassState::once_per_pixel(255);
    }
    // A framebuffer's clear obeys the masks that the last draw left.
    return [&f, stage = std::move(*stage), state = *state, laid = pass.laidDepth, more = static_cast<int>(own),
            all = static_cast<int>(targets.size()), clear = depth_clear(f, state->framebuffer)] {
        state.apply();
        glDepthMask(GL_TRUE);
        clear_color(state.framebuffer);
        for (int target = more; target < all; ++target)
            clear_color(state.framebuffer, target);
        if (!laid) clear();
        f.draw(f.opaque, stage, state);
    };
}

} // namespace mirolux::gpu
