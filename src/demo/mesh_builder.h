#pragma once
#include "core/scene/scene.h"
#include <map>

namespace mirolux::demo {

/// Collects triangles by material; texture coordinates are in metres over `uvScale`.
class MeshBuilder {
public:
    struct Part {
        std::vector<Vertex> vertices;
        std::vector<std::uint32_t> indices;
    };

    float uvScale = 2.0f; // metres that one texture repeat covers

    /// A rectangle from p along du and dv (their cross product is its front), nu x nv cells.
    void quad(int material, glm::vec3 p, glm::vec3 du, glm::vec3 dv, int nu = 1, int nv = 1);
    /// An axis-aligned box by its lowest corner and size.
    void box(int material, glm::vec3 low, glm::vec3 size);
    /// A bar of square section between two points.
    void bar(int material, glm::vec3 a, glm::vec3 b, float width);
    void cylinder(int material, glm::vec3 a, glm::vec3 b, float radiusA, float radiusB, int sides, bool caps = true);
    void sphere(int material, glm::vec3 center, float radius, int around, int rings);
    void torus(int material, glm::vec3 center, glm::vec3 axis, float radius, float tube, int around, int sides);
    /// Smooth surface through sections of equal point counts, given in order; front is where (next point) x (next
    /// section) points.
    void loft(int material, const std::vector<std::vector<glm::vec3>>& sections, bool flip = false);

    const std::map<int, Part>& parts() const { return parts_; }
    std::size_t triangles() const;

private:
    std::map<int, Part> parts_;
};

} // namespace mirolux::demo
