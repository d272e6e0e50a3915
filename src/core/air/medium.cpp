#include "core/air/medium.h"
#include <cmath>
#include <limits>

namespace mirolux {

AirMedium medium(const Setup& setup, const std::vector<AirVolume>& volumes, double seconds) {
    AirMedium m;
    const std::string& kind = setup.choice("air.kind");
    if (kind == "none") return m;
    const bool froxels = kind == "froxels";
    m.shape =
        kind == "height" || (froxels && setup.choice("air.profile") == "height") ? AirShape::byHeight : AirShape::even;
    m.extinction = setup.number("air.extinction");
    m.height = setup.number("air.height");
    m.base = setup.number("air.base");
    m.albedo = glm::dvec3(setup.color("air.albedo"));
    if (!froxels) return m;
    m.emission = glm::dvec3(setup.color("air.emission"));
    m.phase.first = setup.number("air.anisotropy");
    if (setup.flag("air.secondLobe")) {
        m.phase.second = setup.number("air.secondAnisotropy");
        m.phase.share = setup.number("air.secondShare");
    }
    for (const AirVolume& v : volumes)
        if (v.enabled) m.volumes.push_back(v);
    m.seconds = seconds;
    return m;
}

double density(const AirMedium& m, double y) {
    if (m.shape != AirShape::byHeight) return m.shape == AirShape::even ? 1 : 0;
    return std::exp(-std::max(y - m.base, 0.0) / m.height);
}

/// Integral of the density over height, from the base up.
static double column(const AirMedium& m, double y) {
    const double over = y - m.base;
    return over < 0 ? over : m.height * (1 - std::exp(-over / m.height));
}

double optical_depth(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& to) {
    if (m.shape == AirShape::none) return 0;
    const double metres = glm::length(to - from), rise = to.y - from.y;
    if (m.shape == AirShape::even) return m.extinction * metres;
    const double mean =
        std::abs(rise) < 1e-6 ? density(m, 0.5 * (from.y + to.y)) : (column(m, to.y) - column(m, from.y)) / rise;
    return m.extinction * mean * metres;
}

double optical_depth_of_ray(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& direction) {
    if (m.shape == AirShape::none) return 0;
    if (m.shape == AirShape::even || direction.y <= 0) return std::numeric_limits<double>::infinity();
    return m.extinction * (m.height - column(m, from.y)) / direction.y;
}

double transmittance(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& to) {
    return std::exp(-optical_depth(m, from, to));
}

double transmittance_of_ray(const AirMedium& m, const glm::dvec3& from, const glm::dvec3& direction) {
    return std::exp(-optical_depth_of_ray(m, from, direction));
}

AirPoint air_at(const AirMedium& m, const glm::dvec3& point) {
    AirPoint out;
    const double here = density(m, point.y);
    out.extinction = m.extinction * here;
    out.scattering = m.albedo * out.extinction;
    out.emission = m.emission * here;
    for (const AirVolume& v : m.volumes) {
        const double share = density(v, point, m.seconds);
        out.extinction += v.extinction * share;
        out.scattering += glm::dvec3(v.albedo) * (v.extinction * share);
        out.emission += glm::dvec3(v.emission) * share;
    }
    return out;
}

} // namespace mirolux
