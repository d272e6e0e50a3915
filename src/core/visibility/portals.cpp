#include "core/scene/object_edit.h"
#include "core/visibility/rooms.h"
#include <algorithm>

namespace mirolux {

DoorPlane plane_of(const Door& door, float share) {
    const glm::vec3 across(std::cos(door.turn), 0, -std::sin(door.turn)), up(0, 1, 0);
    const glm::vec3 low = door.center - 0.5f * door.size.y * up, half = 0.5f * door.size.x * across;
    const glm::vec3 top = share * door.size.y * up;
    return {{low - half, low + half, low + half + top, low - half + top},
            {std::sin(door.turn), 0, std::cos(door.turn)}};
}

bool leads_through(const Door& door, const glm::vec3& from, const glm::vec3& to) {
    const glm::vec3 n(std::sin(door.turn), 0, std::cos(door.turn));
    const float a = glm::dot(from - door.center, n), b = glm::dot(to - door.center, n);
    if ((a >= 0) == (b >= 0)) return false;
    const glm::vec3 at = from + (to - from) * (a / (a - b)) - door.center;
    const float room = 0.05f; // metres: frames are seldom exact
    const float across = at.x * std::cos(door.turn) - at.z * std::sin(door.turn);
    return std::abs(across) <= 0.5f * door.size.x + room && std::abs(at.y) <= 0.5f * door.size.y + room;
}

double open_share(const Scene& scene, const Door& door) {
    if (door.object.empty()) return door.open;
    const SceneAsset& asset = *scene.asset;
    for (std::size_t i = 0; i < asset.objectNames.size() && i < asset.objects.size(); ++i)
        if (asset.objectNames[i].id == door.object) {
            const glm::vec3 gone = scene.objects()[i].bounds.center() - asset.objects[i].bounds.center();
            const double way = std::clamp(double(glm::length(gone)) / double(door.travel), 0.0, 1.0), at = door.open;
            return at >= 0.5 ? at * (1 - way) : at + (1 - at) * way;
        }
    return door.open;
}

Window shared_part(const Window& a, const Window& b) {
    return {glm::max(a.low, b.low), glm::min(a.high, b.high)};
}

Window window_of(const glm::mat4& viewProjection, const Box& box) {
    Window w{glm::vec2(3.4e38f), glm::vec2(-3.4e38f)};
    for (int k = 0; k < 8; ++k) {
        const glm::vec3 corner(k & 1 ? box.high.x : box.low.x, k & 2 ? box.high.y : box.low.y,
                               k & 4 ? box.high.z : box.low.z);
        const glm::vec4 clip = viewProjection * glm::vec4(corner, 1);
        if (clip.w <= clip.z) return {}; // before the near plane
        const glm::vec2 at = glm::vec2(clip) / clip.w;
        w.low = glm::min(w.low, at);
        w.high = glm::max(w.high, at);
    }
    return w;
}

bool Sight::sees(int room, const Window& part) const {
    for (const Window& w : windows[static_cast<std::size_t>(room)])
        if (!shared_part(w, part).empty()) return true;
    return false;
}

namespace {

/// The window that holds what lies before the near plane of a polygon; none where nothing does.
std::optional<Window> window_of(const glm::mat4& viewProjection, const DoorPlane& plane) {
    std::vector<glm::vec4> clip, kept;
    for (const glm::vec3& c : plane.corners)
        clip.push_back(viewProjection * glm::vec4(c, 1));
    for (std::size_t i = 0; i < clip.size(); ++i) { // J. Sutherland and G. Hodgman, Reentrant polygon clipping, 1974
        const glm::vec4 &a = clip[i], &b = clip[(i + 1) % clip.size()];
        const float da = a.w - a.z, db = b.w - b.z; // reversed depth: before the near plane under 0
        if (da > 0) kept.push_back(a);
        if ((da > 0) != (db > 0)) kept.push_back(a + (b - a) * (da / (da - db)));
    }
    if (kept.empty()) return std::nullopt;
    Window w{glm::vec2(3.4e38f), glm::vec2(-3.4e38f)};
    for (const glm::vec4& k : kept) {
        const glm::vec2 at = glm::vec2(k) / std::max(k.w, 1e-6f);
        w.low = glm::min(w.low, at);
        w.high = glm::max(w.high, at);
    }
    const glm::vec2 room(1e-3f); // of rounding
    w.low -= room;
    w.high += room;
    return w;
}

float distance_to(const DoorPlane& p, const glm::vec3& point) {
    const glm::vec3 u = p.corners[1] - p.corners[0], v = p.corners[3] - p.corners[0];
    const float s = std::clamp(glm::dot(point - p.corners[0], u) / glm::dot(u, u), 0.0f, 1.0f),
                t = std::clamp(glm::dot(point - p.corners[0], v) / glm::dot(v, v), 0.0f, 1.0f);
    return glm::length(p.corners[0] + s * u + t * v - point);
}

/// A door that lets something through, with its rooms.
struct Open {
    const Door* door;
    Rooms::Between between;
    DoorPlane plane;
};

std::vector<Open> open_doors(const Rooms& rooms, const Scene& scene) {
    std::vector<Open> out;
    for (const Rooms::Between& b : rooms.doors)
        for (const Door& d : scene.doors) {
            const double share = d.id == b.door ? open_share(scene, d) : 0;
            if (share < 1e-3) continue;
            // What moves in it may leave any part of it open; by itself it opens from below.
            out.push_back({&d, b, plane_of(d, d.object.empty() ? static_cast<float>(share) : 1.0f)});
        }
    return out;
}

class Looking {
public:
    Looking(const Rooms& rooms, const Scene& scene, const View& view)
        : rooms_(rooms), doors_(open_doors(rooms, scene)), eye_(view.camera.eye), near_(4 * view.camera.near + 0.05f),
          matrix_(projection_matrix(view.camera, aspect_of(view)) * view_matrix(view.camera)) {
        sight_.windows.resize(static_cast<std::size_t>(rooms.rooms) + 1);
    }
    Sight from_eye() {
        std::vector<int> start = rooms_.rooms_near(eye_);
        for (const int room : start)
            enter(room, {});
        return std::move(sight_);
    }

private:
    bool shows_already(int room, const Window& window) const {
        const std::vector<Window>& seen = sight_.windows[static_cast<std::size_t>(room)];
        return std::any_of(seen.begin(), seen.end(), [&](const Window& w) {
            return w.low.x <= window.low.x && w.low.y <= window.low.y && w.high.x >= window.high.x &&
                   w.high.y >= window.high.y;
        });
    }
    void enter(int room, const Window& window) {
        if (shows_already(room, window)) return;
        std::vector<Window>& seen = sight_.windows[static_cast<std::size_t>(room)];
        seen.push_back(window);
        if (seen.size() > 64) { // too many to be worth it: all of them as one
            Window all = window;
            for (const Window& w : seen)
                all = {glm::min(all.low, w.low), glm::max(all.high, w.high)};
            seen.assign(1, all);
        }
        for (const Gap& g : rooms_.gaps) {
            if (g.from != room) continue;
            if (g.way == glm::ivec3(0)) { // a ray's: there may be more of it elsewhere
                enter(g.to, window);
                continue;
            }
            const int axis = g.way.x != 0 ? 0 : g.way.y != 0 ? 1 : 2;
            const bool ahead = g.way[axis] > 0 ? g.area.high[axis] > eye_[axis] : g.area.low[axis] < eye_[axis];
            if (const Window through = shared_part(window, window_of(matrix_, g.area)); ahead && !through.empty())
                enter(g.to, through);
        }
        for (const Open& o : doors_) {
            if (o.between.front != room && o.between.back != room) continue;
            const int to = o.between.front == room ? o.between.back : o.between.front;
            Window through = window;
            if (distance_to(o.plane, eye_) > near_) {
                const auto own = window_of(matrix_, o.plane);
                if (!own) continue;
                through = shared_part(window, *own);
                if (through.empty()) continue;
            }
            if (shows_already(to, through)) continue;
            sight_.chain.push_back({o.door->id, to, through});
            enter(to, through);
        }
    }

    const Rooms& rooms_;
    std::vector<Open> doors_;
    glm::vec3 eye_;
    float near_;
    glm::mat4 matrix_;
    Sight sight_;
};

} // namespace

Sight look_through_doors(const Rooms& rooms, const Scene& scene, const View& view) {
    return Looking(rooms, scene, view).from_eye();
}

std::vector<bool> lit_rooms(const Rooms& rooms, const Scene& scene, const glm::vec3& from, float reach) {
    std::vector<bool> lit(static_cast<std::size_t>(rooms.rooms) + 1, false);
    std::vector<int> open = rooms.rooms_near(from);
    for (const int room : open)
        lit[static_cast<std::size_t>(room)] = true;
    const std::vector<Open> doors = open_doors(rooms, scene);
    const auto take = [&](int room) {
        if (lit[static_cast<std::size_t>(room)]) return;
        lit[static_cast<std::size_t>(room)] = true;
        open.push_back(room);
    };
    while (!open.empty()) {
        const int room = open.back();
        open.pop_back();
        for (const Gap& g : rooms.gaps) // a wall stops light from both sides
            if (g.open && (g.from == room || g.to == room)) take(g.from == room ? g.to : g.from);
        for (const Open& o : doors)
            if ((o.between.front == room || o.between.back == room) && distance_to(o.plane, from) <= reach)
                take(o.between.front == room ? o.between.back : o.between.front);
    }
    return lit;
}

} // namespace mirolux
