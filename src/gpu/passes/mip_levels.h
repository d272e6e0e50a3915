#pragma once
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

/// One level of a target as a texture of its own, read texel by texel while another level is written. what: of which
/// target, for the frame's memory.
GLuint level_of(PassFrame& f, GLuint texture, GLenum format, int level, const std::string& what);

/// Draws over levels of one target, one after the other.
class LevelDraws {
public:
    struct Draw {
        Stage stage;
        int level = 0;
        PassState::Blend blend{};
    };
    LevelDraws(PassFrame& f, const std::string& resource);
    /// Reads the level as `sampler`.
    PassFrame::Replaced reading(const std::string& sampler, int level);
    void add(Draw draw) { draws_.push_back(std::move(draw)); }
    Commands commands() &&;

private:
    PassFrame& f_;
    std::string name_;
    const PlannedResource& target_;
    GLuint texture_;
    std::vector<Draw> draws_;
};

} // namespace mirolux::gpu
