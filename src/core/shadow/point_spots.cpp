#include "core/shadow/point_spots.h"
#include "core/light/falloff.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace mirolux {

namespace {

/// Point i of n, spread evenly over the unit sphere.
glm::dvec3 lattice(int i, int n) {
    const double z = 1 - (2.0 * i + 1) / n, r = std::sqrt(std::max(0.0, 1 - z * z)),
                 turn = i * std::numbers::pi * (3 - std::sqrt(5.0));
    return {r * std::cos(turn), z, r * std::sin(turn)};
}

class Cover {
public:
    explicit Cover(const std::vector<UsedDirection>& used) : used_(used) {
        for (const UsedDirection& u : used)
            all_ += u.weight;
    }

    /// Of all light, what no cone covers and what each further one covers again.
    double loss(const std::vector<SpotCone>& cones) const {
        const Sums s = sums(cones);
        return all_ > 0 ? 1 + (s.again - s.once) / all_ : 1;
    }

    SpotCover shares(const std::vector<SpotCone>& cones) const {
        const Sums s = sums(cones);
        return all_ > 0 ? SpotCover{cones, s.once / all_, s.twice / all_} : SpotCover{cones, 0, 0};
    }

    /// Moves axes and angles by steps that are halved once no move gains.
    std::vector<SpotCone> descended(std::vector<SpotCone> cones) const {
        double best = loss(cones);
        for (double step = 0.35; step > 0.01;) {
            bool gained = false;
            for (std::size_t k = 0; k < cones.size(); ++k)
                for (int move = 0; move < 6; ++move) {
                    std::vector<SpotCone> tried = cones;
                    SpotCone& c = tried[k];
                    const glm::dvec3 side = std::abs(c.axis.y) < 0.9 ? glm::dvec3(0, 1, 0) : glm::dvec3(1, 0, 0),
                                     x = glm::normalize(glm::cross(c.axis, side)), y = glm::cross(x, c.axis);
                    const double sign = move % 2 == 0 ? 1 : -1;
                    if (move / 2 == 2)
                        c.angle = std::clamp(c.angle + sign * step, 0.1, double(widest_spot));
                    else
                        c.axis = glm::normalize(c.axis + sign * std::tan(step) * (move / 2 == 0 ? x : y));
                    if (const double l = loss(tried); l < best - 1e-9) {
                        best = l;
                        cones = std::move(tried);
                        gained = true;
                    }
                }
            if (!gained) step /= 2;
        }
        return cones;
    }

    /// Cones around directions far from each other, beginning with one of the lattice.
    std::vector<SpotCone> spread(int count, const glm::dvec3& first) const {
        std::vector<SpotCone> cones = {{first, double(widest_spot)}};
        while (static_cast<int>(cones.size()) < count) {
            double farthest = -2;
            glm::dvec3 next = -first;
            for (const UsedDirection& u : used_) {
                double nearest = 1;
                for (const SpotCone& c : cones)
                    nearest = std::min(nearest, 1 - glm::dot(c.axis, u.direction));
                if (nearest * u.weight > farthest) {
                    farthest = nearest * u.weight;
                    next = u.direction;
                }
            }
            cones.push_back({next, double(widest_spot)});
        }
        for (SpotCone& c : cones) // no wider than half way to the next
            for (const SpotCone& o : cones)
                if (&c != &o)
                    c.angle =
                        std::clamp(0.5 * std::acos(std::clamp(glm::dot(c.axis, o.axis), -1.0, 1.0)), 0.1, c.angle);
        return cones;
    }

private:
    struct Sums {
        double once = 0, twice = 0, again = 0; // in one cone at least, in two at least, times of each beyond the first
    };
    Sums sums(const std::vector<SpotCone>& cones) const {
        std::array<double, 8> cosines{};
        for (std::size_t k = 0; k < cones.size(); ++k)
            cosines[k] = std::cos(cones[k].angle);
        Sums s;
        for (const UsedDirection& u : used_) {
            int in = 0;
            for (std::size_t k = 0; k < cones.size(); ++k)
                in += glm::dot(u.direction, cones[k].axis) >= cosines[k];
            if (in > 0) s.once += u.weight;
            if (in > 1) s.twice += u.weight;
            if (in > 1) s.again += (in - 1) * u.weight;
        }
        return s;
    }

    const std::vector<UsedDirection>& used_;
    double all_ = 0;
};

} // namespace

std::vector<UsedDirection> used_directions(const RayScene& rays, const Light& light, double reach, RangeWindow window,
                                           int count) {
    std::vector<UsedDirection> out;
    for (int i = 0; i < count; ++i) {
        const glm::dvec3 d = lattice(i, count);
        const RayHit hit = rays.any_surface({light.position, glm::vec3(d)}, 0.0f, false);
        if (hit.object < 0 || (reach > 0 && hit.distance > reach)) continue;
        if (const double w = range_window(hit.distance, light.range, window); w > 0) out.push_back({d, w});
    }
    return out;
}

SpotCover cover_by_spots(const std::vector<UsedDirection>& used, int count) {
    SpotCover best;
    if (used.empty() || count < 1) return best;
    const Cover cover(used);
    double least = 1e300;
    for (const glm::dvec3& first : {glm::dvec3(0, -1, 0), glm::dvec3(0, 1, 0), glm::dvec3(1, 0, 0), glm::dvec3(0, 0, 1),
                                    glm::dvec3(-1, 0, 0), glm::dvec3(0, 0, -1)}) {
        const std::vector<SpotCone> cones = cover.descended(cover.spread(count, first));
        if (const double loss = cover.loss(cones); loss < least) {
            least = loss;
            best = cover.shares(cones);
        }
    }
    return best;
}

std::vector<Light> spots_in_place(const Light& point, const SpotCover& cover) {
    std::vector<Light> out;
    for (const SpotCone& c : cover.cones) {
        Light spot = point;
        spot.id = -1;
        spot.type = LightType::spot;
        spot.name = point.name + ", spot " + std::to_string(out.size() + 1);
        spot.direction = glm::vec3(c.axis);
        spot.outerConeAngle = static_cast<float>(c.angle);
        spot.innerConeAngle = static_cast<float>(std::max(0.0, c.angle - 0.02)); // as sharp as the next one begins
        out.push_back(std::move(spot));
    }
    return out;
}

int put_in_place(std::vector<Light>& lights, std::vector<Motion>& motions, int point, std::vector<Light> spots) {
    int id = 1000000;
    for (const Light& l : lights)
        id = std::max(id, l.id + 1);
    const int first = id;
    const std::vector<Motion> own = motions;
    for (Light& l : lights)
        if (l.id == point) l.enabled = false;
    for (Light& spot : spots) {
        spot.id = id++;
        for (Motion m : own)
            if (m.light == point) {
                m.light = spot.id;
                motions.push_back(m);
            }
        lights.push_back(std::move(spot));
    }
    return first;
}

} // namespace mirolux
