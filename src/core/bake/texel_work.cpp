#include "core/bake/texel_work.h"
#include "core/bake/light_map.h"
#include "core/base/recent.h"
#include "core/base/text.h"
#include "core/visibility/visibility.h"

namespace mirolux {

std::string surfaces_digest(const Scene& scene, const Setup& setup, SurfaceTraits traits) {
    Digest d;
    const auto add = [&](const auto& value) { d.add(&value, sizeof value); };
    add(scene.asset->fileDigest);
    const Stillness stillness = stillness_of(scene, setup);
    const std::vector<Object>& objects = scene.objects();
    for (std::size_t i = 0; i < objects.size(); ++i) {
        const Object& o = objects[i];
        if (!stillness.still[i] || o.hidden || o.proxy || o.casts == Casting::unseen) continue;
        const Primitive& p = scene.asset->primitives[static_cast<std::size_t>(o.primitive)];
        const Material& m = scene.asset->material_of(o);
        add(i);
        add(o.transform);
        add(p.bounds.low); // of what is built, and of variants, the file's digest tells nothing
        add(p.bounds.high);
        add(p.indices.size());
        const int form[] = {o.primitive, o.body,        static_cast<int>(o.casts),    o.receives,
                            m.unlit,     m.doubleSided, static_cast<int>(m.alphaMode)};
        add(form);
        if (m.alphaMode == AlphaMode::mask) add(m.alphaCutoff);
        if (traits.layout) add(o.mapDetail);
        if (!traits.colors) continue;
        add(m.baseColor);
        add(m.emissive);
        add(m.metallic);
        add(m.roughness);
        add(m.textures);
    }
    return d.hex();
}

std::shared_ptr<const Result<LightMapLayout>> kept_layout(const Scene& scene, const Setup& setup, float density) {
    static Recent<std::pair<std::string, float>, Result<LightMapLayout>> kept(3);
    return kept.of({surfaces_digest(scene, setup, {}), density},
                   [&](const auto&) { return lay_out_light_map(scene, setup, density); });
}

Result<void> make_bakes_folder(const Scene& scene, const std::string& what) {
    if (scene.bakes.empty()) return fail(what + " kept beside a project", "bake", "Save the project first.");
    if (!scene.asset->picturesRead && !scene.asset->textures.empty()) // light by colours that are not there is wrong
        return fail("the scene's pictures were not read", scene.asset->path, "Open the scene with its pictures.");
    std::error_code error;
    std::filesystem::create_directories(scene.bakes, error);
    if (error) return fail("the folder cannot be made: " + error.message(), scene.bakes, "Choose another place.");
    return {};
}

Result<TexelWork> texel_work(const Scene& scene, const Setup& setup, float density, const std::string& what) {
    const auto layout = kept_layout(scene, setup, density);
    if (!*layout) return tl::unexpected(layout->error());
    if (auto ok = make_bakes_folder(scene, what); !ok) return tl::unexpected(ok.error());
    TexelWork out;
    out.scene = only_still(scene, setup);
    out.layout = {layout, &**layout};
    out.rays = std::make_shared<RayScene>(out.scene);
    out.targets = map_points(out.scene, *out.layout);
    return out;
}

namespace {

constexpr glm::ivec2 ways[] = {{1, 0}, {-1, 0}, {0, 1}, {0, -1}, {1, 1}, {1, -1}, {-1, 1}, {-1, -1}};

/// Rings around what is known, within a rectangle.
void spread(const LightMapLayout& layout, const glm::ivec2& low, const glm::ivec2& high, int directions,
            std::vector<std::uint8_t>& known, const std::function<void(std::size_t, std::size_t)>& copy,
            bool fromGiven) {
    const auto at = [&](const glm::ivec2& p) {
        return static_cast<std::size_t>(p.y) * static_cast<std::size_t>(layout.width) + static_cast<std::size_t>(p.x);
    };
    std::vector<glm::ivec2> front;
    for (int y = low.y; y < high.y; ++y)
        for (int x = low.x; x < high.x; ++x)
            if (known[at({x, y})] == 1 || (fromGiven && known[at({x, y})] == 2)) front.push_back({x, y});
    for (std::size_t i = 0; i < front.size(); ++i) {
        const glm::ivec2 p = front[i];
        for (int k = 0; k < directions; ++k) {
            const glm::ivec2 q = p + ways[k];
            if (q.x < low.x || q.y < low.y || q.x >= high.x || q.y >= high.y || known[at(q)]) continue;
            known[at(q)] = 2;
            copy(at(p), at(q));
            front.push_back(q);
        }
    }
}

} // namespace

void spread_in_charts(const LightMapLayout& layout, std::vector<std::uint8_t>& known,
                      const std::function<void(std::size_t, std::size_t)>& copy) {
    for (const LightMapLayout::Place& place : layout.places)
        for (const MappedMesh::Area& area : layout.meshes[static_cast<std::size_t>(place.mesh)].areas) {
            const glm::ivec2 low(place.x + area.x, place.y + area.y);
            spread(layout, low, low + glm::ivec2(area.width, area.height), 8, known, copy, false);
        }
}

void spread_between(const LightMapLayout& layout, std::vector<std::uint8_t>& known,
                    const std::function<void(std::size_t, std::size_t)>& copy) {
    spread(layout, glm::ivec2(0), {layout.width, layout.height}, 4, known, copy, true);
}

} // namespace mirolux
