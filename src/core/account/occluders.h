#pragma once
#include "core/account/pixel_account.h"
#include "core/rays/ray_scene.h"

namespace mirolux {

/// Names what stands between each light that a shadow dims and the surface (LightTerm::occluder), and says in the
/// account's reason which of them costs the pixel most. Rays go to the light's middle.
void name_occluders(PixelAccount& account, const Scene& scene, const RayScene& rays);

} // namespace mirolux
