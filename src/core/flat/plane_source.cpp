#include "core/flat/plane_source.h"
#include <algorithm>
#include <glm/gtc/constants.hpp>
#include <limits>

namespace mirolux::flat {

namespace {

constexpr double pi = glm::pi<double>(), infinite = std::numeric_limits<double>::infinity();

/// The first of a disc's two crossings that lies ahead; 0 from within.
double met_disc(const glm::dvec2& to, const glm::dvec2& way, double radius) {
    const double along = glm::dot(to, way), c = glm::dot(to, to) - radius * radius;
    if (c <= 0) return 0;
    const double d = along * along - c;
    return along > 0 && d >= 0 ? along - std::sqrt(d) : infinite;
}

/// Of angles to each other, -pi to pi.
double apart(double a, double b) {
    return std::remainder(a - b, 2 * pi);
}

/// The sum over the plane of what a round or long light gives by its formula, over its peak.
double formula_sum(const Light& l) {
    const double r = l.range, f = l.flat.falloff;
    double sum = pi * r * r / (f + 1);
    if (l.type == LightType::point && l.flat.shape == FlatShape::line)
        sum += l.flat.length * r * std::sqrt(pi) * std::tgamma(f + 1) / std::tgamma(f + 1.5);
    return sum;
}

} // namespace

double PlaneSource::rim() const {
    return 2 * pi * radius + 4 * glm::length(axis);
}

glm::dvec3 PlaneSource::toward(const glm::dvec2& way) const {
    if (!spot) return radiance;
    const double t = glm::clamp((glm::dot(way, aim) - cosOuter) / std::max(1e-4, cosInner - cosOuter), 0.0, 1.0);
    return radiance * (t * t);
}

double PlaneSource::met(const glm::dvec2& from, const glm::dvec2& way) const {
    if (axis == glm::dvec2(0.0)) return met_disc(place - from, way, radius);
    double nearest = std::min(met_disc(place + axis - from, way, radius), met_disc(place - axis - from, way, radius));
    const double half = glm::length(axis);
    const glm::dvec2 u = axis / half, v(-u.y, u.x), to = from - place;
    if (std::abs(glm::dot(to, v)) <= radius && std::abs(glm::dot(to, u)) <= half) return 0;
    const double speed = glm::dot(way, v);
    for (const double side : {-radius, radius}) {
        if (speed == 0) break;
        const double t = (side - glm::dot(to, v)) / speed;
        if (t > 0 && std::abs(glm::dot(to + way * t, u)) <= half) nearest = std::min(nearest, t);
    }
    return nearest;
}

PlaneSource::Angles PlaneSource::seen_from(const glm::dvec2& point) const {
    const auto of_disc = [&](const glm::dvec2& middle) {
        const glm::dvec2 to = middle - point;
        const double d = glm::length(to);
        return Angles{std::atan2(to.y, to.x), d <= radius ? pi : std::asin(radius / d)};
    };
    const Angles a = of_disc(place + axis);
    if (axis == glm::dvec2(0.0) || a.half == pi) return a;
    const Angles b = of_disc(place - axis);
    if (b.half == pi) return b;
    if (met(point, glm::dvec2(1, 0)) == 0) return {0, pi};
    // Both ends lie within half a turn of each other, as seen from outside.
    const double turn = apart(b.middle, a.middle), low = std::min(-a.half, turn - b.half),
                 high = std::max(a.half, turn + b.half);
    return {a.middle + 0.5 * (low + high), 0.5 * (high - low)};
}

std::optional<PlaneSource> plane_source(const Light& l, const SceneAsset& asset, int number) {
    if (l.type == LightType::directional) return std::nullopt;
    const bool shaped =
        l.type == LightType::point && (l.flat.shape == FlatShape::picture || l.flat.shape == FlatShape::text);
    const double sum = shaped ? profile_sum(l, asset) : formula_sum(l),
                 reach = shaped && asset.flat ? glm::length(profile_half(l, *asset.flat)) : double(l.range);
    if (!(sum > 0 && reach > 0)) return std::nullopt;
    PlaneSource s;
    s.light = number;
    s.place = l.position;
    s.radius = 0.5 * (l.sourceSize > 0 ? double(l.sourceSize) : standard_source);
    if (l.type == LightType::point && l.flat.shape == FlatShape::line)
        s.axis = 0.5 * double(l.flat.length) * glm::dvec2(std::cos(l.flat.turn), std::sin(l.flat.turn));
    // Far from a convex body of rim P, its mean radiance is L P / (2 pi^2 d): over a range r that sums up to L P r /
    // pi.
    s.radiance = glm::dvec3(effective_color(l)) * double(l.intensity) * (sum * pi / (s.rim() * reach));
    if (l.type == LightType::spot) {
        s.spot = true;
        const glm::dvec2 way(l.direction);
        const double length = glm::length(way);
        if (length > 1e-9) s.aim = way / length;
        s.cosInner = std::cos(l.innerConeAngle);
        s.cosOuter = std::cos(l.outerConeAngle);
    }
    return s;
}

glm::dvec3 PlaneSky::within(double low, double high) const {
    glm::dvec3 out = ambient;
    const double middle = 0.5 * (low + high), half = 0.5 * (high - low);
    for (const Sun& s : suns) {
        const double d = apart(s.from, middle);
        // Angles may pass the seam: the sun is looked for on both sides of it.
        double shared = 0;
        for (const double at : {d, d - 2 * pi, d + 2 * pi})
            shared += std::max(0.0, std::min(half, at + s.half) - std::max(-half, at - s.half));
        if (half > 0) out += s.radiance * (shared / (2 * half));
    }
    return out;
}

PlaneSky plane_sky(const std::vector<Light>& lights, const glm::dvec3& ambient) {
    PlaneSky out{ambient, {}};
    for (std::size_t i = 0; i < lights.size(); ++i) {
        const Light& l = lights[i];
        const glm::dvec2 way(l.direction);
        if (l.type != LightType::directional || glm::length(way) < 1e-9) continue;
        const double half = 0.5 * (l.sourceSize > 0 ? double(l.sourceSize) : standard_sun);
        // Its mean radiance where it is seen whole is what the light gives.
        out.suns.push_back({static_cast<int>(i), std::atan2(-way.y, -way.x), half,
                            glm::dvec3(effective_color(l)) * double(l.intensity) * (pi / half)});
    }
    return out;
}

} // namespace mirolux::flat
