#pragma once
#include "core/flat/flat_stage.h"
#include "gpu/passes/pass_frame.h"
#include "gpu/passes/pass_state.h"

// Lights of a flat stage drawn over what they see, for every way that joins them in a target.
namespace mirolux::gpu {

/// Lights of one limit, as they lie in the fans' buffer.
struct FanGroup {
    double most = 0;
    int first = 0, count = 0; // points
};

/// Where a light's points lie.
struct FanSlot {
    int light = -1; // into DrawList::lights
    int first = 0, count = 0;
    bool moves = false; // its fan is made anew in every frame
    bool whole = false; // all that it reaches, for what no shadow falls on
};

/// All fans of a frame, in drawing order.
struct FlatFans {
    std::vector<FanGroup> groups;
    std::vector<FanSlot> slots;
    std::vector<FanPointData> points;
};
/// Of this frame's eye; made by flat_stage before any pass is prepared.
const FlatFans& flat_fans(const PassFrame& frame);
/// What one light's fan is made of now.
std::vector<glm::vec2> fan_points(const PassFrame& frame, const std::vector<flat::Edge>& edges, int light);
std::string fans_buffer(const PassFrame& frame);

/// The lights buffer, profiles and fans of this frame.
void provide_flat_lights(PassFrame& frame);

struct JoinedLights {
    std::string target{};
    glm::vec3 base{0.0f};
    bool subtract = false;
    flat::Blend blend = flat::Blend::add;
};
Result<Commands> prepare_flat_lights(PassFrame& frame, const JoinedLights& how);

/// A light by itself, into a framebuffer of this size.
struct OneLight {
    int light = -1; // into DrawList::lights; -1: none of the view's
    GLuint framebuffer = 0;
    int width = 0, height = 0;
};
Result<Commands> prepare_one_light(PassFrame& frame, const OneLight& how);

/// Shader variants of a frame's surface and glow targets.
std::vector<std::string> flat_defines(const PassFrame& frame);
/// A pass of a way over the whole picture: `fragment`, into `target`.
Result<Commands> prepare_flat_shown(PassFrame& frame, const std::string& fragment, const std::string& target = "scene");

} // namespace mirolux::gpu
