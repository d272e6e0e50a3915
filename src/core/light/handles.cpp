#include "core/light/handles.h"
#include <glm/gtc/constants.hpp>

namespace mirolux {

static constexpr float armPixels = 64.0f, aimPixels = 110.0f;

const char* word(HandleKind kind) {
    switch (kind) {
    case HandleKind::ground:
        return "move on the ground plane";
    case HandleKind::axisX:
        return "move along x";
    case HandleKind::axisY:
        return "move up and down";
    case HandleKind::axisZ:
        return "move along z";
    case HandleKind::aim:
        return "aim at the surface under the pointer";
    case HandleKind::range:
        return "range";
    case HandleKind::outerCone:
        return "outer cone angle";
    case HandleKind::innerCone:
        return "inner cone angle";
    case HandleKind::fadeInner:
        return "full up to this distance from the eye";
    case HandleKind::fadeOuter:
        return "gone from this distance to the eye on";
    case HandleKind::end:
        return "its length or size, and its turn";
    }
    return "";
}

static glm::vec3 unit_or(const glm::vec3& v, const glm::vec3& fallback) {
    const float l = glm::length(v);
    return l > 1e-6f ? v / l : fallback;
}

glm::vec3 handle_side(const Light& light, const View& view) {
    const glm::vec3 toEye = unit_or(view.camera.eye - light.position, {0, 0, 1});
    if (light.type == LightType::spot)
        return unit_or(glm::cross(light.direction, toEye),
                       unit_or(glm::cross(light.direction, glm::vec3(0.3f, 1, 0.2f)), {1, 0, 0}));
    return unit_or(glm::cross(glm::vec3(0, 1, 0), toEye), {1, 0, 0});
}

glm::vec3 fade_side(const Light& light, const View& view) {
    const glm::vec3 side = handle_side(light, view);
    return unit_or({-side.x, 0.0f, -side.z}, {-1, 0, 0});
}

/// Half of a flat light's length, or what half its height is drawn to, along its turn.
static float half_extent(const Light& light) {
    return light.flat.shape == FlatShape::line ? 0.5f * light.flat.length : light.flat.size;
}
static bool has_extent(const Light& light) {
    return light.type == LightType::point && light.flat.shape != FlatShape::round;
}

/// Of a Flat stage: everything lies in its plane.
static std::vector<Handle> flat_handles(const Light& light, const View& view, float reach) {
    const float pixel = metres_per_pixel(view, light.position);
    const glm::vec3 p(glm::vec2(light.position), 0.0f);
    const glm::vec3 way = unit_or({light.direction.x, light.direction.y, 0}, {0, -1, 0}), across(-way.y, way.x, 0);
    std::vector<Handle> out = {{HandleKind::ground, p},
                               {HandleKind::axisX, p + glm::vec3(armPixels * pixel, 0, 0)},
                               {HandleKind::axisY, p + glm::vec3(0, armPixels * pixel, 0)}};
    if (light.type == LightType::directional) out.push_back({HandleKind::aim, p + way * (aimPixels * pixel)});
    if (light.type == LightType::spot) {
        out.push_back({HandleKind::aim, p + way * std::min(aimPixels * pixel, 0.8f * reach)});
        out.push_back({HandleKind::range, p + way * reach});
        const auto rim = [&](float a) { return p + (way * std::cos(a) + across * std::sin(a)) * reach * 0.6f; };
        out.push_back({HandleKind::outerCone, rim(light.outerConeAngle)});
        out.push_back({HandleKind::innerCone, rim(-light.innerConeAngle)});
    }
    const glm::vec3 turn(std::cos(light.flat.turn), std::sin(light.flat.turn), 0);
    if (light.type == LightType::point && light.flat.shape != FlatShape::picture)
        out.push_back({HandleKind::range, p + glm::vec3(0.7071f, -0.7071f, 0) * reach});
    if (has_extent(light)) out.push_back({HandleKind::end, p + turn * half_extent(light)});
    return out;
}

static Light flat_dragged(const Light& start, HandleKind kind, const glm::vec2& from, const glm::vec2& to) {
    Light light = start;
    const glm::vec2 p(start.position), q = to - p;
    const glm::vec2 way = glm::vec2(unit_or({start.direction.x, start.direction.y, 0}, {0, -1, 0}));
    switch (kind) {
    case HandleKind::ground:
        light.position += glm::vec3(to - from, 0);
        break;
    case HandleKind::axisX:
        light.position.x += to.x - from.x;
        break;
    case HandleKind::axisY:
        light.position.y += to.y - from.y;
        break;
    case HandleKind::aim: { // its rise stays
        const float level = std::sqrt(std::max(1e-6f, 1 - start.direction.z * start.direction.z));
        if (glm::length(q) > 1e-3f) light.direction = glm::vec3(glm::normalize(q) * level, start.direction.z);
        break;
    }
    case HandleKind::range:
        light.range = std::max(1.0f, start.range + glm::length(q) - glm::length(from - p));
        break;
    case HandleKind::outerCone:
    case HandleKind::innerCone: {
        const float sign = kind == HandleKind::outerCone ? 1.0f : -1.0f;
        const float angle =
            std::clamp(std::atan2(sign * (way.x * q.y - way.y * q.x), glm::dot(way, q)), 0.0f, glm::half_pi<float>());
        if (kind == HandleKind::outerCone)
            light.outerConeAngle = std::max(angle, 0.01745f);
        else
            light.innerConeAngle = angle;
        light.innerConeAngle = std::min(light.innerConeAngle, light.outerConeAngle);
        break;
    }
    case HandleKind::end: {
        const float length = std::max(1.0f, glm::length(q));
        if (start.flat.shape == FlatShape::line)
            light.flat.length = 2 * length;
        else
            light.flat.size = length;
        light.flat.turn = std::atan2(q.y, q.x);
        break;
    }
    default:
        break;
    }
    return light;
}

std::vector<Handle> handles_of(const Light& light, const View& view, float reach) {
    if (view.camera.span > 0) return flat_handles(light, view, reach);
    const float pixel = metres_per_pixel(view, light.position);
    const glm::vec3 p = light.position, side = handle_side(light, view);
    std::vector<Handle> handles = {{HandleKind::ground, p},
                                   {HandleKind::axisX, p + glm::vec3(armPixels * pixel, 0, 0)},
                                   {HandleKind::axisY, p + glm::vec3(0, armPixels * pixel, 0)},
                                   {HandleKind::axisZ, p + glm::vec3(0, 0, armPixels * pixel)}};
    if (light.type != LightType::point) handles.push_back({HandleKind::aim, p + light.direction * (aimPixels * pixel)});
    if (light.type == LightType::point) handles.push_back({HandleKind::range, p + side * reach});
    if (light.type == LightType::spot) {
        handles.push_back({HandleKind::range, p + light.direction * reach});
        auto rim = [&](float angle) {
            return p + (light.direction * std::cos(angle) + side * std::sin(angle)) * reach * 0.6f;
        };
        handles.push_back({HandleKind::outerCone, rim(light.outerConeAngle)});
        handles.push_back({HandleKind::innerCone, rim(-light.innerConeAngle)});
    }
    if (light.type != LightType::directional && light.fadeOuter > 0.0f) {
        const glm::vec3 away = fade_side(light, view);
        handles.push_back({HandleKind::fadeInner, p + away * light.fadeInner});
        handles.push_back({HandleKind::fadeOuter, p + away * light.fadeOuter});
    }
    return handles;
}

Light dragged(const Light& start, HandleKind kind, const View& view, const Ray& from, const Ray& to,
              const std::optional<glm::vec3>& surface, float reach) {
    if (view.camera.span > 0) return flat_dragged(start, kind, glm::vec2(from.origin), glm::vec2(to.origin));
    Light light = start;
    const glm::vec3 p = start.position;
    const glm::vec3 facing = unit_or(view.camera.eye - p, {0, 0, 1});
    switch (kind) {
    case HandleKind::ground: {
        const auto a = on_plane(from, p, {0, 1, 0}), b = on_plane(to, p, {0, 1, 0});
        if (a && b) light.position = p + *b - *a;
        break;
    }
    case HandleKind::axisX:
    case HandleKind::axisY:
    case HandleKind::axisZ: {
        glm::vec3 axis(0.0f);
        axis[static_cast<int>(kind) - static_cast<int>(HandleKind::axisX)] = 1.0f;
        const auto a = along_line(from, p, axis), b = along_line(to, p, axis);
        if (a && b) light.position = p + axis * (*b - *a);
        break;
    }
    case HandleKind::aim: {
        const auto target = surface ? surface : on_plane(to, p + start.direction * 2.0f, facing);
        if (target) light.direction = unit_or(*target - p, start.direction);
        break;
    }
    case HandleKind::range: {
        float now = 0, before = reach;
        if (start.type == LightType::spot) {
            const auto a = along_line(from, p, start.direction), b = along_line(to, p, start.direction);
            if (!a || !b) break;
            before = *a, now = *b;
        } else {
            const auto a = on_plane(from, p, facing), b = on_plane(to, p, facing);
            if (!a || !b) break;
            before = glm::length(*a - p), now = glm::length(*b - p);
        }
        light.range = std::max(0.1f, reach + now - before);
        break;
    }
    case HandleKind::fadeInner:
    case HandleKind::fadeOuter: {
        const glm::vec3 away = fade_side(start, view);
        const auto a = along_line(from, p, away), b = along_line(to, p, away);
        if (!a || !b) break;
        if (kind == HandleKind::fadeInner)
            light.fadeInner = std::clamp(start.fadeInner + *b - *a, 0.0f, start.fadeOuter);
        else
            light.fadeOuter = std::max(start.fadeOuter + *b - *a, std::max(0.1f, start.fadeInner));
        break;
    }
    case HandleKind::outerCone:
    case HandleKind::innerCone: {
        const glm::vec3 side = handle_side(start, view);
        const auto b = on_plane(to, p, glm::cross(start.direction, side));
        if (!b) break;
        const glm::vec3 q = *b - p;
        const float sign = kind == HandleKind::outerCone ? 1.0f : -1.0f;
        const float angle =
            std::clamp(std::atan2(sign * glm::dot(q, side), glm::dot(q, start.direction)), 0.0f, glm::half_pi<float>());
        if (kind == HandleKind::outerCone) {
            light.outerConeAngle = std::max(angle, 0.01745f);
            light.innerConeAngle = std::min(light.innerConeAngle, light.outerConeAngle);
        } else
            light.innerConeAngle = std::min(angle, light.outerConeAngle);
        break;
    }
    case HandleKind::end:
        break; // of a Flat stage
    }
    return light;
}

} // namespace mirolux
