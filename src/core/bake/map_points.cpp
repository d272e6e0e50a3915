#include "core/bake/map_points.h"
#include "core/scene/geometry.h"
#include "core/truth/scattering.h"
#include <cmath>

namespace mirolux {

namespace {

constexpr int ways_out = 16; // rays that tell whether a texel lies within something

/// Steps of a texel along a triangle, in the mesh's space.
void find_steps(const MappedMesh& m, std::uint32_t triangle, glm::dvec3& across, glm::dvec3& down) {
    glm::dvec3 corner[3];
    glm::dvec2 place[3];
    for (std::uint32_t k = 0; k < 3; ++k) {
        const std::uint32_t v = m.mesh.indices[3 * triangle + k];
        corner[k] = glm::dvec3(m.mesh.vertices[v].position);
        place[k] = glm::dvec2(m.places[v]);
    }
    const glm::dmat2 steps(place[1] - place[0], place[2] - place[0]);
    across = down = glm::dvec3(0.0);
    if (!(std::abs(glm::determinant(steps)) > 1e-12)) return;
    const glm::dmat2 back = glm::inverse(steps);
    const glm::dvec3 e = corner[1] - corner[0], f = corner[2] - corner[0];
    across = e * back[0].x + f * back[0].y;
    down = e * back[1].x + f * back[1].y;
}

} // namespace

std::vector<MapPoint> map_points(const Scene& scene, const LightMapLayout& layout) {
    std::vector<std::vector<Texel>> texels;
    for (const MappedMesh& m : layout.meshes)
        texels.push_back(covered_texels(m));
    std::vector<MapPoint> out;
    for (const LightMapLayout::Place& place : layout.places) {
        const Object& o = scene.objects()[static_cast<std::size_t>(place.object)];
        const MappedMesh& m = layout.meshes[static_cast<std::size_t>(place.mesh)];
        const glm::mat3 turn(o.transform), normals = normal_matrix(o.transform);
        for (const Texel& t : texels[static_cast<std::size_t>(place.mesh)]) {
            glm::vec3 at(0.0f), normal(0.0f), corner[3];
            for (int k = 0; k < 3; ++k) {
                const Vertex& v = m.mesh.vertices[m.mesh.indices[3 * t.triangle + static_cast<std::uint32_t>(k)]];
                corner[k] = v.position;
                at += t.weights[k] * v.position;
                normal += t.weights[k] * v.normal;
            }
            MapPoint target;
            target.texel = static_cast<std::size_t>(place.y + t.y) * static_cast<std::size_t>(layout.width) +
                           static_cast<std::size_t>(place.x + t.x);
            SurfacePoint& p = target.point;
            p.position = glm::vec3(o.transform * glm::vec4(at, 1));
            p.side = glm::normalize(glm::cross(turn * (corner[1] - corner[0]), turn * (corner[2] - corner[0])));
            if (o.mirrored) p.side = -p.side;
            const glm::vec3 n = normals * normal;
            p.normal = glm::dot(n, n) > 1e-20f ? glm::normalize(n) : p.side;
            if (glm::dot(p.normal, p.side) <= 0) p.normal = p.side;
            p.receives = o.receives;
            glm::dvec3 across, down;
            find_steps(m, t.triangle, across, down);
            target.across = turn * glm::vec3(across);
            target.down = turn * glm::vec3(down);
            target.area = t.area * glm::length(glm::cross(target.across, target.down));
            out.push_back(target);
        }
    }
    return out;
}

bool covered_up(const RayScene& rays, const SurfacePoint& p, std::uint64_t& taken) {
    glm::dvec3 t, b;
    truth::frame_of(glm::dvec3(p.side), t, b);
    int behind = 0;
    for (int i = 0; i < ways_out; ++i) {
        const double u = (i + 0.5) / ways_out, phi = 2.399963 * i; // the golden angle
        const glm::dvec3 d =
            std::sqrt(u) * (std::cos(phi) * t + std::sin(phi) * b) + std::sqrt(1 - u) * glm::dvec3(p.side);
        const RayHit hit = rays.any_surface({p.position + 1e-4f * p.side, glm::normalize(glm::vec3(d))}, 0, false);
        behind += hit.object >= 0 && !hit.front;
    }
    taken += ways_out;
    return behind * 2 > ways_out;
}

std::vector<SurfacePoint> spread_points(const MapPoint& target, int points) {
    std::vector<SurfacePoint> out = {target.point};
    for (int i = 1; i < points; ++i) {
        // A sequence that fills a square evenly (M. Roberts, The Unreasonable Effectiveness of Quasirandom Sequences,
        // 2018), each point with its opposite: what changes evenly over the texel then has its mean in the middle.
        const int pair = (i + 1) / 2;
        const double side = i % 2 ? 1 : -1, u = side * (std::fmod(0.5 + 0.7548776662466927 * pair, 1.0) - 0.5),
                     v = side * (std::fmod(0.5 + 0.5698402909980532 * pair, 1.0) - 0.5);
        out.push_back(target.point);
        out.back().position += static_cast<float>(u) * target.across + static_cast<float>(v) * target.down;
    }
    return out;
}

std::vector<SurfacePoint> spread_over(const MapPoint& target, const RayScene& rays, int points, std::uint64_t& taken) {
    constexpr float lift = 1e-3f; // metres above the surface
    std::vector<SurfacePoint> out = spread_points(target, points);
    std::erase_if(out, [&](const SurfacePoint& p) {
        const glm::vec3 step = p.position - target.point.position;
        const float metres = glm::length(step);
        if (!(metres > 0)) return false;
        ++taken;
        return !std::isfinite(metres) ||
               rays.occluded({target.point.position + lift * target.point.side, step / metres}, 0, metres);
    });
    return out;
}

} // namespace mirolux
