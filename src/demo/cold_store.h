#pragma once
#include "core/base/error.h"
#include <filesystem>

namespace mirolux::demo {

/// The cold store behind the quay: sixty rooms of 6 x 6 m in a grid of ten by six, joined by openings so that every
/// room is reached, each with shelves and a lamp. What can be seen of it from inside is a small part. Writes
/// cold-store.glb and cold-store.mirolux, with a walk through it and a door in each opening.
Result<void> write_cold_store(const std::filesystem::path& folder);

} // namespace mirolux::demo
