#pragma once
#include "core/base/error.h"
#include "core/image/image.h"
#include "demo/mesh_builder.h"
#include <filesystem>
#include <nlohmann/json.hpp>

namespace mirolux::demo {

/// Builds a glTF 2.0 document with one binary buffer and writes it as .glb.
class GlbWriter {
public:
    GlbWriter();
    int texture(const std::string& name, const ByteImage& image);
    int material(const nlohmann::json& material);
    int mesh(const std::string& name, const MeshBuilder& mesh);
    /// Returns the node's index.
    int node(const std::string& name, int mesh, const glm::mat4& transform);
    /// A light on a node of its own; the direction is for directional and spot lights. Returns the node's index, which
    /// is the light's id.
    int light(const Light& light);
    void camera(const Camera& camera);
    Result<void> write(const std::filesystem::path& path);

private:
    int view(const void* data, std::size_t bytes, int target);
    nlohmann::json json_;
    std::vector<std::uint8_t> binary_;
};

} // namespace mirolux::demo
