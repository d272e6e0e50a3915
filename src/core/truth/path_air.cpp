#include "core/light/falloff.h"
#include "core/truth/lit_part.h"
#include "core/truth/path.h"
#include "core/truth/source.h"

// Light of lamps that the air sends back along a path's ray.
namespace mirolux::truth {

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

} // namespace mirolux::truth
