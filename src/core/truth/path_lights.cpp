#include "core/light/falloff.h"
#include "core/surface/surface_model.h"
#include "core/truth/path.h"
#include "core/truth/source.h"

// Light that comes straight from where it is made, at a surface on a path's way.
namespace mirolux::truth {

/// What the layer takes of the lobes: at the surface that is seen some take one of them alone.
glm::dvec3 PathTracer::taken(const brdf::Lobes& lobes, double diffuse, double specular, const Path& path) const {
    if (path.bounces == 0) {
        if (options_.layer == Layer::diffuse || options_.layer == Layer::indirectDiffuse) specular = 0;
        if (options_.layer == Layer::specular || options_.layer == Layer::indirectSpecular) diffuse = 0;
    }
    return lobes.diffuse * diffuse + lobes.specular * specular;
}

/// Light of a lamp from one direction, with the weight that this way of finding it has. density: of the way that chose
/// `to` by the lobes; 0: the lamp's source was asked, `share` times.
glm::dvec3 PathTracer::lamp_from(const Lamp& lamp, double share, const glm::dvec3& to, double density,
                                 const SurfacePoint& s, const Scattering& scattering, Path& path) const {
    const Light& l = lamp.light;
    if (path.bounces == 0) path.way = to;
    const double facing = glm::dot(scattering.normal, to);
    if (facing <= 0) return {};
    const Source source(l, s.position);
    const auto metres = source.metres(to);
    if (!metres) return {};
    double weight = source.gain();
    if (source.angle() > 0) {
        const double asked = share / source.angle(), chosen = density > 0 ? density : scattering.density(to);
        if (density > 0)
            weight *= power_heuristic(density, asked) / (source.angle() * density);
        else if (chosen > sharp)
            weight *= power_heuristic(asked, chosen);
    }
    const glm::dvec3 arrives = normal_irradiance(l, s.position, lamp.reach, window_);
    const bool sun = l.type == LightType::directional;
    const glm::dvec3 out = arrives * facing * weight *
                           taken(scattering.lobes(to), l.diffuseShare, l.specularShare, path) *
                           through_air(glm::dvec3(s.position), to, sun ? end_of_air(s.position, to) : *metres, path);
    if (out == glm::dvec3(0.0) || !s.receives) return out;
    // The side that the light comes from: at grazing shading normals it is the surface's other one.
    const glm::vec3 side = glm::dot(s.side, glm::vec3(to)) < 0 ? -s.side : s.side;
    return out *
           double(way(s.position, side, to, static_cast<float>(*metres - options_.housing), Blocks::casting, path));
}

/// Light of a lamp that was chosen; share: how often a lamp like it is.
glm::dvec3 PathTracer::lamp_light(const Lamp& lamp, double share, const SurfacePoint& s, const Scattering& scattering,
                                  Path& path) const {
    const glm::dvec2 u = lamp.light.sourceSize > 0 ? path.sampler.two() : glm::dvec2(0.0);
    return lamp_from(lamp, share, Source(lamp.light, s.position).direction(u), 0, s, scattering, path);
}

/// Lamps whose source lies where a sharp lobe sends the path, beside the way that chooses lamps.
void PathTracer::lamps_by_chance(const glm::dvec3& to, double density, const SurfacePoint& s,
                                 const Scattering& scattering, Path& path) const {
    if (!(density > sharp)) return;
    for (const Lamp& sun : sun_)
        if (sun.light.sourceSize > 0) path.add(lamp_from(sun, 1, to, density, s, scattering, path), options_.clamp);
    const glm::vec3 d(to);
    for (const Ball& b : balls_) {
        const glm::vec3 v = b.center - s.position;
        const float along = glm::dot(v, d);
        if (along <= 0 || glm::dot(v, v) - along * along > b.radius2) continue;
        const double times = times_asked(b.lamp, s, scattering, path);
        path.add(lamp_from(lamps_[b.lamp], times, to, density, s, scattering, path), options_.clamp);
    }
}

glm::dvec3 PathTracer::glowing_light(std::size_t which, double share, const SurfacePoint& s,
                                     const Scattering& scattering, Path& path) const {
    const Glowing& g = glowing_[which];
    glm::dvec2 u = path.sampler.two();
    if (u.x + u.y > 1) u = 1.0 - u;
    const glm::vec3 at = g.corner[0] * static_cast<float>(1 - u.x - u.y) + g.corner[1] * static_cast<float>(u.x) +
                         g.corner[2] * static_cast<float>(u.y);
    const glm::dvec3 v = glm::dvec3(at) - glm::dvec3(s.position);
    const double metres = glm::length(v);
    if (metres < 1e-6) return {};
    const glm::dvec3 to = v / metres;
    if (path.bounces == 0) path.way = to;
    double leaving = -glm::dot(glm::dvec3(g.normal), to);
    if (g.bothSides) leaving = std::abs(leaving);
    const double facing = glm::dot(scattering.normal, to);
    if (leaving <= 0 || facing <= 0) return {};
    const SceneAsset& asset = *rays_->asset();
    const Primitive& p =
        asset.primitives[static_cast<std::size_t>(asset.objects[static_cast<std::size_t>(g.object)].primitive)];
    const Material& m = asset.material_of(asset.objects[static_cast<std::size_t>(g.object)]);
    glm::dvec3 emitted = surface_emission(asset, p, g.triangle, static_cast<float>(u.x), static_cast<float>(u.y));
    if (m.alphaMode != AlphaMode::opaque) {
        const float alpha = surface_alpha(asset, p, g.triangle, static_cast<float>(u.x), static_cast<float>(u.y));
        emitted *=
            m.alphaMode == AlphaMode::mask ? (alpha < m.alphaCutoff ? 0.0 : 1.0) : std::clamp(double(alpha), 0.0, 1.0);
    }
    const double density = share * metres * metres / (g.area * leaving);
    const brdf::Lobes lobes = scattering.lobes(to);
    const glm::dvec3 out = emitted * facing * taken(lobes, 1, 1, path) *
                           through_air(glm::dvec3(s.position), to, metres, path) / density *
                           power_heuristic(density, scattering.density(to));
    if (!finite(out) || out == glm::dvec3(0.0)) return {};
    const glm::vec3 side = glm::dot(s.side, glm::vec3(to)) < 0 ? -s.side : s.side;
    return out * double(way(s.position, side, to, static_cast<float>(metres * (1 - 1e-4)), Blocks::drawn, path));
}

/// How much each lamp in reach would give at the surface that is seen, were nothing in its way: what lamps are chosen
/// by there, for there the noise is seen. Of very many, none: then the tree alone chooses.
void PathTracer::weigh_lamps(const SurfacePoint& s, const Scattering& scattering, Path& path) const {
    path.weighed.clear();
    path.weighedSum = 0;
    if (lamps_.size() > mostWeighed) return;
    for (const Lamp& lamp : lamps_) {
        const Light& l = lamp.light;
        const glm::vec3 v = l.position - s.position;
        if (lamp.reach > 0 && glm::dot(v, v) > lamp.reach * lamp.reach) continue;
        const glm::dvec3 arrives = normal_irradiance(l, s.position, lamp.reach, window_);
        if (arrives == glm::dvec3(0.0)) continue;
        const glm::dvec3 to = glm::dvec3(v) / std::max(double(glm::length(v)), 1e-6);
        const double facing = glm::dot(scattering.normal, to);
        if (facing <= 0) continue;
        const double gives =
            luminance(arrives * facing * taken(scattering.lobes(to), l.diffuseShare, l.specularShare, path));
        if (!(gives > 0) || !std::isfinite(gives)) continue;
        path.weighedSum += gives;
        path.weighed.push_back({lamp.number, path.weighedSum});
    }
}

/// How many times a lamp is asked on the average, of all ways that lamps are chosen by at this surface.
double PathTracer::times_asked(std::size_t lamp, const SurfacePoint& s, const Scattering& scattering,
                               const Path& path) const {
    if (options_.everyLamp && path.bounces == 0) return 1;
    const double byTree = lampTree_->share_of(static_cast<int>(lamp), s.position, glm::vec3(scattering.normal));
    if (path.bounces > 0 || lamps_.size() > mostWeighed) return path.bounces > 0 ? byTree : seenChoices * byTree;
    double before = 0;
    for (const Path::Weighed& w : path.weighed) {
        if (w.lamp == lamp) return byTree + seenChoices * (w.upTo - before) / path.weighedSum;
        before = w.upTo;
    }
    return byTree;
}

/// Punctual light: of each directional one, and of lamps that are chosen: by the tree, and where the eye looks a few
/// more by what each would give. A lamp that either way might have chosen counts once, whichever it was (the balance
/// heuristic).
void PathTracer::lamps_on_surface(const SurfacePoint& s, const Scattering& scattering, Path& path) const {
    for (const Lamp& sun : sun_)
        path.add(lamp_light(sun, 1, s, scattering, path), options_.clamp);
    const bool seen = path.bounces == 0;
    if (seen && options_.everyLamp) {
        for (const Lamp& lamp : lamps_) {
            const glm::vec3 v = lamp.light.position - s.position;
            if (lamp.reach > 0 && glm::dot(v, v) > lamp.reach * lamp.reach) continue;
            path.add(lamp_light(lamp, 1, s, scattering, path), options_.clamp);
        }
        return;
    }
    if (seen) weigh_lamps(s, scattering, path);
    const auto ask = [&](std::size_t lamp) {
        const double times = times_asked(lamp, s, scattering, path);
        if (times > 0) path.add(lamp_light(lamps_[lamp], times, s, scattering, path) / times, options_.clamp);
    };
    const int byTree = seen && lamps_.size() > mostWeighed ? seenChoices : 1;
    const double u = path.sampler.one();
    for (int k = 0; k < byTree; ++k) {
        const LightTree::Choice choice = lampTree_->choose(s.position, glm::vec3(scattering.normal), (k + u) / byTree);
        if (choice.emitter >= 0) ask(static_cast<std::size_t>(choice.emitter));
    }
    if (!seen || path.weighed.empty()) return;
    const double v = path.sampler.one();
    std::size_t at = 0;
    for (int k = 0; k < seenChoices; ++k) {
        const double upTo = path.weighedSum * (k + v) / seenChoices;
        while (at + 1 < path.weighed.size() && path.weighed[at].upTo <= upTo)
            ++at;
        ask(path.weighed[at].lamp);
    }
}

/// Surroundings from a direction that is chosen by their light, beside the way that lobes choose.
void PathTracer::surroundings_on_surface(const SurfacePoint& s, const Scattering& scattering, Path& path) const {
    const glm::dvec3 to = surroundings_->choose(path.sampler.two());
    if (path.bounces == 0) path.way = to;
    const double facing = glm::dot(scattering.normal, to);
    if (facing <= 0) return;
    const double density = surroundings_->density(to);
    const glm::dvec3 out = surrounding_light(to) * facing * taken(scattering.lobes(to), 1, 1, path) *
                           (power_heuristic(density, scattering.density(to)) / density) *
                           through_air(glm::dvec3(s.position), to, end_of_air(s.position, to), path);
    if (!finite(out) || out == glm::dvec3(0.0)) return;
    const glm::vec3 side = glm::dot(s.side, glm::vec3(to)) < 0 ? -s.side : s.side;
    path.add(out * double(way(s.position, side, to, std::numeric_limits<float>::infinity(), Blocks::drawn, path)),
             options_.clamp);
}

/// Whether the layer holds the light of lamps where the path is.
bool PathTracer::lamps_count(const Path& path) const {
    return options_.layer == Layer::final ||
           (path.bounces == 0 ? is_direct(options_.layer) : is_indirect(options_.layer));
}

/// Light that comes straight from where it is made.
void PathTracer::light_surface(const SurfacePoint& s, const Scattering& scattering, Path& path) const {
    if (lamps_count(path)) lamps_on_surface(s, scattering, path);
    if (surroundings_) surroundings_on_surface(s, scattering, path);
    if (glowingTree_->empty()) return;
    const LightTree::Choice choice = glowingTree_->choose(s.position, glm::vec3(scattering.normal), path.sampler.one());
    if (choice.emitter >= 0)
        path.add(glowing_light(static_cast<std::size_t>(choice.emitter), choice.share, s, scattering, path),
                 options_.clamp);
}

/// Weight of emission that a path met by its own direction, beside the way that chooses emitters.
double PathTracer::met_by_chance(const RayHit& hit, const SurfacePoint& s, const Path& path) const {
    const int first = firstGlowing_[static_cast<std::size_t>(hit.object)];
    if (path.density <= 0 || first < 0) return 1;
    const auto which = static_cast<std::size_t>(first) + hit.triangle;
    const Glowing& g = glowing_[which];
    const glm::dvec3 v = glm::dvec3(s.position) - glm::dvec3(path.vertex);
    const double d2 = glm::dot(v, v),
                 leaving = std::abs(glm::dot(glm::dvec3(g.normal), v)) / std::sqrt(std::max(d2, 1e-30));
    if (g.area <= 0 || leaving <= 0) return 1;
    const double chosen =
        glowingTree_->share_of(static_cast<int>(which), path.vertex, path.normal) * d2 / (g.area * leaving);
    return power_heuristic(path.density, chosen);
}

} // namespace mirolux::truth
