#pragma once

namespace mirolux {

/// What kind of world a scene is.
enum class Stage { solid, flat, blocks };
inline constexpr Stage all_stages[] = {Stage::solid, Stage::flat, Stage::blocks};
const char* word(Stage stage);
/// Which stages something belongs to.
enum class Stages { solid, flat, blocks, all };
inline bool belongs(Stages stages, Stage stage) {
    return stages == Stages::all || static_cast<int>(stages) == static_cast<int>(stage);
}

} // namespace mirolux
