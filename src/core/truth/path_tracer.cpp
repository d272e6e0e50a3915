#include "core/truth/path_tracer.h"
#include "core/light/falloff.h"
#include "core/light/luminance.h"
#include "core/scene/object_edit.h"
#include "core/sky/sky.h"
#include "core/surface/surface_model.h"
#include "core/truth/integrals.h"
#include "core/truth/lit_part.h"
#include "core/truth/source.h"
#include <cmath>

namespace mirolux::truth {

namespace {

constexpr double isotropic = 1 / (4 * pi); // phase function of the air, 1/sr
constexpr int seenChoices = 4;             // lamps that are asked at the surface that is seen
constexpr std::size_t mostWeighed = 2048;  // lamps that are weighed one by one there
constexpr int mostBounces = 4096;          // where nothing is lost at all

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

bool is_direct(Layer l) {
    return l == Layer::direct || l == Layer::diffuse || l == Layer::specular;
}
bool is_indirect(Layer l) {
    return l == Layer::indirect || l == Layer::indirectDiffuse || l == Layer::indirectSpecular;
}

/// A density from which on lobes are so sharp that a lamp's source is looked for by chance too; 1/sr.
constexpr double sharp = 2;

double power_heuristic(double a, double b) {
    return a * a / std::max(a * a + b * b, 1e-300);
}

bool finite(const glm::dvec3& v) {
    return std::isfinite(v.x) && std::isfinite(v.y) && std::isfinite(v.z);
}

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

/// A path from the eye, and what it has brought so far.
struct PathTracer::Path {
    Ray ray;
    Sampler sampler;
    std::uint64_t& rays;
    std::vector<AskedRay>* asked = nullptr; // where they are written down, if anybody wants them
    float from = 0;                         // metres along the ray
    glm::dvec3 weight{1.0}, sum{0.0};
    int bounces = 0;                      // 0: the surface that is seen is yet to come, or is this one
    glm::vec3 vertex{0.0f}, normal{0.0f}; // where the ray comes from, for light met by chance
    double density = 0; // of the ray's direction, 1/sr; 0: the eye, or air: nothing else finds what it meets
    struct Weighed {
        std::size_t lamp;
        double upTo; // of the sum, with all before
    };
    std::vector<Weighed>& weighed; // at the surface that is seen
    double weighedSum = 0;

    void add(const glm::dvec3& light, double most) {
        glm::dvec3 what = weight * light;
        if (!finite(what)) return;
        const double l = luminance(what);
        if (most > 0 && bounces > 0 && l > most) what *= most / l;
        sum += what;
    }
};

PathTracer::PathTracer(const Scene& scene, const Setup& setup, const View& view, const Options& options,
                       std::shared_ptr<const RayScene> rays)
    : view_(view), options_(options), rays_(std::move(rays)), sky_(scene.sky), ambient_(ambient_light(setup)),
      fog_(uniform_fog(setup)) {
    shading_.model = shading_model(setup);
    shading_.exponent = setup.number("shading.exponent");
    shading_.normalised = setup.flag("shading.normalised");
    window_ = setup.choice("light.window") == "squared" ? RangeWindow::squared : RangeWindow::unsquared;
    normalMaps_ = setup.flag("shading.normalMaps");
    if (fog_.on) albedo_ = glm::dvec3(setup.color("air.albedo"));

    for (Light light : lights_at(scene.lights, scene.motions, view.seconds)) {
        if (!light.enabled || light.intensity <= 0 || effective_color(light) == glm::vec3(0.0f)) continue;
        light.color = effective_color(light);
        light.kelvin = 0;
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
    if (options.layer == Layer::final || is_indirect(options.layer)) take_glowing();
    take_lamps();

    Box all = scene.bounds();
    for (const Lamp& lamp : lamps_)
        all.add(lamp.light.position);
    if (!scene.bounds().empty()) {
        all.add(view.camera.eye);
        airCenter_ = all.center();
        airRadius_ = 0.5 * glm::length(all.size()) * 1.001;
    }
    const glm::mat3 toWorld = glm::transpose(glm::mat3(view_matrix(view.camera)));
    const float high = std::tan(0.5f * view.camera.fovY);
    right_ = toWorld[0] * (high * static_cast<float>(view.width) / static_cast<float>(view.height));
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
        const bool turned = glm::determinant(glm::mat3(world)) < 0;
        for (std::uint32_t t = 0; t < p.indices.size() / 3; ++t) {
            Glowing g;
            g.object = static_cast<int>(o);
            g.triangle = t;
            for (std::uint32_t k = 0; k < 3; ++k)
                g.corner[k] = glm::vec3(world * glm::vec4(p.vertices[p.indices[3 * t + k]].position, 1));
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
    if (airRadius_ <= 0) return std::numeric_limits<double>::infinity();
    const glm::dvec3 o = glm::dvec3(from) - glm::dvec3(airCenter_);
    const double b = glm::dot(o, glm::dvec3(direction)), c = glm::dot(o, o) - airRadius_ * airRadius_;
    return -b + std::sqrt(std::max(0.0, b * b - c));
}

/// What the air lets through from a point on to its end.
double PathTracer::air_ahead(const glm::vec3& from, const glm::vec3& direction) const {
    return fog_.on ? air_between(std::max(0.0, end_of_air(from, direction))) : 1.0;
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
    out.surface = {glm::dvec3(s.baseColor), s.metallic, s.roughness};
    out.normal = glm::normalize(glm::dvec3(s.normal));
    out.toEye = glm::normalize(glm::dvec3(toEye));
    return out;
}

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
                           (sun ? air_ahead(s.position, to) : air_between(*metres));
    if (out == glm::dvec3(0.0)) return {};
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
    const glm::dvec3 out = emitted * facing * taken(lobes, 1, 1, path) * air_between(metres) / density *
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

/// Whether the layer holds the light of lamps where the path is.
bool PathTracer::lamps_count(const Path& path) const {
    return options_.layer == Layer::final ||
           (path.bounces == 0 ? is_direct(options_.layer) : is_indirect(options_.layer));
}

/// Light that comes straight from where it is made.
void PathTracer::light_surface(const SurfacePoint& s, const Scattering& scattering, Path& path) const {
    if (lamps_count(path)) lamps_on_surface(s, scattering, path);
    if (glowingTree_->empty()) return;
    const LightTree::Choice choice = glowingTree_->choose(s.position, glm::vec3(scattering.normal), path.sampler.one());
    if (choice.emitter >= 0)
        path.add(glowing_light(static_cast<std::size_t>(choice.emitter), choice.share, s, scattering, path),
                 options_.clamp);
}

namespace {

/// A ray's part as a lamp beside it sees it (equiangular).
struct Beside {
    double nearest, metres, first, last; // along the ray; from it; angles of the part's ends
    Beside(const glm::vec3& lamp, const glm::dvec3& o, const glm::dvec3& d, const Part& part)
        : nearest(glm::dot(glm::dvec3(lamp) - o, d)),
          metres(std::max(glm::length(glm::dvec3(lamp) - (o + d * nearest)), 1e-4)),
          first(std::atan((part.from - nearest) / metres)),
          last(std::isfinite(part.to) ? std::atan((part.to - nearest) / metres) : 0.5 * pi) {}
    double angle() const { return last - first; }
};

} // namespace

/// Light of one lamp, and of each directional light, that the air before `metres` scatters back along the ray.
void PathTracer::light_air(double metres, Path& path) const {
    const glm::dvec3 o(path.ray.origin), d(path.ray.direction), scatters = albedo_ * fog_.extinction * isotropic;
    const double start = path.from;
    const auto bring = [&](const Lamp& lamp, double t, double density) {
        const glm::vec3 x(o + d * t);
        const bool sun = lamp.light.type == LightType::directional;
        const Source source(lamp.light, x);
        const glm::dvec3 to = source.direction(lamp.light.sourceSize > 0 ? path.sampler.two() : glm::dvec2(0.0));
        const double far = source.metres(to).value_or(0);
        const glm::dvec3 arrives = normal_irradiance(lamp.light, x, lamp.reach, window_) *
                                   (sun ? air_ahead(x, to) : air_between(far)) * air_between(t - start);
        if (arrives == glm::dvec3(0.0) || density <= 0) return;
        path.add(
            scatters * arrives / density *
                double(way(x, glm::vec3(0.0f), to, static_cast<float>(far - options_.housing), Blocks::casting, path)),
            options_.clamp);
    };
    const double closed = 1 - (std::isfinite(metres) ? air_between(metres - start) : 0);
    const glm::dvec2 u = path.sampler.two();
    const double flight = start - std::log(std::max(1 - u.x * closed, 1e-300)) / fog_.extinction;
    for (const Lamp& sun : sun_)
        bring(sun, flight, fog_.extinction * air_between(flight - start) / std::max(closed, 1e-300));
    const bool weighs = path.bounces == 0 && lamps_.size() <= mostWeighed;
    if (weighs) weigh_lamps_beside(metres, path);
    LightTree::Choice choice{-1, 0};
    if (!weighs)
        choice = lampTree_->choose(glm::vec3(o + d * flight), glm::vec3(0.0f), u.y);
    else if (!path.weighed.empty()) {
        std::size_t k = 0;
        while (k + 1 < path.weighed.size() && path.weighed[k].upTo <= path.weighedSum * u.y)
            ++k;
        const double before = k > 0 ? path.weighed[k - 1].upTo : 0;
        choice = {static_cast<int>(path.weighed[k].lamp), (path.weighed[k].upTo - before) / path.weighedSum};
    }
    if (choice.emitter < 0) return;
    const Lamp& lamp = lamps_[static_cast<std::size_t>(choice.emitter)];
    const auto part = lit_part(lamp.light, lamp.reach, o, d, {start, metres});
    if (!part) return;
    const Beside beside(lamp.light.position, o, d, *part);
    const double along = beside.metres * std::tan(glm::mix(beside.first, beside.last, path.sampler.one()));
    const double t = std::clamp(beside.nearest + along, part->from, part->to);
    bring(lamp, t,
          choice.share * beside.metres /
              (std::max(beside.angle(), 1e-12) * (beside.metres * beside.metres + along * along)));
}

/// How much each lamp may send into the air along the eye's ray: its intensity by the angle that the ray's lit part
/// fills as the lamp sees it, over how far it passes, dimmed on the nearest way.
void PathTracer::weigh_lamps_beside(double metres, Path& path) const {
    const glm::dvec3 o(path.ray.origin), d(path.ray.direction);
    path.weighed.clear();
    path.weighedSum = 0;
    for (const Lamp& lamp : lamps_) {
        const auto part = lit_part(lamp.light, lamp.reach, o, d, {path.from, metres});
        if (!part) continue;
        const Beside beside(lamp.light.position, o, d, *part);
        const double at = std::clamp(beside.nearest, part->from, part->to),
                     gives = luminance(glm::dvec3(effective_color(lamp.light))) * double(lamp.light.intensity) *
                             beside.angle() / beside.metres *
                             air_between(at - path.from + std::hypot(beside.metres, at - beside.nearest));
        if (!(gives > 1e-300) || !std::isfinite(gives)) continue;
        path.weighedSum += gives;
        path.weighed.push_back({lamp.number, path.weighedSum});
    }
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

/// Layers that hold something else in place of light.
glm::dvec3 PathTracer::only_share(const SurfacePoint& s, Path& path) const {
    ++path.rays;
    if (options_.layer == Layer::occlusion)
        return glm::dvec3(occlusion_sample(*rays_, s, options_.radius, path.sampler.two()));
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
    if (options_.layer == Layer::final || (is_indirect(options_.layer) && !seen))
        path.add(glm::dvec3(s.emissive) * met_by_chance(hit, s, path), options_.clamp);
    if (s.unlit) return false;
    const Scattering scattering = scattering_of(s, -path.ray.direction);
    light_surface(s, scattering, path);
    const bool last =
        is_direct(options_.layer) || path.bounces >= (options_.bounces < 0 ? mostBounces : options_.bounces);
    if (last && !anySize_) return false;
    const glm::dvec2 u = path.sampler.two();
    const glm::dvec3 to = scattering.choose(u, path.sampler.one());
    const double density = scattering.density(to), facing = glm::dot(to, scattering.normal);
    if (density <= 0 || facing <= 0) return false;
    if (lamps_count(path)) lamps_by_chance(to, density, s, scattering, path);
    if (last) return false;
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
    const bool flies = fog_.on && (options_.layer == Layer::final || is_indirect(options_.layer));
    for (int step = 0; step < mostBounces; ++step) {
        ++path.rays;
        if (path.asked) path.asked->push_back({path.ray, path.from, -1, path.bounces == 0});
        const RayHit hit = rays_->any_surface(path.ray, path.from, path.bounces == 0);
        const double metres = hit.object >= 0 ? hit.distance : std::numeric_limits<double>::infinity();
        if (fog_.on) {
            // Where the air ends, if nothing comes before.
            const double end =
                std::max(std::min(metres, end_of_air(path.ray.origin, path.ray.direction)), double(path.from));
            if (options_.layer == Layer::scattering || options_.layer == Layer::final ||
                (is_indirect(options_.layer) && path.bounces > 0))
                light_air(end, path);
            if (flies) {
                const double flight = path.from - std::log(1 - path.sampler.one()) / fog_.extinction;
                if (flight < end) { // scattered on the way
                    path.weight *= albedo_;
                    if (path.bounces >= (options_.bounces < 0 ? mostBounces : options_.bounces)) return;
                    ++path.bounces;
                    const glm::dvec3 to = even_direction(path.sampler.two());
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
                path.weight *= air_between(end - path.from);
        }
        if (hit.object < 0) {
            if (options_.layer == Layer::visibility || options_.layer == Layer::occlusion) path.sum = glm::dvec3(1.0);
            const glm::dvec3 d(path.ray.direction);
            if (path.bounces == 0 ? options_.layer == Layer::final
                                  : options_.layer == Layer::final || is_indirect(options_.layer))
                path.add(path.bounces == 0 || options_.skyAround ? sky_radiance(sky_, d)
                                                                 : ambient_radiance(ambient_, d),
                         options_.clamp);
            return;
        }
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

glm::dvec3 PathTracer::sample(int x, int y, std::uint32_t number, std::uint64_t& rays) const {
    return run(x, y, number, rays, nullptr);
}

PathTracer::AirLight PathTracer::single_scattering(const Ray& ray, float from, float to, std::uint32_t samples,
                                                   std::uint32_t seed) const {
    AirLight out;
    if (!fog_.on || samples == 0) return out;
    const double end = std::min(double(to), end_of_air(ray.origin, ray.direction));
    if (!(end > from)) return {{}, 0, samples};
    double squares = 0;
    std::uint64_t rays = 0;
    std::vector<Path::Weighed> none;
    for (std::uint32_t n = 0; n < samples; ++n) {
        Path path{.ray = ray, .sampler = {0, n, seed, options_.sequence}, .rays = rays, .weighed = none};
        path.from = from;
        light_air(end, path);
        out.value += path.sum;
        squares += luminance(path.sum) * luminance(path.sum);
    }
    out.samples = samples;
    out.value /= samples;
    const double mean = luminance(out.value);
    if (samples > 1) out.error = std::sqrt(std::max(0.0, squares / samples - mean * mean) / (samples - 1));
    return out;
}

std::vector<AskedRay> PathTracer::rays_of(int x, int y, std::uint32_t number) const {
    std::vector<AskedRay> out;
    std::uint64_t rays = 0;
    run(x, y, number, rays, &out);
    return out;
}

} // namespace mirolux::truth
