#pragma once
#include "core/base/recent.h"
#include "core/motion/clip_play.h"
#include "core/scene/scene.h"
#include <glm/gtc/quaternion.hpp>
#include <optional>
#include <span>

// What of a scene file can move: its nodes, the clips that move them, and the surfaces that bones and shapes bend.
namespace mirolux {

enum class Interpolation { linear, step, cubic };

/// A value by time.
struct Track {
    Interpolation interpolation = Interpolation::linear;
    int components = 1;        // floats of a value
    std::vector<float> times;  // seconds, ascending, at least one
    std::vector<float> values; // `components` for each time; cubic: the tangent before, the value, the tangent after
};

/// The value at a time: the first one before the first time, the last one from the last time on. turns: quaternions,
/// spherical between keys. out: `components` floats. Source: Khronos Group, glTF 2.0 Specification (2021), appendix C.
void value_at(const Track& track, double seconds, bool turns, std::span<double> out);

enum class Animated {
    translation,
    rotation,
    scale,
    weights,      // of shapes
    lightColor,   // of a light of the file, by KHR_animation_pointer
    lightCandela, // its intensity
    lightRange,   // metres
    lightInner,   // radians
    lightOuter    // radians
};

struct ClipChannel {
    int target = -1; // into Rig::nodes; of a light's value into Rig::lights
    Animated what = Animated::translation;
    Track track;
};

struct Clip {
    std::string name;   // unique
    double seconds = 0; // its last key
    std::vector<ClipChannel> channels;
};

/// A node as the file has it.
struct Node {
    std::string name;
    int parent = -1;
    glm::dvec3 translation{0.0};
    glm::dquat rotation{1.0, 0.0, 0.0, 0.0};
    glm::dvec3 scale{1.0};
    std::optional<glm::dmat4> matrix{}; // in place of the three
    std::vector<float> weights{};       // of shapes, where the node has its own
    int camera = -1;                    // into SceneAsset::cameras
    int light = -1;                     // into Rig::lights
    bool placed = false;                // part of the scene that is shown
};

/// What of a light of the file clips may change.
struct LightValues {
    glm::dvec3 color{1.0};
    double candela = 1, range = 0, inner = 0, outer = 0.7853981633974483;
};

struct Skin {
    std::string name;
    std::vector<int> joints;           // into Rig::nodes
    std::vector<glm::dmat4> toJoint{}; // from the surface as it is bound to each joint's space
};

/// How a vertex differs where a shape has the weight 1.
struct ShapeChange {
    glm::vec3 position{0.0f}, normal{0.0f}, tangent{0.0f};
};

/// What bends a primitive: object space, parallel to its vertices.
struct Bending {
    int sets = 0;                     // of four joints a vertex; 0: no skin
    std::vector<glm::u16vec4> joints; // into Skin::joints; vertex by vertex, set by set
    std::vector<glm::vec4> shares;    // parallel to joints: of a vertex they sum to 1
    int shapes = 0;                   // 0: none
    std::vector<ShapeChange> changes; // shape by shape, vertex by vertex
    std::vector<Box> reach;           // by joint: the box of the vertices that it moves; empty where it moves none
    std::vector<Box> changeReach;     // by shape: the box of its changes of position
    std::uint64_t followed = 0;       // joints that its vertices follow, all together
};

/// A primitive of one object that is bent: no other object has it.
struct Body {
    int object = -1, primitive = -1, node = -1;
    int skin = -1; // into Rig::skins; -1: shapes alone
    std::shared_ptr<const Bending> bending;
};

/// What a node's, a light's or a body's values are at a time.
struct Pose {
    double seconds = 0;
    std::vector<glm::dmat4> world;              // by node
    std::vector<std::vector<double>> weights;   // by node: of shapes
    std::vector<LightValues> lights;            // by Rig::lights
    std::vector<std::vector<glm::mat4>> joints; // by skin: from the surface as it is bound to the world
    std::vector<std::uint64_t> states;          // by body: digest of all that bends it

    /// A body's vertices, in its object's space; made when they are first asked for, from any thread.
    const std::vector<Vertex>& bent(const SceneAsset& asset, int body) const;

private:
    struct Made {
        std::once_flag once;
        std::vector<Vertex> vertices;
    };
    friend std::shared_ptr<const Pose> make_pose(const Rig&, const std::vector<ClipPlay>&, double);
    mutable std::vector<std::unique_ptr<Made>> bent_;
};

struct Rig {
    std::vector<Node> nodes;
    std::vector<int> order; // parents before children
    std::vector<Clip> clips;
    std::vector<Skin> skins;
    std::vector<Body> bodies;
    std::vector<LightValues> lights;     // of the file's list, as it has them
    std::map<int, glm::dmat4> instances; // by object: its place in its node's space, of nodes that show a mesh often
    std::shared_ptr<const Pose> rest;    // where no clip plays

    bool moves() const { return !clips.empty(); }

    /// Placements that were asked for last (placed_at).
    struct Asked {
        std::shared_ptr<const PlacedObjects> base;
        std::vector<ClipPlay> clips;
        double seconds;
        bool operator==(const Asked&) const = default;
    };
    mutable Recent<Asked, std::shared_ptr<const PlacedObjects>> placed{4};
};

/// The pose at a time. Clips that change the same value are mixed by their shares.
std::shared_ptr<const Pose> make_pose(const Rig& rig, const std::vector<ClipPlay>& clips, double seconds);

/// How clips play where nobody has chosen: in the file's order, each that changes nothing that an earlier one does.
std::vector<ClipPlay> usual_clips(const Rig& rig);
/// Those of the scene, or the usual ones.
std::vector<ClipPlay> clips_of(const Scene& scene);
/// Seconds within a clip at a time of the scene.
double time_in(const Clip& clip, const ClipPlay& play, double seconds);

/// The bent vertices of a body, by its bending alone: shapes, then bones. joints: Pose::joints of its skin.
std::vector<Vertex> bent_vertices(const Primitive& primitive, const Bending& bending,
                                  const std::vector<double>& weights, std::span<const glm::mat4> joints);
/// A box that holds them, found without them: bones move boxes of vertices, shapes widen those.
Box bent_bounds(const Primitive& primitive, const Bending& bending, const std::vector<double>& weights,
                std::span<const glm::mat4> joints);

} // namespace mirolux
