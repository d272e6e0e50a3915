#pragma once
#include "core/ambient/probe.h"
#include "core/light/light.h"
#include "core/rays/ray_scene.h"

// Probes as they are placed and taken hold of in the picture.
namespace mirolux {

/// As a point light of its place, whose range is half of its box's longest side, so that its handles are a light's.
Light as_light(const Probe& probe);
/// Back from there: the box goes along, and all its sides grow alike.
void take_place(Probe& probe, const Light& from);

/// The probe with a box that reaches to what stands around it: on each side of its own axes the median of rays spread
/// about that way, 20 metres where they meet nothing.
Probe fitted(const RayScene& rays, Probe probe);

} // namespace mirolux
