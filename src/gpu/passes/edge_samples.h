#pragma once
#include "gpu/passes/surface_pass.h"

// What passes that make one sample of several have in common.
namespace mirolux::gpu {

/// Variant of shaders that include sample_map.glsl.
std::vector<std::string> sample_variant(const PassFrame& f, bool toned);
/// Draws over the picture: its light is read from the first of what the pass reads.
Result<Commands> prepare_joined(PassFrame& f, const PlannedPass& pass, const std::string& fragment,
                                std::vector<std::string> variant);

} // namespace mirolux::gpu
