#pragma once
#include "core/base/error.h"
#include "core/image/image.h"
#include "core/scene/glb_builder.h"
#include "demo/mesh_builder.h"
#include <array>
#include <filesystem>
#include <functional>
#include <glm/gtc/quaternion.hpp>
#include <nlohmann/json.hpp>

namespace mirolux::demo {

/// What a mesh can do beside standing still.
struct Bends {
    /// Four joints (into the skin's list) that a vertex follows, with their shares; null: none.
    std::function<std::array<std::pair<int, float>, 4>(const Vertex&)> follow{};
    std::vector<std::function<Vertex(const Vertex&)>> shapes{}; // where a vertex is while each has the weight 1
};

/// A value by time for a clip: so many floats a key as its path has.
struct Keys {
    std::vector<float> times; // seconds, ascending
    std::vector<float> values;
};

/// Builds a glTF 2.0 document with one binary buffer and writes it as .glb.
class GlbWriter {
public:
    GlbWriter();
    int texture(const std::string& name, const ByteImage& image);
    int material(const nlohmann::json& material);
    int mesh(const std::string& name, const MeshBuilder& mesh, const Bends& bends = {});
    /// Returns the node's index.
    int node(const std::string& name, int mesh, const glm::mat4& transform);
    /// A node that clips can move, below `parent` (-1: the scene).
    int mover(const std::string& name, int mesh, const glm::vec3& translation,
              const glm::quat& rotation = glm::quat(1, 0, 0, 0), int parent = -1);
    /// Bones of a node's mesh, bound as both stand now; joints: movers.
    void skin(int node, const std::vector<int>& joints);
    /// A light on a node of its own; the direction is for directional and spot lights. Returns the node's index, which
    /// is the light's id. Below `parent` (-1: the scene) in that one's space.
    int light(const Light& light, int parent = -1);
    /// Adds to the clip of this name: a node's "translation", "rotation" (xyzw) or "weights", linear between keys.
    void move(const std::string& clip, int node, const std::string& path, const Keys& keys);
    void camera(const Camera& camera);
    Result<void> write(const std::filesystem::path& path);

private:
    void hang(int node, int parent);
    glm::mat4 world(int node) const;
    std::vector<std::pair<glm::mat4, int>> places_; // of nodes: their own, and the parent
    gltf::GlbBuilder b_;
};

} // namespace mirolux::demo
