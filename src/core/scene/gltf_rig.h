#pragma once
#include "core/motion/rig.h"
#include "core/scene/gltf_file.h"
#include "core/scene/scene.h"

// Nodes, skins, shapes and clips of a glTF file.
namespace mirolux::gltf {

/// Joints, shares and shapes of a mesh's primitive, parallel to its POSITION; null if it has none. Joints that no skin
/// has are told of later, by fit_to_skin. Throws ReadFailure.
std::shared_ptr<Bending> read_bending(File& file, const JsonCursor& primitive, std::size_t vertices);
/// The same for vertices that were split: vertex i was `from[i]`.
void take_vertices(Bending& bending, const std::vector<std::uint32_t>& from);
/// Boxes of what joints and shapes move.
void find_reach(Bending& bending, const Primitive& primitive, std::size_t joints);
/// The bending for a skin of so many joints: shares of joints that it does not have go to the others. `lost` counts
/// vertices that had such.
std::shared_ptr<const Bending> fit_to_skin(const std::shared_ptr<const Bending>& bending, const Primitive& primitive,
                                           std::size_t joints, std::size_t& lost);

/// One node: its place, as the file gives it.
Node read_node(const JsonCursor& node, std::size_t index);
/// The file's skins. Throws ReadFailure for joints that do not exist.
std::vector<Skin> read_skins(File& file, std::size_t nodes);
/// The file's list of lights, as clips may change them.
std::vector<LightValues> read_light_values(const JsonCursor& root);
/// The clips, of channels that can be played; others are warned of. `shapes`: of each node's mesh.
std::vector<Clip> read_clips(File& file, const Rig& rig, const std::vector<int>& shapes);

} // namespace mirolux::gltf
