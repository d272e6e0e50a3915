#pragma once
#include "demo/mesh_builder.h"

namespace mirolux::demo {

/// The quay's kestrel, cast in wax as the model of a ship's figurehead: 1.5 m high with its plinth, wings raised,
/// looking toward +z. Its wings are 6 to 20 mm thick.
MeshBuilder figurehead(int wax, int eyes, int plinth, int band);

} // namespace mirolux::demo
