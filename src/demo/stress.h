#pragma once
#include "core/scene/project.h"

namespace mirolux::demo {

/// `count` seeded lights (64 to 16,384) strewn over a box, two thirds points and a third spots. Their ranges shrink
/// with the cube root of their number, so that the sum of their volumes, and with it their total coverage, stays the
/// same.
std::vector<Light> stress_lights(int count, std::uint32_t seed, const Box& where);

/// An abstract hall: floor, pillars and blocks, 64 x 10 x 64 m, without textures. Written as .glb.
Result<void> write_hall(const std::filesystem::path& path, std::uint32_t seed);

} // namespace mirolux::demo
