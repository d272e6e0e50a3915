#pragma once
#include "demo/glb_writer.h"
#include "demo/props.h"

namespace mirolux::demo {

/// "car paint 03"
std::string numbered(const std::string& name, int n);
/// Writes the quay's materials and their textures.
Materials make_materials(GlbWriter& glb);

} // namespace mirolux::demo
