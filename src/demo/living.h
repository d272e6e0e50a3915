#pragma once
#include "demo/glb_writer.h"
#include "demo/props.h"

// What lives on the quay, and the clips that move it.
namespace mirolux::demo {

/// Gulls (shapes), a jib crane (nodes) and a dockhand with a lantern (bones). Returns how many lamps they carry.
int bring_to_life(GlbWriter& glb, const Materials& materials);

/// The figurehead on its plinth, swaying from the waist up.
void sway_figurehead(GlbWriter& glb, const MeshBuilder& mesh, const glm::vec3& place, float degrees);

} // namespace mirolux::demo
