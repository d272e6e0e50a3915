#include "core/scene/gltf_materials.h"
#include "core/surface/optics.h"

namespace mirolux::gltf {

const std::set<std::string>& understood_extensions() {
    static const std::set<std::string> names = {"KHR_animation_pointer",      "KHR_lights_punctual",
                                                "KHR_materials_clearcoat",    "KHR_materials_emissive_strength",
                                                "KHR_materials_ior",          "KHR_materials_specular",
                                                "KHR_materials_unlit",        "KHR_mesh_quantization",
                                                "KHR_draco_mesh_compression", "EXT_meshopt_compression",
                                                "EXT_mesh_gpu_instancing",    "EXT_texture_webp",
                                                "KHR_texture_transform",      "KHR_materials_variants"};
    return names;
}

namespace {

int texture_reference(File& file, const SceneAsset& asset, const JsonCursor& owner, const char* key) {
    if (!owner.has(key)) return -1;
    const JsonCursor t = owner[key];
    if (t.whole("texCoord", 0) != 0) file.warn(t.pointer() + "/texCoord", "only set 0 is used");
    const int index = t.index("index", asset.textures.size());
    if (index < 0) t.complain("lacks \"index\"");
    return asset.textures[index].image < 0 ? -1 : index;
}

/// Where a texture takes its coordinates from: K. Zhang et al., KHR_texture_transform (2018).
glm::mat3 texture_transform(File& file, const JsonCursor& texture) {
    static const char* name = "KHR_texture_transform";
    if (!texture.has("extensions") || !texture["extensions"].has(name)) return glm::mat3(1.0f);
    const JsonCursor t = texture["extensions"][name];
    if (t.whole("texCoord", 0) != 0) file.warn(t.pointer() + "/texCoord", "only set 0 is used");
    const glm::vec2 offset = t.vector<2>("offset", glm::vec2(0.0f)), scale = t.vector<2>("scale", glm::vec2(1.0f));
    const auto turn = static_cast<float>(t.number("rotation", 0.0));
    const float c = std::cos(turn), s = std::sin(turn);
    return glm::mat3(1, 0, 0, 0, 1, 0, offset.x, offset.y, 1) * glm::mat3(c, s, 0, -s, c, 0, 0, 0, 1) *
           glm::mat3(scale.x, 0, 0, 0, scale.y, 0, 0, 0, 1);
}

/// One for all of a material's textures: a vertex has one pair of coordinates.
glm::mat3 material_transform(File& file, const std::vector<JsonCursor>& textures) {
    glm::mat3 out(1.0f);
    const JsonCursor* first = nullptr;
    for (const JsonCursor& t : textures)
        if (const glm::mat3 own = texture_transform(file, t); !first && own != glm::mat3(1.0f)) {
            out = own;
            first = &t;
        }
    for (const JsonCursor& t : textures)
        if (first && texture_transform(file, t) != out)
            file.warn(t.pointer(), "is placed as " + first->pointer() + ": textures of a material share one transform");
    return out;
}

/// KHR_materials_ior, _specular and _clearcoat, and by name what there is of others.
void read_optics(File& file, const JsonCursor& e, Material& material) {
    const auto unread = [&](const JsonCursor& owner, std::initializer_list<const char*> textures) {
        for (const char* key : textures)
            if (owner.has(key)) file.warn(owner[key].pointer(), "is not read: its factor holds for all of the surface");
    };
    double ior = 1.5, specular = 1;
    glm::vec3 tint(1.0f);
    if (e.has("KHR_materials_ior")) {
        const JsonCursor i = e["KHR_materials_ior"];
        ior = i.number("ior", 1.5, 0.0, 100.0);
        if (ior > 0 && ior < 1) i["ior"].complain("must be 0, or 1 and more", "Air has 1, water 1.33, glass 1.5.");
    }
    if (e.has("KHR_materials_specular")) {
        const JsonCursor s = e["KHR_materials_specular"];
        specular = s.number("specularFactor", 1.0, 0.0, 1.0);
        tint = s.vector<3>("specularColorFactor", tint);
        if (tint.x < 0 || tint.y < 0 || tint.z < 0) s["specularColorFactor"].complain("must not be under 0");
        unread(s, {"specularTexture", "specularColorTexture"});
    }
    if (e.has("KHR_materials_ior") || e.has("KHR_materials_specular")) {
        material.optics.f0 = dielectric_f0(ior, glm::dvec3(tint), specular);
        material.optics.f90 = static_cast<float>(specular);
    }
    if (e.has("KHR_materials_clearcoat")) {
        const JsonCursor c = e["KHR_materials_clearcoat"];
        material.optics.coat = static_cast<float>(c.number("clearcoatFactor", 0.0, 0.0, 1.0));
        if (material.optics.coat > 0)
            material.optics.coatRoughness = static_cast<float>(c.number("clearcoatRoughnessFactor", 0.0, 0.0, 1.0));
        unread(c, {"clearcoatTexture", "clearcoatRoughnessTexture", "clearcoatNormalTexture"});
        if (material.optics.coat > 0 && material.textures[static_cast<int>(TextureSlot::normal)] >= 0)
            file.warn(c.pointer(), "follows the material's normal map, where the extension has it smooth");
    }
    for (const auto& [name, ignored] : e.json().items())
        if (name.starts_with("KHR_materials_") && !understood_extensions().contains(name))
            file.warn(e[name.c_str()].pointer(), name + " is not shaded");
}

/// How far light goes beneath the surface, which no extension in use tells: ours, in the material's extras.
void read_beneath(File& file, const SceneAsset& asset, const JsonCursor& extras, Material& material) {
    if (!extras.json().is_object() || !extras.has("scatterDistance")) return;
    const glm::vec3 d = extras.vector<3>("scatterDistance", glm::vec3(0.0f));
    if (!(d.x >= 0 && d.y >= 0 && d.z >= 0 && d.x <= 10 && d.y <= 10 && d.z <= 10))
        extras["scatterDistance"].complain("must be three lengths from 0 to 10 m",
                                           "Skin has about [0.0012, 0.0003, 0.0002].");
    if (d == glm::vec3(0.0f)) return;
    material.optics.scatterDistance = d;
    material.optics.thickness = static_cast<float>(extras.number("thickness", 0.0, 0.0, 100.0));
    material.textures[static_cast<int>(TextureSlot::thickness)] =
        texture_reference(file, asset, extras, "thicknessTexture");
    if (material.metallic > 0) {
        file.warn(extras["scatterDistance"].pointer(), "no light goes beneath metal: metallicFactor is taken as 0");
        material.metallic = 0;
    }
}

} // namespace

std::vector<glm::mat3> read_materials(File& file, SceneAsset& asset) {
    std::vector<glm::mat3> transforms;
    const JsonCursor materials = file.root().list("materials");
    for (std::size_t i = 0; i < materials.size(); ++i) {
        const JsonCursor m = materials.at(i);
        Material material;
        material.name = m.text("name", "material " + std::to_string(i));
        std::vector<JsonCursor> placed;
        auto texture = [&](TextureSlot slot, const JsonCursor& owner, const char* key) {
            if (owner.has(key)) placed.push_back(owner[key]);
            material.textures[static_cast<int>(slot)] = texture_reference(file, asset, owner, key);
        };
        if (m.has("pbrMetallicRoughness")) {
            const JsonCursor p = m["pbrMetallicRoughness"];
            material.baseColor = p.vector<4>("baseColorFactor", glm::vec4(1.0f));
            material.metallic = static_cast<float>(p.number("metallicFactor", 1.0, 0.0, 1.0));
            material.roughness = static_cast<float>(p.number("roughnessFactor", 1.0, 0.0, 1.0));
            texture(TextureSlot::baseColor, p, "baseColorTexture");
            texture(TextureSlot::metallicRoughness, p, "metallicRoughnessTexture");
        }
        texture(TextureSlot::normal, m, "normalTexture");
        texture(TextureSlot::occlusion, m, "occlusionTexture");
        texture(TextureSlot::emissive, m, "emissiveTexture");
        if (m.has("normalTexture")) material.normalScale = static_cast<float>(m["normalTexture"].number("scale", 1.0));
        if (m.has("occlusionTexture"))
            material.occlusionStrength = static_cast<float>(m["occlusionTexture"].number("strength", 1.0, 0.0, 1.0));
        material.emissive = m.vector<3>("emissiveFactor", glm::vec3(0.0f));
        if (m.has("extensions")) {
            const JsonCursor e = m["extensions"];
            if (e.has("KHR_materials_emissive_strength"))
                material.emissive *=
                    static_cast<float>(e["KHR_materials_emissive_strength"].number("emissiveStrength", 1.0, 0.0, 1e9));
            material.unlit = e.has("KHR_materials_unlit");
            read_optics(file, e, material);
        }
        if (m.has("extras")) read_beneath(file, asset, m["extras"], material);
        const std::string mode = m.text("alphaMode", "OPAQUE");
        if (mode == "MASK")
            material.alphaMode = AlphaMode::mask;
        else if (mode == "BLEND")
            material.alphaMode = AlphaMode::blend;
        else if (mode != "OPAQUE")
            m["alphaMode"].complain("is \"" + mode + "\", not OPAQUE, MASK or BLEND");
        material.alphaCutoff = static_cast<float>(m.number("alphaCutoff", 0.5, 0.0));
        material.doubleSided = m.flag("doubleSided", false);
        asset.materials.push_back(material);
        transforms.push_back(material_transform(file, placed));
    }
    transforms.emplace_back(1.0f);
    Material standard;
    standard.name = "default";
    asset.materials.push_back(standard);
    for (const Material* m : number_optics(asset))
        file.warn(materials.at(static_cast<std::size_t>(m - asset.materials.data())).pointer(),
                  "is shaded as plain: a scene may have " + std::to_string(most_optics - 1) +
                      " different coats, indices and depths of light");
    return transforms;
}

} // namespace mirolux::gltf
