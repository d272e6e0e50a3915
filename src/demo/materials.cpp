#include "demo/materials.h"
#include "demo/textures.h"
#include <fmt/format.h>

namespace mirolux::demo {

using glm::vec3;

std::string numbered(const std::string& name, int n) {
    return name + fmt::format(" {:02}", n);
}

Materials make_materials(GlbWriter& glb) {
    using nlohmann::json;
    struct Set {
        int base, normal, orm;
    };
    auto bake = [&](const std::string& name, const SurfaceMaps& maps) {
        return Set{glb.texture(name + " base colour", maps.baseColor), glb.texture(name + " normal", maps.normal),
                   glb.texture(name + " occlusion roughness metallic", maps.orm)};
    };
    const Set asphaltMaps = bake("asphalt", asphalt(512)), steelMaps = bake("corrugated", corrugated(512)),
              plankMaps = bake("planks", planks(512)), tileMaps = bake("tiles", tiles(512)),
              concreteMaps = bake("concrete", concrete(256)), waterMaps = bake("water", water(256));
    auto textured = [&](const std::string& name, const Set& s, vec3 tint, float metallic, float roughness,
                        float normalScale = 1.0f) {
        return glb.material({{"name", name},
                             {"pbrMetallicRoughness",
                              {{"baseColorFactor", {tint.r, tint.g, tint.b, 1.0}},
                               {"metallicFactor", metallic},
                               {"roughnessFactor", roughness},
                               {"baseColorTexture", {{"index", s.base}}},
                               {"metallicRoughnessTexture", {{"index", s.orm}}}}},
                             {"normalTexture", {{"index", s.normal}, {"scale", normalScale}}},
                             {"occlusionTexture", {{"index", s.orm}}}});
    };
    auto plain = [&](const std::string& name, vec3 color, float metallic, float roughness) {
        return glb.material({{"name", name},
                             {"pbrMetallicRoughness",
                              {{"baseColorFactor", {color.r, color.g, color.b, 1.0}},
                               {"metallicFactor", metallic},
                               {"roughnessFactor", roughness}}}});
    };
    auto glow = [&](const std::string& name, vec3 color, float luminance) {
        return glb.material(
            {{"name", name},
             {"pbrMetallicRoughness",
              {{"baseColorFactor", {0.05, 0.05, 0.05, 1.0}}, {"metallicFactor", 0.0}, {"roughnessFactor", 0.4}}},
             {"emissiveFactor", {color.r, color.g, color.b}},
             {"extensions", {{"KHR_materials_emissive_strength", {{"emissiveStrength", luminance}}}}}});
    };
    Materials m{};
    m.asphalt = textured("wet asphalt", asphaltMaps, vec3(1.0f), 0, 1);
    m.concrete = textured("concrete", concreteMaps, vec3(1.0f), 0, 1);
    m.planks = textured("pier planks", plankMaps, vec3(1.0f), 0, 1);
    m.tiles = textured("hall tiles", tileMaps, vec3(1.0f), 0, 1);
    m.water = textured("harbour water", waterMaps, vec3(1.0f), 0, 1);
    const vec3 paints[5] = {{0.55f, 0.09f, 0.05f},
                            {0.05f, 0.22f, 0.42f},
                            {0.42f, 0.38f, 0.30f},
                            {0.30f, 0.36f, 0.38f},
                            {0.62f, 0.34f, 0.05f}};
    for (int i = 0; i < 5; ++i)
        m.container[i] = textured(numbered("corrugated steel", i + 1), steelMaps, paints[i], 0, 1);
    m.steel = plain("galvanised steel", {0.52f, 0.54f, 0.56f}, 0.85f, 0.42f);
    m.darkSteel = plain("dark steel", {0.035f, 0.038f, 0.042f}, 0.3f, 0.38f);
    m.whitePaint = plain("white paint", {0.72f, 0.72f, 0.69f}, 0, 0.35f);
    m.rubber = plain("rubber", {0.018f, 0.018f, 0.018f}, 0, 0.8f);
    m.wood = textured("bench wood", plankMaps, {1.7f, 1.35f, 1.0f}, 0, 0.8f, 0.5f);
    m.lines = plain("road paint", {0.62f, 0.62f, 0.58f}, 0, 0.45f);
    m.ferryHull = plain("ferry hull", {0.02f, 0.06f, 0.09f}, 0, 0.25f);
    m.ferryDeck = plain("ferry deck", {0.12f, 0.20f, 0.16f}, 0, 0.5f);
    m.rope = plain("rope", {0.36f, 0.28f, 0.16f}, 0, 0.9f);
    m.tarp = plain("tarpaulin", {0.06f, 0.14f, 0.20f}, 0, 0.5f);
    m.sign = plain("signal orange", {0.72f, 0.17f, 0.03f}, 0, 0.4f);
    const vec3 cars[5] = {{0.45f, 0.02f, 0.02f},
                          {0.03f, 0.09f, 0.26f},
                          {0.50f, 0.51f, 0.52f},
                          {0.02f, 0.02f, 0.025f},
                          {0.08f, 0.20f, 0.14f}};
    auto coated = [&](const std::string& name, vec3 color, float metallic, float roughness, float coatRoughness) {
        return glb.material(
            {{"name", name},
             {"pbrMetallicRoughness",
              {{"baseColorFactor", {color.r, color.g, color.b, 1.0}},
               {"metallicFactor", metallic},
               {"roughnessFactor", roughness}}},
             {"extensions",
              {{"KHR_materials_clearcoat", {{"clearcoatFactor", 1.0}, {"clearcoatRoughnessFactor", coatRoughness}}}}}});
    };
    for (int i = 0; i < 5; ++i)
        m.carPaint[i] = coated(numbered("car paint", i + 1), cars[i], 0.2f, 0.45f, 0.08f);
    m.wax = glb.material(
        {{"name", "figurehead wax"},
         {"pbrMetallicRoughness",
          {{"baseColorFactor", {0.80, 0.56, 0.30, 1.0}}, {"metallicFactor", 0.0}, {"roughnessFactor", 0.42}}},
         {"extensions", {{"KHR_materials_ior", {{"ior", 1.44}}}}},
         {"extras", {{"scatterDistance", {0.012, 0.006, 0.0025}}, {"thickness", 0.02}}}});
    m.glassEye = glb.material(
        {{"name", "glass eye"},
         {"pbrMetallicRoughness",
          {{"baseColorFactor", {0.012, 0.008, 0.006, 1.0}}, {"metallicFactor", 0.0}, {"roughnessFactor", 0.06}}},
         {"extensions", {{"KHR_materials_ior", {{"ior", 1.7}}}}}});
    m.varnish = coated("varnished oak", {0.16f, 0.07f, 0.03f}, 0, 0.7f, 0.12f);
    m.brass = plain("brass", {0.78f, 0.56f, 0.24f}, 1, 0.3f);
    m.lampGlow = glow("warm lamp", {1.0f, 0.60f, 0.26f}, 14);
    m.whiteGlow = glow("white lamp", {1.0f, 0.92f, 0.78f}, 18);
    m.redGlow = glow("red lamp", {1.0f, 0.04f, 0.02f}, 4);
    m.greenGlow = glow("green lamp", {0.04f, 1.0f, 0.25f}, 4);
    m.amberGlow = glow("amber sign", {1.0f, 0.33f, 0.03f}, 1.3f);
    m.screen = glow("lit window", {1.0f, 0.66f, 0.34f}, 1.5f);
    m.glass = glb.material(
        {{"name", "hall glass"},
         {"alphaMode", "BLEND"},
         {"doubleSided", true},
         {"pbrMetallicRoughness",
          {{"baseColorFactor", {0.30, 0.42, 0.42, 0.16}}, {"metallicFactor", 0.0}, {"roughnessFactor", 0.08}}}});
    m.face = plain("weathered skin", {0.45f, 0.25f, 0.17f}, 0, 0.6f);
    return m;
}

} // namespace mirolux::demo
