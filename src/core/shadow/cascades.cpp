#include "core/shadow/cascades.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

namespace {

/// Half the view's width and height at distance 1.
glm::dvec2 half_size(const View& view) {
    const double high = std::tan(0.5 * view.camera.fovY);
    return {high * aspect_of(view), high};
}

/// What a map must hold, in light space.
struct Extent {
    glm::dvec3 middle{0.0};
    double half = 0;               // of the map's side
    double before = 0, behind = 0; // of the middle: toward the sun, and away from it
};

/// The smallest sphere around a slice: its middle lies on the axis where near and far corners are as far away.
Extent around_slice(const glm::dvec3& eye, const glm::dvec3& forward, const glm::dvec2& half, double near, double far,
                    const glm::dmat3& axes) {
    const double k2 = glm::dot(half, half), at = std::min(far, 0.5 * (near + far) * (1 + k2));
    const double radius = std::sqrt((far - at) * (far - at) + far * far * k2);
    return {glm::transpose(axes) * (eye + forward * at), radius, radius, radius};
}

Extent of_corners(const std::vector<glm::dvec3>& corners, const glm::dmat3& axes) {
    glm::dvec3 low(1e300), high(-1e300);
    for (const glm::dvec3& c : corners) {
        const glm::dvec3 l = glm::transpose(axes) * c;
        low = glm::min(low, l);
        high = glm::max(high, l);
    }
    const glm::dvec3 half = 0.5 * (high - low);
    return {0.5 * (low + high), std::max(half.x, half.y), half.z, half.z};
}

} // namespace

std::vector<double> slice_ends(double near, const CascadeChoices& c) {
    std::vector<double> out;
    if (!c.ends.empty()) {
        for (const double end : c.ends)
            if (end > near && end < c.distance && static_cast<int>(out.size()) + 1 < c.count &&
                (out.empty() || end > out.back()))
                out.push_back(end);
        out.push_back(c.distance);
        return out;
    }
    const int count = std::clamp(c.count, 1, 4);
    for (int i = 1; i < count; ++i) {
        const double share = static_cast<double>(i) / count;
        out.push_back(glm::mix(near + (c.distance - near) * share, near * std::pow(c.distance / near, share),
                               std::clamp(c.spread, 0.0, 1.0)));
    }
    out.push_back(c.distance);
    return out;
}

glm::dmat3 light_axes(const glm::dvec3& direction) {
    const glm::dvec3 z = -glm::normalize(direction),
                     aside = std::abs(z.y) < 0.99 ? glm::dvec3(0, 1, 0) : glm::dvec3(1, 0, 0),
                     x = glm::normalize(glm::cross(aside, z));
    return {x, glm::cross(z, x), z};
}

std::vector<Cascade> cascades(const View& view, const glm::dvec3& direction, const CascadeChoices& c) {
    const double near = std::max(1e-3, double(view.camera.near));
    std::vector<Cascade> out;
    if (!(c.distance > near) || view.width <= 0 || view.height <= 0 || c.resolution < 4) return out;
    const glm::dmat3 axes = light_axes(direction);
    const glm::dmat3 toWorld = glm::transpose(glm::dmat3(glm::mat3(view_matrix(view.camera))));
    const glm::dvec3 eye(view.camera.eye), forward = -toWorld[2];
    const glm::dvec2 half = half_size(view);
    double from = near, coversFrom = near;
    for (const double to : slice_ends(near, c)) {
        Cascade cascade;
        cascade.from = from;
        cascade.to = to;
        cascade.coversFrom = coversFrom;
        const bool last = to >= c.distance;
        cascade.blendFrom = last ? to : to - std::clamp(c.blend, 0.0, 1.0) * (to - from);
        Extent extent;
        if (c.fit == CascadeFit::sphere)
            extent = around_slice(eye, forward, half, coversFrom, to, axes);
        else {
            std::vector<glm::dvec3> corners;
            for (const double depth : {coversFrom, to})
                for (const double x : {-half.x, half.x})
                    for (const double y : {-half.y, half.y})
                        corners.push_back(eye + depth * (forward + x * toWorld[0] + y * toWorld[1]));
            extent = of_corners(corners, axes);
        }
        // A texel to spare on each side, for the corner that is put on a multiple, and for filters' first ring.
        cascade.texel = 2 * extent.half / (c.resolution - 3);
        const double side = cascade.texel * c.resolution;
        const glm::dvec2 corner =
            glm::floor((glm::dvec2(extent.middle) - 0.5 * side) / cascade.texel + 0.5) * cascade.texel;
        // Along the light in steps of a tenth of the range, so that depths stay as they are while the camera moves a
        // little.
        const double reach = extent.before + std::max(0.0, c.casterReach), step = 0.1 * (reach + extent.behind),
                     top = std::ceil((extent.middle.z + reach) / step) * step;
        cascade.range = reach + extent.behind + step;
        cascade.corner = {corner, top};
        glm::dmat4 map(1.0);
        for (int k = 0; k < 3; ++k) {
            map[k][0] = axes[0][k] * 2 / side;
            map[k][1] = axes[1][k] * 2 / side;
            map[k][2] = axes[2][k] / cascade.range;
        }
        map[3] = {-corner.x * 2 / side - 1, -corner.y * 2 / side - 1, 1 - top / cascade.range, 1};
        cascade.toMap = map;
        out.push_back(cascade);
        from = to;
        coversFrom = cascade.blendFrom;
    }
    return out;
}

CascadeLookup cascade_at(const std::vector<Cascade>& all, double depth, const CascadeChoices& c) {
    if (all.empty() || depth >= all.back().to) return {};
    CascadeLookup out;
    out.first = 0;
    while (depth >= all[static_cast<std::size_t>(out.first)].to)
        ++out.first;
    const Cascade& at = all[static_cast<std::size_t>(out.first)];
    if (depth > at.blendFrom) out.share = (depth - at.blendFrom) / (at.to - at.blendFrom);
    const double fadeFrom = c.distance * (1 - std::clamp(c.fade, 0.0, 1.0));
    out.strength = depth <= fadeFrom ? 1 : (c.distance - depth) / (c.distance - fadeFrom);
    return out;
}

} // namespace mirolux
