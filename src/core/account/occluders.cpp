#include "core/account/occluders.h"
#include "core/base/text.h"
#include "core/light/luminance.h"
#include "core/truth/integrals.h"

namespace mirolux {

/// What the shadow takes from the light, cd/m2.
static double taken(const LightTerm& t, double shadow) {
    return luminance(t.intensity * (t.distance * t.cone * t.facing) * (t.diffuse + t.specular)) * (1 - shadow);
}

void name_occluders(PixelAccount& account, const Scene& scene, const RayScene& rays) {
    const LightTerm* most = nullptr;
    double lost = 0;
    for (SurfaceAccount& surface : account.surfaces)
        for (LightTerm& t : surface.lights) {
            const auto shadow = std::find_if(t.factors.begin(), t.factors.end(),
                                             [](const LightFactor& f) { return f.name == "shadow"; });
            if (shadow == t.factors.end() || shadow->value.y > 0.995) continue;
            const auto light =
                std::find_if(scene.lights.begin(), scene.lights.end(), [&](const Light& l) { return l.id == t.light; });
            if (light == scene.lights.end() || t.facing <= 0) continue;
            const glm::vec3 at = surface.sample.position, normal = surface.sample.normal;
            const bool far = light->type == LightType::directional;
            const glm::vec3 to = far ? -light->direction : glm::normalize(light->position - at);
            const RayHit hit = rays.nearest_caster({at + normal * truth::clear_of(at), to}, truth::clear_of(at));
            if (hit.object < 0 || (!far && hit.distance > t.metres)) continue;
            t.occluder = scene.asset->objectNames[static_cast<std::size_t>(hit.object)].name;
            if (const double part = taken(t, shadow->value.y) * surface.weight; part > lost) {
                lost = part;
                most = &t;
            }
        }
    if (most && lost > 0.5 * luminance(account.sum))
        account.reason += " " + most->occluder + " keeps " + most->name + " from it.";
}

} // namespace mirolux
