#pragma once
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

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
