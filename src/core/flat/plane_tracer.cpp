#include "core/flat/plane_tracer.h"
#include "core/base/text.h"
#include "core/flat/painted.h"
#include "core/flat/world_json.h"
#include "core/io/wire.h"
#include "core/light/luminance.h"
#include <algorithm>
#include <glm/gtc/constants.hpp>
#include <map>

namespace mirolux::flat {

namespace {

constexpr double half_turn = glm::pi<double>();
constexpr int most_bounces = 64, sure_bounces = 3; // from then on a path ends by chance, as dark as it is

glm::dvec2 unit(double angle) {
    return {std::cos(angle), std::sin(angle)};
}

std::vector<PlaneSource> sources_of(const std::vector<Light>& lights, const SceneAsset& asset) {
    std::vector<PlaneSource> out;
    for (std::size_t i = 0; i < lights.size(); ++i)
        if (auto s = plane_source(lights[i], asset, static_cast<int>(i))) out.push_back(*s);
    return out;
}

/// True if a point lies within a closed outline: a way out of it crosses it an odd number of times.
bool inside(const Occluder& o, const glm::dvec2& p) {
    bool in = false;
    for (std::size_t i = 0, n = o.points.size(); o.closed && i < n; ++i) {
        const glm::dvec2 &a = o.points[i], &b = o.points[(i + 1) % n];
        if ((a.y > p.y) != (b.y > p.y) && p.x < a.x + (b.x - a.x) * (p.y - a.y) / (b.y - a.y)) in = !in;
    }
    return in;
}

/// The border's nearest place to a point within, and a hair beyond it.
glm::dvec2 beyond(const Occluder& o, const glm::dvec2& p) {
    glm::dvec2 nearest = p;
    double least = 1e300;
    for (const Edge& e : edges_of({o})) {
        const glm::dvec2 d = e.b - e.a, at = e.a + d * glm::clamp(glm::dot(p - e.a, d) / glm::dot(d, d), 0.0, 1.0);
        if (const double far = glm::length(at - p); far < least) {
            least = far;
            nearest = at;
        }
    }
    return least > 1e-9 ? nearest + (nearest - p) / least * 1e-3 : nearest;
}

} // namespace

PlaneTracer::PlaneTracer(const Scene& scene, const Setup& setup, const View& view, int bounces, std::uint32_t seed)
    : PlaneTracer(scene, setup, view, bounces, seed, shining_lights(scene, view.seconds)) {}

PlaneTracer::PlaneTracer(const Scene& scene, const Setup& setup, const View& view, int bounces, std::uint32_t seed,
                         const std::vector<Light>& lights)
    : world_(scene.flat), rays_(*world_, sources_of(lights, *scene.asset)),
      sky_(plane_sky(lights, glm::dvec3(setup.color("flat.ambient")))), lights_(lights.size()), width_(view.width),
      bounces_(bounces < 0 ? most_bounces : bounces), seed_(seed) {
    const View stage = stage_view(setup, view);
    const Window window = window_of(stage);
    const std::vector<bool> receives = painted(scene, setup, view).receives;
    const std::vector<Occluder> outlines = outlines_of(*world_);
    for (int y = 0; y < view.height; ++y)
        for (int x = 0; x < view.width; ++x) {
            Place place{window.at(glm::dvec2(stage_pixel(view, stage, {x, y})) + 0.5)};
            for (const Occluder& o : outlines)
                if (inside(o, place.point)) {
                    const glm::dvec2 border = beyond(o, place.point);
                    if (receives[places_.size()])
                        place.share = std::max(0.0, 1 - glm::length(border - place.point) / lit_depth);
                    place.point = border;
                    break;
                }
            places_.push_back(place);
        }
}

truth::SampleOf PlaneTracer::samples() const {
    return [this](int x, int y, std::uint32_t n, std::uint64_t& rays) { return sample(x, y, n, rays); };
}

/// Mean radiance that comes straight from lights: over all directions, or (on a wall) what the wall sends of it, for a
/// reflectance of 1: half the integral over the half circle by the cosine.
glm::dvec3 PlaneTracer::from_sources(const glm::dvec2& at, const glm::dvec2* normal, const glm::dvec2& u,
                                     std::uint64_t& rays) const {
    const auto weight = [&](double angle) {
        return normal ? 0.5 * std::max(0.0, glm::dot(unit(angle), *normal)) : 0.5 / half_turn;
    };
    glm::dvec3 out(0.0);
    for (const PlaneSky::Sun& s : sky_.suns) {
        const double angle = s.from + s.half * (2 * u.y - 1), w = weight(angle);
        if (w <= 0) continue;
        ++rays;
        const PlaneHit hit = rays_.nearest(at, unit(angle));
        if (hit.wall < 0 && hit.source < 0) out += s.radiance * (2 * s.half * w);
    }
    // Chosen by what it would give: radiance times the angle in which it is seen.
    const std::vector<PlaneSource>& sources = rays_.sources();
    thread_local std::vector<double> sums;
    sums.clear();
    double all = 0;
    for (const PlaneSource& s : sources) {
        const double d = glm::length(s.place - at);
        all += (s.radiance.x + s.radiance.y + s.radiance.z) * std::min(half_turn, s.rim() / std::max(d, s.radius));
        sums.push_back(all);
    }
    if (all <= 0) return out;
    const double pick = u.x * all;
    const auto i = std::min(sources.size() - 1,
                            static_cast<std::size_t>(std::upper_bound(sums.begin(), sums.end(), pick) - sums.begin()));
    const double low = i > 0 ? sums[i - 1] : 0, chance = (sums[i] - low) / all;
    if (chance <= 0) return out;
    const PlaneSource::Angles seen = sources[i].seen_from(at);
    const double angle = seen.middle + seen.half * (2 * u.y - 1), w = weight(angle);
    if (w <= 0) return out;
    ++rays;
    const glm::dvec2 way = unit(angle);
    const PlaneHit hit = rays_.nearest(at, way);
    if (hit.source == static_cast<int>(i)) out += sources[i].toward(-way) * (2 * seen.half * w / chance);
    return out;
}

PlaneTracer::Straight PlaneTracer::straight(const glm::dvec2& at, int raysEach) const {
    Straight out;
    out.lights.assign(lights_, glm::dvec3(0.0));
    out.walls.assign(lights_, std::string());
    // The mean of what evenly spread rays within an angle bring, by how much of the circle it is.
    const auto look = [&](int light, double middle, double half, auto&& brings) {
        glm::dvec3 sum(0.0);
        std::map<int, int> before; // walls, and how often
        for (int k = 0; k < raysEach; ++k) {
            const glm::dvec2 way = unit(middle + half * (2 * (k + 0.5) / raysEach - 1));
            const PlaneHit hit = rays_.nearest(at, way);
            sum += brings(hit, way);
            if (hit.wall >= 0) ++before[hit.wall];
        }
        const auto most = std::max_element(before.begin(), before.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        out.lights[static_cast<std::size_t>(light)] = sum * (half / half_turn / raysEach);
        if (most != before.end() && 2 * most->second > raysEach)
            out.walls[static_cast<std::size_t>(light)] = world_->walls[static_cast<std::size_t>(most->first)].name;
    };
    const std::vector<PlaneSource>& sources = rays_.sources();
    for (std::size_t i = 0; i < sources.size(); ++i) {
        const PlaneSource::Angles seen = sources[i].seen_from(at);
        look(sources[i].light, seen.middle, seen.half, [&](const PlaneHit& hit, const glm::dvec2& way) {
            return hit.source == static_cast<int>(i) ? sources[i].toward(-way) : glm::dvec3(0.0);
        });
    }
    for (const PlaneSky::Sun& s : sky_.suns)
        look(s.light, s.from, s.half, [&](const PlaneHit& hit, const glm::dvec2&) {
            return hit.wall < 0 && hit.source < 0 ? s.radiance : glm::dvec3(0.0);
        });
    const int round = 8 * raysEach;
    for (int k = 0; k < round; ++k) {
        const PlaneHit hit = rays_.nearest(at, unit(2 * half_turn * (k + 0.5) / round));
        if (hit.wall < 0 && hit.source < 0) out.ambient += sky_.ambient / double(round);
    }
    return out;
}

glm::dvec3 PlaneTracer::sample(int x, int y, std::uint32_t number, std::uint64_t& rays) const {
    const std::size_t i = static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x);
    const Place& p = places_[i];
    if (p.share <= 0) return sky_.ambient;
    return glm::mix(sky_.ambient, sample_at(p.point, static_cast<std::uint32_t>(i), number, rays), p.share);
}

glm::dvec3 PlaneTracer::sample_at(const glm::dvec2& point, std::uint32_t pixel, std::uint32_t number,
                                  std::uint64_t& rays) const {
    truth::Sampler sampler(pixel, number, seed_, truth::Sequence::sobol);
    glm::dvec2 at = point;
    glm::dvec3 out = from_sources(at, nullptr, sampler.two(), rays), share(1.0);
    glm::dvec2 way = unit(2 * half_turn * sampler.one());
    for (int bounce = 0;; ++bounce) {
        ++rays;
        const PlaneHit hit = rays_.nearest(at, way);
        if (hit.source >= 0) return out; // asked for by itself
        if (hit.wall < 0) return out + share * sky_.ambient;
        const Wall& wall = world_->walls[static_cast<std::size_t>(hit.wall)];
        out += share * glm::dvec3(wall.emits);
        if (bounce >= bounces_) return out;
        share *= glm::dvec3(wall.reflects);
        const double largest = std::max({share.x, share.y, share.z});
        if (largest <= 0) return out;
        const glm::dvec2 u = sampler.two();
        if (bounce >= sure_bounces) {
            const double goes_on = std::min(1.0, largest);
            if (u.y >= goes_on) return out;
            share /= goes_on;
        }
        at = at + way * hit.distance + hit.normal * 1e-6 * (1 + glm::length(at));
        out += share * from_sources(at, &hit.normal, sampler.two(), rays);
        // By the cosine: its sine is even from -1 to 1.
        const double sine = 2 * u.x - 1;
        way = hit.normal * std::sqrt(std::max(0.0, 1 - sine * sine)) + glm::dvec2(-hit.normal.y, hit.normal.x) * sine;
    }
}

std::string plane_digest(const Scene& scene, const Setup& setup, const View& view, int bounces, std::uint32_t seed) {
    Digest d;
    const auto text = [&](const std::string& t) { d.add(t.data(), t.size()); };
    text("plane 3"); // counts up with each change that gives other samples
    d.add(&scene.asset->digest, sizeof scene.asset->digest);
    text(changes(*scene.asset->flat, *scene.flat).dump());
    for (const Light& l : shining_lights(scene, view.seconds))
        text(to_json(l).dump());
    text(to_text(setup.get("flat.ambient")));
    text(setup.choice("flat.pixelScale"));
    text(to_json(view).dump());
    text(std::to_string(bounces) + " " + std::to_string(seed));
    return d.hex();
}

FloatImage lit_picture(const Scene& scene, const Setup& setup, const View& view, const FloatImage& light) {
    const Painted p = painted(scene, setup, view);
    FloatImage out = light;
    for (std::size_t i = 0; i < p.lit.size(); ++i)
        for (std::size_t c = 0; c < 3; ++c) {
            const float l = p.lit[i] ? std::clamp(light.data[4 * i + c], 0.0f, 1.0f) : 1.0f;
            out.data[4 * i + c] = p.scene.data[3 * i + c] * l + p.glow.data[3 * i + c];
        }
    return out;
}

} // namespace mirolux::flat
