#include "core/blocks/drawn_scene.h"
#include "core/base/text.h"
#include "core/blocks/block_stage.h"

namespace mirolux::blocks {

static constexpr double pi_ = 3.14159265358979, facing_squares = 0.1998;

glm::dvec3 lamp_radiance(const Material& m, const Setup& setup) {
    const int most = std::max({m.light.x, m.light.y, m.light.z});
    if (most <= 0) return glm::dvec3(0.0);
    const int beside = std::max(0, most - setup.whole("flood.loss"));
    const double lux =
        setup.number("flood.light") * std::pow(beside / double(most_light), setup.number("flood.falloff"));
    return glm::dvec3(m.light) / double(most) * (lux / (pi_ * facing_squares));
}

namespace {

/// The corners of a rectangle in front order; cells.
void add_quad(Primitive& p, const Quad& q) {
    const glm::ivec2 axes = axes_of(q.face());
    const int across = q.face() / 2;
    glm::vec3 at(q.cell()), normal(0.0f), u(0.0f), v(0.0f);
    if (q.face() % 2 == 0) at[across] += 1;
    normal[across] = q.face() % 2 == 0 ? 1.0f : -1.0f;
    u[axes.x] = static_cast<float>(q.along());
    v[axes.y] = static_cast<float>(q.across());
    const auto first = static_cast<std::uint32_t>(p.vertices.size());
    for (const glm::vec3& corner : {at, at + u, at + v, at + u + v}) {
        Vertex vertex;
        vertex.position = corner;
        vertex.normal = normal;
        vertex.tangent = glm::vec4(glm::normalize(u), 1);
        p.vertices.push_back(vertex);
    }
    const bool turned = glm::dot(glm::cross(u, v), normal) < 0;
    for (const std::uint32_t i :
         turned ? std::array<std::uint32_t, 6>{0, 2, 1, 1, 2, 3} : std::array<std::uint32_t, 6>{0, 1, 2, 2, 1, 3})
        p.indices.push_back(first + i);
}

mirolux::Material surface_of(const Material& m, const Setup& setup) {
    mirolux::Material out;
    out.name = m.name;
    out.baseColor = glm::vec4(m.color, m.opacity);
    out.metallic = m.metallic;
    out.roughness = m.roughness;
    out.emissive = m.shines() ? glm::vec3(lamp_radiance(m, setup)) : m.color * m.glow;
    if (!m.stops_light()) out.alphaMode = AlphaMode::blend;
    return out;
}

/// The part's faces, one object for each material that it has.
void add_part(SceneAsset& asset, const MeshedWorld::Part& part, const std::string& name, const glm::mat4& toWorld) {
    std::map<int, Primitive> byMaterial;
    for (const Quad& q : part.all())
        add_quad(byMaterial[q.material()], q);
    for (auto& [material, primitive] : byMaterial) {
        primitive.material = material;
        Object object;
        object.primitive = static_cast<int>(asset.primitives.size());
        object.transform = toWorld;
        for (const Vertex& v : primitive.vertices) {
            primitive.bounds.add(v.position);
            object.bounds.add(glm::vec3(toWorld * glm::vec4(v.position, 1)));
        }
        asset.bounds.add(object.bounds);
        asset.objects.push_back(object);
        const std::string id = name + " " + asset.materials[static_cast<std::size_t>(material)].name;
        asset.objectNames.push_back({id + "#" + std::to_string(material), id});
        asset.primitives.push_back(std::move(primitive));
    }
}

} // namespace

DrawnScene drawn_scene(const Scene& scene, const Setup& setup, const View& view) {
    const World& world = *scene.blocks;
    auto asset = std::make_shared<SceneAsset>();
    asset->path = scene.asset->path;
    for (const Material& m : world.palette)
        asset->materials.push_back(surface_of(m, setup));
    asset->materials.emplace_back(); // the default one, which nothing has
    const std::shared_ptr<const MeshedWorld> mesh = meshed(scene.blocks);
    add_part(*asset, mesh->still, "cells", prop_matrix(world, Prop{}, 0));
    const std::vector<double> turns = turns_of(world, view.seconds);
    for (std::size_t i = 0; i < world.props.size(); ++i)
        add_part(*asset, mesh->props[i], world.props[i].name, prop_matrix(world, world.props[i], turns[i]));
    Digest digest;
    for (const Primitive& p : asset->primitives) {
        digest.add(p.vertices.data(), p.vertices.size() * sizeof(Vertex));
        const mirolux::Material& m = asset->materials[static_cast<std::size_t>(p.material)];
        const float values[] = {m.baseColor.x, m.baseColor.y, m.baseColor.z, m.baseColor.w, m.metallic,
                                m.roughness,   m.emissive.x,  m.emissive.y,  m.emissive.z};
        digest.add(values, sizeof(values));
    }
    asset->digest = asset->fileDigest = digest.value;
    DrawnScene out;
    out.scene.asset = asset;
    const glm::vec3 sky = setup.color("blocks.top");
    out.scene.sky = {sky, sky};
    for (const Light& l : draw_list(scene, setup, view).lights)
        if (l.type == LightType::directional) {
            out.scene.lights = {l}; // the one that cells know
            break;
        }
    for (const auto& [key, word] :
         {std::pair("shading.model", "ggx"), {"ambient.kind", "none"}, {"sky.kind", "colors"}})
        (void)out.setup.set_text(key, word);
    return out;
}

} // namespace mirolux::blocks
