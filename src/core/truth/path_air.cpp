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

/// Mean extinction over a part of a ray, volumes counted as if they were whole; of an endless one that at its start.
double PathTracer::mean_extinction(const glm::dvec3& from, const glm::dvec3& direction, double metres) const {
    if (plainAir_) return air_.extinction;
    if (!std::isfinite(metres)) return std::max(most_extinction(from, direction, metres), 1e-6);
    double depth = optical_depth(air_, from, from + direction * metres);
    for (const AirVolume& v : air_.volumes)
        if (const auto part = crossed(v, from, direction))
            depth += v.extinction * std::max(0.0, std::min(part->y, metres) - part->x);
    return std::max(depth / std::max(metres, 1e-9), 1e-6);
}

/// No point of this part of a ray is denser.
double PathTracer::most_extinction(const glm::dvec3& from, const glm::dvec3& direction, double metres) const {
    const double end = std::isfinite(metres) ? from.y + direction.y * metres : direction.y < 0 ? -1e30 : from.y;
    double most = air_.extinction * density(air_, std::min(from.y, end));
    for (const AirVolume& v : air_.volumes)
        if (const auto part = crossed(v, from, direction); part && part->x < metres) most += v.extinction;
    return most;
}

/// What the air lets through over so many metres: the scene's fog exactly, volumes on the average over paths.
double PathTracer::through_air(const glm::dvec3& from, const glm::dvec3& direction, double metres, Path& path) const {
    if (!air_.on() || !(metres > 0)) return 1;
    double left = std::isfinite(metres) ? transmittance(air_, from, from + direction * metres)
                                        : transmittance_of_ray(air_, from, direction);
    for (const AirVolume& v : air_.volumes) {
        const auto part = crossed(v, from, direction);
        if (!part || v.extinction <= 0) continue;
        const double end = std::min(part->y, metres);
        for (double t = part->x - std::log(1 - path.sampler.one()) / v.extinction; t < end;
             t -= std::log(1 - path.sampler.one()) / v.extinction)
            left *= 1 - density(v, from + direction * t, air_.seconds);
    }
    return left;
}

/// Metres along the path's ray to where the air takes it; `end` or more: nowhere before.
double PathTracer::fly(Path& path, double end) const {
    if (plainAir_) return path.from - std::log(1 - path.sampler.one()) / air_.extinction;
    const glm::dvec3 o(path.ray.origin), d(path.ray.direction);
    const double most = most_extinction(o + d * double(path.from), d, end - path.from);
    if (!(most > 0)) return end;
    for (double t = path.from;;) {
        const glm::dvec2 u = path.sampler.two();
        t -= std::log(1 - u.x) / most;
        if (!(t < end) || u.y * most < air_at(air_, o + d * t).extinction) return t;
    }
}

/// The atmosphere before the first surface, summed in pieces of some tens of metres (core/sky/sky_tables): what frames
/// read from a table. Its own scattering beyond the first bounce is the tables' even part.
void PathTracer::take_atmosphere(double metres, Path& path) const {
    const double far = std::min(metres, atmosphereFar_);
    const AirBefore air = air_before(sky_->settings(), *sky_->tables(), glm::dvec3(path.ray.direction), far,
                                     std::clamp(static_cast<int>(far / 40), 4, 64));
    path.add(air.added, options_.clamp);
    path.weight *= air.through;
}

/// Light of one lamp, and of each directional light, that the air before `metres` scatters back along the ray, and what
/// it gives itself.
void PathTracer::light_air(double metres, Path& path) const {
    const glm::dvec3 o(path.ray.origin), d(path.ray.direction);
    const double start = path.from, mean = mean_extinction(o + d * start, d, metres - start);
    const auto bring = [&](const Lamp& lamp, double t, double density) {
        const glm::vec3 x(o + d * t);
        const bool sun = lamp.light.type == LightType::directional;
        const Source source(lamp.light, x);
        const glm::dvec3 to = source.direction(lamp.light.sourceSize > 0 ? path.sampler.two() : glm::dvec2(0.0));
        const double far = source.metres(to).value_or(0);
        const glm::dvec3 arrives = normal_irradiance(lamp.light, x, lamp.reach, window_) *
                                   double(*lamp.light.airShare) *
                                   through_air(glm::dvec3(x), to, sun ? end_of_air(x, to) : far, path) *
                                   through_air(o + d * start, d, t - start, path);
        if (arrives == glm::dvec3(0.0) || density <= 0) return;
        path.add(
            air_at(air_, glm::dvec3(x)).scattering * phase(air_.phase, glm::dot(to, d)) * arrives / density *
                double(way(x, glm::vec3(0.0f), to, static_cast<float>(far - options_.housing), Blocks::casting, path)),
            options_.clamp);
    };
    const double closed = 1 - (std::isfinite(metres) ? std::exp(-mean * (metres - start)) : 0);
    const glm::dvec2 u = path.sampler.two();
    const double flight = start - std::log(std::max(1 - u.x * closed, 1e-300)) / mean,
                 density = mean * std::exp(-mean * (flight - start)) / std::max(closed, 1e-300);
    for (const Lamp& sun : sun_)
        bring(sun, flight, density);
    if (options_.layer != Layer::scattering && closed > 0)
        if (const glm::dvec3 own = air_at(air_, o + d * flight).emission; own != glm::dvec3(0.0))
            path.add(own * through_air(o + d * start, d, flight - start, path) / density, options_.clamp);
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
    const double mean = mean_extinction(o + d * double(path.from), d, metres - path.from);
    path.weighed.clear();
    path.weighedSum = 0;
    for (const Lamp& lamp : lamps_) {
        const auto part = lit_part(lamp.light, lamp.reach, o, d, {path.from, metres});
        if (!part) continue;
        const Beside beside(lamp.light.position, o, d, *part);
        const double at = std::clamp(beside.nearest, part->from, part->to),
                     gives = luminance(glm::dvec3(effective_color(lamp.light))) * double(lamp.light.intensity) *
                             beside.angle() / beside.metres * double(*lamp.light.airShare) *
                             std::exp(-mean * (at - path.from + std::hypot(beside.metres, at - beside.nearest)));
        if (!(gives > 1e-300) || !std::isfinite(gives)) continue;
        path.weighedSum += gives;
        path.weighed.push_back({lamp.number, path.weighedSum});
    }
}

PathTracer::AirLight PathTracer::single_scattering(const Ray& ray, float from, float to, std::uint32_t samples,
                                                   std::uint32_t seed) const {
    AirLight out;
    if (!air_.on() || samples == 0) return out;
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
