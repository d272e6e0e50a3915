#include "core/visibility/door_place.h"
#include "core/visibility/rooms.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

namespace {

constexpr float farthest = 30, widest = 8, step = 0.1f; // metres

struct Clear {
    float left = 0, right = 0;
    float width() const { return left + right; }
};

float free_way(const RayScene& rays, const glm::vec3& from, const glm::vec3& way) {
    const RayHit hit = rays.nearest_caster({from, way}, 0); // walls stand whichever side they show
    return hit.object < 0 ? std::numeric_limits<float>::infinity() : hit.distance;
}

Clear across(const RayScene& rays, const glm::vec3& at, float turn) {
    const glm::vec3 side(std::cos(turn), 0, -std::sin(turn));
    return {free_way(rays, at, -side), free_way(rays, at, side)};
}

} // namespace

std::optional<Door> door_ahead(const RayScene& rays, const glm::vec3& eye, const glm::vec3& direction) {
    const glm::vec3 way = glm::normalize(direction);
    const float level = std::hypot(way.x, way.z);
    if (level < 0.2f) return std::nullopt; // up or down
    const float end = std::min(farthest, free_way(rays, eye, way) - step), facing = std::atan2(-way.x, -way.z);
    // The narrowest place, turned as may be, that is wider both before and behind it.
    float narrowest = widest, turn = facing;
    std::optional<glm::vec3> found;
    for (float t = 0; t <= end; t += step)
        for (int k = -12; k <= 12; ++k) {
            const float tried = facing + glm::radians(5.0f * static_cast<float>(k));
            const glm::vec3 p = eye + t * way, beyond = 0.8f * glm::vec3(std::sin(tried), 0, std::cos(tried));
            const Clear own = across(rays, p, tried);
            const float width = own.width(), more = 0.15f; // metres: how much wider it is, on both sides
            if (!(width < narrowest - 1e-4f)) continue;
            const Clear before = across(rays, p - beyond, tried), behind = across(rays, p + beyond, tried);
            if (std::min(before.left, behind.left) < own.left + more ||
                std::min(before.right, behind.right) < own.right + more)
                continue;
            narrowest = width;
            turn = tried;
            found = p;
        }
    if (!found) return std::nullopt;
    glm::vec3 at = *found;
    const glm::vec3 side(std::cos(turn), 0, -std::sin(turn)), normal(std::sin(turn), 0, std::cos(turn));
    Clear c = across(rays, at, turn);
    at += 0.5f * (c.right - c.left) * side;
    // The middle of the wall's thickness: how far along the normal the opening keeps its width.
    float reach[2] = {0, 0};
    for (int s = 0; s < 2; ++s)
        while (reach[s] < 1.5f &&
               across(rays, at + (s ? 1.0f : -1.0f) * (reach[s] + 0.02f) * normal, turn).width() < c.width() + 0.1f)
            reach[s] += 0.02f;
    at += 0.5f * (reach[1] - reach[0]) * normal;
    const float up = std::min(free_way(rays, at, {0, 1, 0}), 6.0f),
                down = std::min(free_way(rays, at, {0, -1, 0}), 6.0f);
    Door d;
    d.center = at + glm::vec3(0, 0.5f * (up - down), 0);
    d.size = {c.width(), up + down};
    d.turn = turn;
    return d;
}

DrawnRoom room_around(const RayScene& rays, const std::vector<Door>& doors, const glm::vec3& eye) {
    const auto clear = [&](const glm::vec3& from, const glm::vec3& way) {
        float far = free_way(rays, from, way);
        for (const Door& d : doors) { // a room ends at its doors, open or not
            const glm::vec3 n = plane_of(d).normal;
            const float toward = glm::dot(n, way);
            if (std::abs(toward) < 1e-4f) continue;
            const float t = glm::dot(n, d.center - from) / toward;
            if (t > 0 && t < far && leads_through(d, from, from + (t + 1e-3f) * way)) far = t;
        }
        return far;
    };
    const auto along = [](int axis, float sign) {
        glm::vec3 way(0.0f);
        way[axis] = sign;
        return way;
    };
    // Side by side over what is free across: through an opening only some of them get.
    constexpr float shares[] = {-0.9f, -0.45f, 0.0f, 0.45f, 0.9f}, most = 6; // metres
    DrawnRoom room;
    for (int axis = 0; axis < 3; ++axis) {
        const int u = (axis + 1) % 3, v = (axis + 2) % 3;
        std::vector<glm::vec3> starts;
        for (const float a : shares)
            for (const float b : shares) {
                glm::vec3 from = eye;
                from[u] += a * std::min(most, clear(eye, along(u, a < 0 ? -1.0f : 1.0f)));
                from[v] += b * std::min(most, clear(from, along(v, b < 0 ? -1.0f : 1.0f)));
                starts.push_back(from);
            }
        for (const float sign : {-1.0f, 1.0f}) {
            std::vector<float> reached;
            for (const glm::vec3& from : starts)
                reached.push_back(std::min(farthest, clear(from, along(axis, sign))));
            const auto middle = reached.begin() + static_cast<std::ptrdiff_t>(reached.size() / 2);
            std::nth_element(reached.begin(), middle, reached.end());
            (sign < 0 ? room.low : room.high)[axis] = eye[axis] + sign * std::max(step, *middle);
        }
    }
    return room;
}

} // namespace mirolux
