#include "core/surface/optics.h"
#include <algorithm>

namespace mirolux {

std::vector<const Material*> number_optics(SceneAsset& asset) {
    asset.optics = {brdf::Optics{}};
    std::vector<const Material*> without;
    for (Material& m : asset.materials) {
        auto at = std::find(asset.optics.begin(), asset.optics.end(), m.optics);
        if (at == asset.optics.end()) {
            if (asset.optics.size() == most_optics) {
                m.opticsNumber = 0;
                m.optics = {};
                without.push_back(&m);
                continue;
            }
            asset.optics.push_back(m.optics);
            at = asset.optics.end() - 1;
        }
        m.opticsNumber = static_cast<int>(at - asset.optics.begin());
    }
    return without;
}

std::shared_ptr<const SceneAsset> with_optics(const SceneAsset& asset, const brdf::Optics& optics) {
    auto out = std::make_shared<SceneAsset>(asset);
    for (Material& m : out->materials)
        if (m.alphaMode == AlphaMode::opaque) {
            m.optics = optics;
            if (optics.scatterDistance != glm::vec3(0.0f)) m.metallic = 0; // no metal lets light in
        }
    (void)number_optics(*out); // there are two at most
    return out;
}

bool scatters(const SceneAsset& asset) {
    return std::any_of(asset.optics.begin(), asset.optics.end(),
                       [](const brdf::Optics& o) { return o.scatterDistance != glm::vec3(0.0f); });
}

glm::vec3 dielectric_f0(double ior, const glm::dvec3& specularColor, double specular) {
    const double straight = ior == 0 ? 1.0 : (ior - 1) * (ior - 1) / ((ior + 1) * (ior + 1));
    return glm::vec3(glm::min(straight * specularColor, glm::dvec3(1.0)) * specular);
}

brdf::Optics shown_optics(const brdf::Optics& optics, const Setup& setup) {
    brdf::Optics out;
    if (setup.flag("shading.optics")) out = optics;
    const bool beneath = setup.choice("subsurface.kind") != "none";
    out.scatterDistance =
        beneath ? optics.scatterDistance * static_cast<float>(setup.number("subsurface.distance")) : glm::vec3(0.0f);
    out.thickness = beneath ? optics.thickness : 0.0f;
    return out;
}

bool shades_optics(const SceneAsset& asset, const Setup& setup) {
    return std::any_of(asset.optics.begin(), asset.optics.end(),
                       [&](const brdf::Optics& o) { return shown_optics(o, setup) != brdf::Optics{}; });
}

} // namespace mirolux
