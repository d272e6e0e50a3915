#pragma once
#include "core/light/proxy.h"
#include "gpu/gl/objects.h"
#include <vector>

namespace mirolux::gpu {

/// The light volumes' unit meshes on the device.
class ProxyMeshes {
public:
    ProxyMeshes() {
        std::vector<glm::vec3> positions;
        std::vector<std::uint32_t> indices;
        const ProxyMesh meshes[] = {sphere_proxy(volume_sphere_steps), cone_proxy(volume_cone_sides)};
        for (int i = 0; i < 2; ++i) {
            parts_[i] = {indices.size(), static_cast<GLsizei>(meshes[i].indices.size()),
                         static_cast<GLint>(positions.size())};
            positions.insert(positions.end(), meshes[i].positions.begin(), meshes[i].positions.end());
            indices.insert(indices.end(), meshes[i].indices.begin(), meshes[i].indices.end());
        }
        vertices_.upload(positions.data(), positions.size() * sizeof(glm::vec3));
        indices_.upload(indices.data(), indices.size() * sizeof(std::uint32_t));
        GLuint vao = 0;
        glCreateVertexArrays(1, &vao);
        vertexArray_ = VertexArray(vao);
        glObjectLabel(GL_VERTEX_ARRAY, vao, -1, "light volumes");
        glVertexArrayVertexBuffer(vao, 0, vertices_.name(), 0, sizeof(glm::vec3));
        glVertexArrayElementBuffer(vao, indices_.name());
        glEnableVertexArrayAttrib(vao, 0);
        glVertexArrayAttribFormat(vao, 0, 3, GL_FLOAT, GL_FALSE, 0);
        glVertexArrayAttribBinding(vao, 0, 0);
    }
    struct Part {
        std::size_t first = 0;
        GLsizei count = 0;
        GLint baseVertex = 0;
    };
    const Part& part(ProxyShape shape) const { return parts_[shape == ProxyShape::sphere ? 0 : 1]; }
    GLuint vertex_array() const { return vertexArray_.name(); }

private:
    Part parts_[2];
    Buffer vertices_{"proxy vertices"}, indices_{"proxy indices"};
    VertexArray vertexArray_;
};

} // namespace mirolux::gpu
