#include "core/bake/light_map_layout.h"
#include "core/bake/pack.h"
#include "core/base/text.h"
#include "core/visibility/visibility.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace mirolux {

namespace {

constexpr int largest_side = 16384;

/// Area of a mesh as a matrix has it, square metres.
double area_of(const Primitive& mesh, const glm::dmat3& by) {
    double sum = 0;
    for (std::size_t i = 0; i + 2 < mesh.indices.size(); i += 3) {
        const glm::dvec3 a(mesh.vertices[mesh.indices[i]].position), b(mesh.vertices[mesh.indices[i + 1]].position),
            c(mesh.vertices[mesh.indices[i + 2]].position);
        sum += 0.5 * glm::length(glm::cross(by * (b - a), by * (c - a)));
    }
    return sum;
}

} // namespace

float LightMapLayout::stretch() const {
    float most = 1;
    for (const MappedMesh& m : meshes)
        most = std::max(most, m.flat.stretch());
    return most;
}

Result<LightMapLayout> lay_out_light_map(const Scene& scene, const Setup& setup, float density, int most) {
    LightMapLayout out;
    const Stillness stillness = stillness_of(scene, setup);
    const SceneAsset& asset = *scene.asset;
    std::map<std::pair<int, int>, int> known; // by primitive and step: into meshes
    std::map<int, double> areas;              // of primitives as they are
    std::set<std::string> lowered;
    for (std::size_t i = 0; i < scene.objects().size(); ++i) {
        const Object& o = scene.objects()[i];
        const Material& material = asset.material_of(o);
        if (!stillness.still[i] || o.hidden || o.proxy || o.body >= 0 || o.casts == Casting::unseen || material.unlit ||
            material.alphaMode == AlphaMode::blend || !(o.mapDetail > 0))
            continue;
        const Primitive& mesh = asset.primitives[static_cast<std::size_t>(o.primitive)];
        auto own = areas.find(o.primitive);
        if (own == areas.end()) own = areas.emplace(o.primitive, area_of(mesh, glm::dmat3(1.0))).first;
        const double world = area_of(mesh, glm::dmat3(glm::mat3(o.transform)));
        if (!(own->second > 0) || !(world > 0)) continue;
        const double scale = std::sqrt(world / own->second);
        int step = static_cast<int>(std::floor(2 * std::log2(density * o.mapDetail * scale) + 1e-6));
        int number = -1;
        for (int tries = 0; tries < 64; ++tries, --step) {
            auto [it, fresh] = known.insert({{o.primitive, step}, static_cast<int>(out.meshes.size())});
            if (fresh) out.meshes.push_back(mapped(mesh, static_cast<float>(std::exp2(0.5 * step))));
            number = it->second;
            const MappedMesh& m = out.meshes[static_cast<std::size_t>(number)];
            if (m.width <= most && m.height <= most) break;
            lowered.insert(i < asset.objectNames.size() ? asset.objectNames[i].name : std::to_string(i));
            if (fresh) { // it is of no use
                out.meshes.pop_back();
                known.erase(it);
            }
        }
        out.places.push_back({static_cast<int>(i), number, 0, 0,
                              static_cast<float>(out.meshes[static_cast<std::size_t>(number)].density / scale)});
        out.area += world;
    }
    if (out.places.empty())
        return fail("nothing that light could be baked for stands still", "lightmap",
                    "Mark objects as still at the objects' bench.");
    std::vector<PackedRect> rects;
    for (const LightMapLayout::Place& p : out.places) {
        const MappedMesh& m = out.meshes[static_cast<std::size_t>(p.mesh)];
        rects.push_back({m.width, m.height});
    }
    const glm::ivec2 size = pack(rects, 4, false);
    if (size.x > largest_side || size.y > largest_side)
        return fail("the light map would be " + std::to_string(size.x) + " x " + std::to_string(size.y) +
                        " texels, more than 16384 a side",
                    "--density", "Take fewer texels a metre.");
    out.width = size.x;
    out.height = size.y;
    std::vector<std::size_t> covered;
    for (const MappedMesh& m : out.meshes)
        covered.push_back(covered_texels(m).size());
    for (std::size_t i = 0; i < out.places.size(); ++i) {
        out.places[i].x = rects[i].x;
        out.places[i].y = rects[i].y;
        out.covered += covered[static_cast<std::size_t>(out.places[i].mesh)];
    }
    if (!lowered.empty()) {
        std::vector<std::string> names(lowered.begin(), lowered.end());
        const std::size_t all = names.size();
        if (all > 3) names.resize(3);
        out.remarks.push_back(joined(names) + (all > 3 ? " and " + std::to_string(all - 3) + " more" : "") +
                              " would take more than " + std::to_string(most) +
                              " texels a side: there are fewer a metre.");
    }
    return out;
}

} // namespace mirolux
