#include "core/light/falloff.h"
#include "core/light/luminance.h"
#include "core/scene/object_edit.h"
#include "core/surface/surface_model.h"
#include "core/truth/integrals.h"
#include "core/truth/lit_part.h"
#include "core/truth/path.h"
#include "core/truth/source.h"
#include <algorithm>
#include <cmath>

namespace mirolux::truth {

namespace {

struct LayerWord {
    Layer layer;
    const char* word;
};
constexpr LayerWord layerWords[] = {{Layer::final, "final"},
                                    {Layer::direct, "direct"},
                                    {Layer::diffuse, "diffuse"},
                                    {Layer::specular, "specular"},
                                    {Layer::indirect, "indirect"},
                                    {Layer::indirectDiffuse, "indirect-diffuse"},
                                    {Layer::indirectSpecular, "indirect-specular"},
                                    {Layer::scattering, "scattering"},
                                    {Layer::visibility, "visibility"},
                                    {Layer::occlusion, "occlusion"},
                                    {Layer::mirror, "mirror"}};

} // namespace

const char* word(Layer layer) {
    for (const LayerWord& w : layerWords)
        if (w.layer == layer) return w.word;
    return "";
}

std::optional<Layer> layer_of(const std::string& text) {
    for (const LayerWord& w : layerWords)
        if (text == w.word) return w.layer;
    return std::nullopt;
}

std::vector<Layer> all_layers() {
    std::vector<Layer> out;
    for (const LayerWord& w : layerWords)
        out.push_back(w.layer);
    return out;
}

PathTracer::PathTracer(const Scene& scene, const Setup& setup, const View& view, const Options& options,
                       std::shared_ptr<const RayScene> rays)
    : view_(view), options_(options), rays_(std::move(rays)), sky_(sky_model(sky_settings(scene, setup, view))),
      ambient_(ambient_light(scene, setup, view)), air_(medium(setup, scene.volumes, view.seconds)) {
    pixelAngle_ = pixel_angle(view);
    if (sky_->settings().kind == SkyKind::atmosphere && setup.flag("sky.perspective"))
        atmosphereFar_ = setup.number("sky.perspectiveFar");
    shading_.model = shading_model(setup);
    shading_.exponent = setup.number("shading.exponent");
    shading_.normalised = setup.flag("shading.normalised");
    optics_ = setup.flag("shading.optics");
    window_ = setup.choice("light.window") == "squared" ? RangeWindow::squared : RangeWindow::unsquared;
    normalMaps_ = setup.flag("shading.normalMaps");
    plainAir_ = air_.shape != AirShape::byHeight && air_.volumes.empty();

    for (Light light : lights_of(scene, setup, view)) {
        if (!light.enabled || light.intensity <= 0 || effective_color(light) == glm::vec3(0.0f) ||
            std::find(options.dark.begin(), options.dark.end(), light.id) != options.dark.end())
            continue;
        light.color = effective_color(light);
        light.kelvin = 0;
        light.airShare =
            air_shows_lamps(setup) && !options.complete ? static_cast<float>(air_share(light, setup)) : 1.0f;
        if (options.layer != Layer::visibility && light.diffuseShare <= 0 && light.specularShare <= 0) continue;
        anySize_ = anySize_ || light.sourceSize > 0;
        if (light.type == LightType::directional) {
            sun_.push_back({light, 0, 0});
            continue;
        }
        float reach = derived_range(light, static_cast<float>(setup.number("light.threshold")));
        if (options.complete) {
            light.range = reach = 0;
            light.fadeOuter = 0;
        } else {
            const bool own = light.fadeOuter > 0;
            light.intensity *= static_cast<float>(distance_fade(
                glm::length(light.position - view.camera.eye), own ? light.fadeInner : setup.number("light.fadeInner"),
                own ? light.fadeOuter : setup.number("light.fadeOuter")));
        }
        if (light.intensity <= 0) continue;
        const float radius = 0.5f * light.sourceSize;
        if (radius > 0) balls_.push_back({light.position, radius * radius, lamps_.size()});
        lamps_.push_back({light, reach, lamps_.size()});
    }
    const auto& objects = scene.objects();
    firstGlowing_.assign(objects.size(), -1);
    if (!options.lampsOnly && (options.layer == Layer::final || is_indirect(options.layer))) {
        take_glowing();
        take_surroundings();
    }
    take_lamps();

    airBall_ = air_ball(scene.bounds(), scene.lights, view.camera.eye);
    const glm::mat3 toWorld = glm::transpose(glm::mat3(view_matrix(view.camera)));
    const float high = std::tan(0.5f * view.camera.fovY);
    right_ = toWorld[0] * (high * static_cast<float>(aspect_of(view)));
    up_ = toWorld[1] * high;
    forward_ = -toWorld[2];
}

void PathTracer::take_glowing() {
    const SceneAsset& asset = *rays_->asset();
    for (std::size_t o = 0; o < firstGlowing_.size(); ++o) {
        const Primitive& p = asset.primitives[static_cast<std::size_t>(asset.objects[o].primitive)];
        const Material& m = asset.material_of(asset.objects[o]);
        if (!rays_->shown(o) || p.indices.size() < 3 ||
            (m.unlit ? glm::vec3(m.baseColor) : m.emissive) == glm::vec3(0.0f))
            continue;
        firstGlowing_[o] = static_cast<int>(glowing_.size());
        const glm::mat4& world = rays_->transform(o);
        const std::vector<Vertex>& stand = rays_->vertices(o);
        const bool turned = glm::determinant(glm::mat3(world)) < 0;
        for (std::uint32_t t = 0; t < p.indices.size() / 3; ++t) {
            Glowing g;
            g.object = static_cast<int>(o);
            g.triangle = t;
            for (std::uint32_t k = 0; k < 3; ++k)
                g.corner[k] = glm::vec3(world * glm::vec4(stand[p.indices[3 * t + k]].position, 1));
            const glm::vec3 n = glm::cross(g.corner[1] - g.corner[0], g.corner[2] - g.corner[0]);
            const float length = glm::length(n);
            if (std::isfinite(length) && length > 1e-12f) {
                g.area = 0.5f * length;
                g.normal = (turned ? -n : n) / length;
            }
            g.bothSides = m.doubleSided;
            glowing_.push_back(g);
        }
    }
}

/// A sky of two colours, and ambient light that is no sky, are so even that lobes find them.
void PathTracer::take_surroundings() {
    constexpr int rows = 64, mostRows = 512;
    const SkyModel* around = ambient_.sky ? ambient_.sky.get() : options_.skyAround ? sky_.get() : nullptr;
    if (!around || around->settings().kind == SkyKind::colors || !options_.shadows) return;
    const auto light = [this](const glm::dvec3& d) { return luminance(surrounding_light(d)); };
    if (around->settings().kind == SkyKind::file) {
        // A sun may be one texel, and shines half into those beside it, since light is linear between them.
        const int high = std::max(around->settings().picture->image.height, 1), cells = std::min(high, mostRows);
        surroundings_.emplace(cells, (high + cells - 1) / cells + 1, light);
    } else
        surroundings_.emplace(rows, 2, light);
}

/// What comes from where no surface is, once light has left the surface that is seen.
glm::dvec3 PathTracer::surrounding_light(const glm::dvec3& d) const {
    if (options_.lampsOnly) return glm::dvec3(0.0);
    return ambient_.sky         ? ambient_.sky->radiance(d) * ambient_.strength
           : options_.skyAround ? sky_->radiance(d)
                                : ambient_radiance(ambient_, d);
}

/// Whether light that is reflected once more has bounced too often: what shines by itself is met yet.
bool PathTracer::spent(const Path& path) const {
    return path.bounces > (options_.bounces < 0 ? mostBounces : options_.bounces);
}

/// The trees over what gives light.
void PathTracer::take_lamps() {
    std::vector<EmitterBounds> lamps, glowing;
    for (const Lamp& lamp : lamps_) {
        const Light& l = lamp.light;
        EmitterBounds b;
        b.box.add(l.position - glm::vec3(0.5f * l.sourceSize));
        b.box.add(l.position + glm::vec3(0.5f * l.sourceSize));
        if (lamp.reach > 0) {
            b.reached.add(l.position - glm::vec3(lamp.reach * 1.0001f));
            b.reached.add(l.position + glm::vec3(lamp.reach * 1.0001f));
        }
        b.cone = l.type == LightType::spot ? Cone{l.direction, std::cos(l.outerConeAngle)} : Cone{{0, 0, 1}, -1};
        b.cosineFalloff = 0.9999f;
        b.power = static_cast<float>(luminance(glm::dvec3(effective_color(l)) * double(l.intensity)));
        b.range = l.range;
        lamps.push_back(b);
    }
    lampTree_.emplace(lamps);
    const SceneAsset& asset = *rays_->asset();
    for (const Glowing& g : glowing_) {
        EmitterBounds b;
        for (const glm::vec3& c : g.corner)
            b.box.add(c);
        b.cone = g.bothSides ? Cone{g.normal, -1} : Cone{g.normal, 1};
        const Material& m = asset.material_of(asset.objects[static_cast<std::size_t>(g.object)]);
        b.power = static_cast<float>(luminance(m.unlit ? glm::dvec3(glm::vec3(m.baseColor)) : glm::dvec3(m.emissive))) *
                  g.area;
        glowing.push_back(b);
    }
    glowingTree_.emplace(glowing);
}

Ray PathTracer::eye_ray(const glm::dvec2& pixel) const {
    const auto x = static_cast<float>(2 * pixel.x / view_.width - 1),
               y = static_cast<float>(1 - 2 * pixel.y / view_.height);
    return {view_.camera.eye, glm::normalize(forward_ + x * right_ + y * up_)};
}

/// Metres along a ray to where there is no more air; infinite: it has no end.
double PathTracer::end_of_air(const glm::vec3& from, const glm::vec3& direction) const {
    return airBall_.ahead(glm::dvec3(from), glm::dvec3(direction));
}

/// Share of light that comes over `metres` from `direction`.
float PathTracer::way(const glm::vec3& from, const glm::vec3& side, const glm::vec3& direction, float metres,
                      Blocks blocks, Path& path) const {
    if (!options_.shadows) return 1;
    ++path.rays;
    if (path.asked) {
        const float clear = clear_of(from);
        path.asked->push_back({{from + side * clear, direction}, 0, std::max(0.0f, metres - 2 * clear)});
    }
    return open_way(*rays_, from, side, direction, metres, blocks);
}

Scattering PathTracer::scattering_of(const SurfacePoint& s, const glm::vec3& toEye) const {
    Scattering out = shading_;
    out.surface = {glm::dvec3(s.baseColor), s.metallic, s.roughness, optics_ ? s.optics : brdf::Optics{}};
    out.normal = glm::normalize(glm::dvec3(s.normal));
    out.toEye = glm::normalize(glm::dvec3(toEye));
    return out;
}

/// Layers that hold something else in place of light.
glm::dvec3 PathTracer::only_share(const SurfacePoint& s, Path& path) const {
    ++path.rays;
    if (options_.layer == Layer::occlusion) {
        const glm::dvec2 u = path.sampler.two();
        const double
            radius = // one that lies within the fade by chance: on average what counts less counts as it should
            options_.fade > 0 ? options_.radius * (1 - options_.fade * path.sampler.one()) : options_.radius;
        return glm::dvec3(occlusion_sample(*rays_, s, radius, u));
    }
    if (options_.layer == Layer::mirror) {
        const RayHit hit = mirror(*rays_, s, -path.ray.direction).hit;
        return glm::dvec3(hit.object < 0 ? 0.0f : hit.distance);
    }
    for (const std::vector<Lamp>* lamps : {&sun_, &lamps_})
        for (const Lamp& lamp : *lamps)
            if (lamp.light.id == options_.light)
                return glm::dvec3(visibility_sample(*rays_, s, lamp.light, options_.housing,
                                                    lamp.light.sourceSize > 0 ? path.sampler.two() : glm::dvec2(0.0)));
    return {};
}

/// A surface on the path's way: what it gives and reflects, and where the path goes on. False: it ends here.
bool PathTracer::meet_surface(const RayHit& hit, Path& path) const {
    const SurfacePoint s = surface_point(*rays_, path.ray, hit, normalMaps_);
    if (s.alpha < 1 && path.sampler.one() >= s.alpha) { // through the pane
        path.from = hit.distance + clear_of(s.position);
        return true;
    }
    if (s.back) return false;
    if (is_geometry(options_.layer)) {
        path.sum = only_share(s, path);
        return false;
    }
    if (options_.layer == Layer::scattering) return false;
    const bool seen = path.bounces == 0;
    if (!options_.lampsOnly && (options_.layer == Layer::final || (is_indirect(options_.layer) && !seen)))
        path.add(glm::dvec3(s.emissive) * met_by_chance(hit, s, path), options_.clamp);
    return !s.unlit && !spent(path) && leave_surface(s, scattering_of(s, -path.ray.direction), path);
}

/// What a surface reflects of light that is looked for from there, and where the path goes on. False: it ends here.
bool PathTracer::leave_surface(const SurfacePoint& s, const Scattering& scattering, Path& path) const {
    light_surface(s, scattering, path);
    const bool last = is_direct(options_.layer);
    if (last && !anySize_) return false;
    const glm::dvec2 u = path.sampler.two();
    const glm::dvec3 to = scattering.choose(u, path.sampler.one());
    const double density = scattering.density(to), facing = glm::dot(to, scattering.normal);
    if (density <= 0 || facing <= 0) return false;
    if (lamps_count(path)) lamps_by_chance(to, density, s, scattering, path);
    if (last) return false;
    if (path.bounces == 0) path.way = to;
    path.weight *= taken(scattering.lobes(to), 1, 1, path) * (facing / density);
    ++path.bounces;
    const glm::vec3 side = glm::dot(s.side, glm::vec3(to)) < 0 ? -s.side : s.side;
    path.ray = {s.position + side * clear_of(s.position), glm::normalize(glm::vec3(to))};
    path.from = 0;
    path.vertex = s.position;
    path.normal = glm::vec3(scattering.normal);
    path.density = density;
    return true;
}

void PathTracer::follow(Path& path) const {
    const bool flies = air_.on() && (options_.layer == Layer::final || is_indirect(options_.layer));
    for (int step = 0; step < mostBounces; ++step) {
        ++path.rays;
        if (path.asked) path.asked->push_back({path.ray, path.from, -1, path.bounces == 0});
        const RayHit hit = rays_->any_surface(path.ray, path.from, path.bounces == 0);
        const double metres = hit.object >= 0 ? hit.distance : std::numeric_limits<double>::infinity();
        if (air_.on()) {
            // Where the air ends, if nothing comes before.
            const double end =
                std::max(std::min(metres, end_of_air(path.ray.origin, path.ray.direction)), double(path.from));
            if (!spent(path) && (options_.layer == Layer::scattering || options_.layer == Layer::final ||
                                 (is_indirect(options_.layer) && path.bounces > 0)))
                light_air(end, path);
            if (flies && !spent(path)) {
                const double flight = fly(path, end);
                if (flight < end) { // scattered on the way
                    const glm::dvec3 at = glm::dvec3(path.ray.origin) + glm::dvec3(path.ray.direction) * flight;
                    const AirPoint air = air_at(air_, at);
                    path.weight *= air.scattering / std::max(air.extinction, 1e-300);
                    ++path.bounces;
                    const glm::dvec2 u = path.sampler.two();
                    const glm::dvec3 to =
                        air_.phase == Phase()
                            ? even_direction(u)
                            : scattered_way(air_.phase, glm::dvec3(path.ray.direction), {u, path.sampler.one()});
                    path.ray = {path.ray.origin + path.ray.direction * static_cast<float>(flight), glm::vec3(to)};
                    path.from = 0;
                    path.density = 0;
                    if (is_indirect(options_.layer) && path.bounces == 1) return; // of the air, of no surface
                    const double go = std::min(0.98, std::max({path.weight.x, path.weight.y, path.weight.z}));
                    if (path.bounces > 2) {
                        if (path.sampler.one() >= go) return;
                        path.weight /= go;
                    }
                    continue;
                }
            } else
                path.weight *=
                    through_air(glm::dvec3(path.ray.origin) + glm::dvec3(path.ray.direction) * double(path.from),
                                glm::dvec3(path.ray.direction), end - path.from, path);
        }
        if (hit.object < 0) {
            if (options_.layer == Layer::visibility || options_.layer == Layer::occlusion) path.sum = glm::dvec3(1.0);
            const glm::dvec3 d(path.ray.direction);
            if (path.bounces == 0 ? options_.layer == Layer::final
                                  : options_.layer == Layer::final || is_indirect(options_.layer))
                path.add(path.bounces == 0 ? sky_->seen(d, pixelAngle_)
                         : surroundings_ && path.density > 0
                             ? surrounding_light(d) * power_heuristic(path.density, surroundings_->density(d))
                             : surrounding_light(d),
                         options_.clamp);
            return;
        }
        if (step == 0 && path.bounces == 0 && atmosphereFar_ > 0 && options_.layer == Layer::final)
            take_atmosphere(metres, path);
        const int before = path.bounces;
        if (!meet_surface(hit, path)) return;
        if (path.bounces > before && path.bounces > 2) { // Russian roulette
            const double go = std::min(0.98, std::max({path.weight.x, path.weight.y, path.weight.z}));
            if (!(go > 0) || path.sampler.one() >= go) return;
            path.weight /= go;
        }
    }
}

glm::dvec3 PathTracer::run(int x, int y, std::uint32_t number, std::uint64_t& rays,
                           std::vector<AskedRay>* asked) const {
    thread_local std::vector<Path::Weighed> weighed;
    Path path{.ray = {},
              .sampler = {static_cast<std::uint32_t>(y * view_.width + x), number, options_.seed, options_.sequence},
              .rays = rays,
              .weighed = weighed};
    path.asked = asked;
    const glm::dvec2 within = options_.smooth ? path.sampler.two() : glm::dvec2(0.5);
    path.ray = eye_ray(glm::dvec2(x, y) + within);
    path.from = view_.camera.near / std::max(glm::dot(path.ray.direction, forward_), 1e-6f);
    follow(path);
    return path.sum;
}

glm::dvec3 PathTracer::falling(const SurfacePoint& point, std::uint32_t place, std::uint32_t number,
                               std::uint64_t& rays, glm::dmat3* toward) const {
    thread_local std::vector<Path::Weighed> weighed;
    Path path{
        .ray = {}, .sampler = {place, number, options_.seed, options_.sequence}, .rays = rays, .weighed = weighed};
    weighed.clear();
    glm::dmat3 ways(0.0);
    if (toward) path.toward = &ways;
    // A white surface that scatters evenly: of what falls on it, it sends 1/pi each way.
    SurfacePoint white = point;
    white.baseColor = glm::vec3(1.0f);
    white.emissive = glm::vec3(0.0f);
    white.metallic = 0;
    white.occlusion = 1;
    white.optics = {};
    Scattering even;
    even.model = brdf::Model::lambert;
    even.surface = {glm::dvec3(1.0), 0.0, 1.0, {}};
    even.normal = even.toEye = glm::normalize(glm::dvec3(point.normal));
    path.ray = {point.position, -glm::normalize(point.normal)};
    if (leave_surface(white, even, path)) follow(path);
    if (toward) *toward += pi * ways;
    return pi * path.sum;
}

glm::dvec3 PathTracer::arriving(const glm::vec3& place, const glm::dvec3& direction, std::uint32_t point,
                                std::uint32_t number, std::uint64_t& rays) const {
    thread_local std::vector<Path::Weighed> weighed;
    Path path{
        .ray = {}, .sampler = {point, number, options_.seed, options_.sequence}, .rays = rays, .weighed = weighed};
    weighed.clear();
    path.ray = {place, glm::normalize(glm::vec3(direction))};
    path.bounces = 1; // of the surface that is lit, from which this way goes out
    follow(path);
    return path.sum;
}

glm::dvec3 PathTracer::sample(int x, int y, std::uint32_t number, std::uint64_t& rays) const {
    return run(x, y, number, rays, nullptr);
}

std::vector<AskedRay> PathTracer::rays_of(int x, int y, std::uint32_t number) const {
    std::vector<AskedRay> out;
    std::uint64_t rays = 0;
    run(x, y, number, rays, &out);
    return out;
}

} // namespace mirolux::truth
