#include "core/surface/surface_model.h"
#include "core/surface/optics.h"
#include "core/technique/plan_builder.h"

// What a surface does with light: the choice among the models of core/light/brdf.h.
namespace mirolux {

brdf::Model shading_model(const Setup& setup) {
    const std::string& m = setup.choice("shading.model");
    return m == "lambert"       ? brdf::Model::lambert
           : m == "phong"       ? brdf::Model::phong
           : m == "blinn-phong" ? brdf::Model::blinnPhong
                                : brdf::Model::ggx;
}

namespace technique {

static void plan_surface_model(const FrameInputs& in, PlanBuilder& b) {
    const Setup& s = in.setup;
    b.define("SHADING_MODEL " + std::to_string(static_cast<int>(shading_model(s)))); // as include/brdf.glsl counts them
    b.define(std::string("NORMALISED ") + (s.flag("shading.normalised") ? "1" : "0"));
    b.define(std::string("NORMAL_MAPS ") + (s.flag("shading.normalMaps") ? "1" : "0"));
    if (shades_optics(*in.scene.asset, s)) b.define("OPTICS");
    b.set("lobe", glm::vec4(static_cast<float>(s.number("shading.exponent")), 0, 0, 0));
}

static void price_surface_model(const FramePlan&, const PlannedPass&, const Work& w, CostTerms& t) {
    if (w.at("coatLights") > 0) t["coat"] = static_cast<double>(w.at("coatLights"));
}

static std::vector<LayerInfo> layers() {
    const char* file = "surface/layers.glsl";
    return {
        {"albedo", "Albedo", "Base colour of the nearest opaque surface, without light.", LayerView::color, "", file},
        {"normal", "Normal", "World-space normal, -1..1 shown as 0..1.", LayerView::vector, "", file},
        {"material", "Material", "Roughness in red, metallic in green.", LayerView::plain, "", file},
        {"depth", "Depth", "Distance along the view axis, near white to far black, ranged to what is in view.",
         LayerView::depth, "depth"},
        {"ambient", "Ambient", "What ambient light alone gives.", LayerView::radiance, "", file, true, SkyPart::none,
         true},
        {"direct", "Direct", "Diffuse and specular light of all lights.", LayerView::radiance, "", file, true},
        {"diffuse", "Diffuse", "Diffuse light of all lights.", LayerView::radiance, "", file, true, SkyPart::none,
         true},
        {"specular", "Specular", "Specular light of all lights.", LayerView::radiance, "", file, true, SkyPart::none,
         true},
        {"emissive", "Emissive", "What surfaces give off themselves.", LayerView::radiance, "", file, true,
         SkyPart::none, true},
        {.name = "objects",
         .label = "Objects",
         .help = "A colour for each object, blended ones where they cover a tenth; as .exr, alpha holds its number, "
                 "plus one.",
         .view = LayerView::color,
         .file = file,
         .panes = true,
         .exact = true},
    };
}

const Technique& surface_model() {
    static const Technique technique{
        .name = "surface_model",
        .settings =
            {choice_setting("shading.model", "Shading model", "Path", {"lambert", "phong", "blinn-phong", "ggx"}, "ggx",
                            "What a surface does with light; ggx uses metallic and roughness, the others a fixed "
                            "exponent."),
             number_setting("shading.exponent", "Exponent", "Path", 48.0, 1.0, 2048.0, "",
                            "phong, blinn-phong: sharpness of the highlight.")
                 .on_ratio()
                 .only_when("shading.model", {"phong", "blinn-phong"}),
             toggle_setting("shading.normalised", "Energy-normalised", "Path", true,
                            "phong, blinn-phong: scale the lobe so that its energy does not change with the exponent.")
                 .only_when("shading.model", {"phong", "blinn-phong"}),
             toggle_setting("shading.normalMaps", "Normal maps", "Path", true,
                            "Uses the materials' normal textures; off saves a texture read a fragment."),
             toggle_setting("shading.optics", "Coats and refraction", "Path", true,
                            "Uses the materials' clear coats (ggx), index of refraction and specular strength; a coat "
                            "is a second lobe for each light. Off shades all materials as plain ones.")
                 .only_when("shading.model", {"ggx", "phong", "blinn-phong"})},
        .counters = {{"coatLights", "Lights on coats", "lights evaluated for a clear coat"}},
        .terms = {{"surface", "a fragment's material, normal and ambient light, its texture reads apart", {}},
                  {"idleLight", "a light taken up for a fragment that it does not reach", {}},
                  {"lambert", "a light evaluated, Lambert", {}},
                  {"phong", "a light evaluated, Phong", {}},
                  {"blinnPhong", "a light evaluated, Blinn-Phong", {}},
                  {"ggx", "a light evaluated, GGX", {}},
                  {"coat", "a light evaluated for a clear coat", {{"shading.optics", "on"}}, 0.06}},
        .layers = layers(),
        .parameters = {"lobe"}, // x: exponent of phong and blinn-phong
        .plan = plan_surface_model,
        .price = price_surface_model,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
