#pragma once
#include "core/motion/rig.h"
#include "core/scene/object_edit.h"

// A scene at a time: what clips of its file move, in place.
namespace mirolux {

/// The scene with its objects as they stand at a time in seconds, the user's edits on top; the same value where no clip
/// plays. Of a scene that was placed at another time, that is undone first. The few asked for last are kept.
Scene scene_at(Scene scene, double seconds);

/// The lights at a time: where clips move their nodes they go along with them, edits of the user's kept on top; then as
/// the scene's motions have it.
std::vector<Light> lights_at(const Scene& scene, double seconds);

/// A camera of the file (SceneAsset::cameras) at a time; as it is, if no clip moves it.
Camera camera_at(const Scene& scene, std::size_t camera, double seconds);
/// A camera that stands where one of the file's stands at `from`, where that one stands at `to`; others as they are.
Camera followed(const Scene& scene, const Camera& camera, double from, double to);

/// The pose that the scene's objects stand in; null of a scene without nodes.
const Pose* pose_of(const SceneAsset& asset, const PlacedObjects* placed);
/// An object's vertices as they stand, in its own space.
const std::vector<Vertex>& vertices_of(const SceneAsset& asset, const PlacedObjects* placed, std::size_t object);
inline const std::vector<Vertex>& vertices_of(const Scene& scene, std::size_t object) {
    return vertices_of(*scene.asset, scene.placed.get(), object);
}

/// Whether an object stands still as clips play: by its node or one above it, or by what bends it.
enum class Moves { still, byClip, byHand };
const char* word(Moves moves);
/// By object: by a clip that is on; else as it is marked; else by hand where an edit has placed it, else still.
std::vector<Moves> movers(const Scene& scene);

} // namespace mirolux
