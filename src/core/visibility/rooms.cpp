#include "core/visibility/rooms.h"
#include "core/base/parallel.h"
#include "core/base/recent.h"
#include "core/base/text.h"
#include "core/rays/ray_scene.h"
#include <algorithm>
#include <deque>
#include <map>
#include <random>
#include <set>

namespace mirolux {

namespace {

constexpr std::uint16_t unknown = 0xFFFF, outside = 0xFFFE;
constexpr double most_room_cells = 8e6;
constexpr float around_doors = 15; // metres that rooms may reach from a door

/// Fills space from the doors' sides.
class Filling {
public:
    Filling(const Scene& scene, const Setup& setup, const std::atomic<bool>* stop)
        : scene_(scene), rays_(scene), stillness_(stillness_of(scene, setup)), stop_(stop) {
        out_.edge = static_cast<float>(setup.number("visibility.roomCell"));
        out_.digest = rooms_digest(scene, setup);
    }

    Result<Rooms> fill() {
        const auto start = std::chrono::steady_clock::now();
        if (scene_.doors.empty())
            return fail("there are no doors", "visibility.kind", "Place one in each opening between two rooms.");
        if (auto ok = lay_out(); !ok) return tl::unexpected(ok.error());
        fill_drawn();
        flood_outside();
        for (const Door& d : scene_.doors) {
            const int front = side(d, 1), back = side(d, -1);
            if (stop_ && *stop_) return fail("stopped", "rooms", "");
            if (front < 0 || back < 0) {
                out_.remarks.push_back(d.name + " has no room on " +
                                       (front < 0 && back < 0 ? "either side" : "one side") +
                                       ": it stands within something.");
                continue;
            }
            if (front == back)
                out_.remarks.push_back(d.name + " has the same room on both sides: no wall stands around it, or there "
                                                "is another way that no door marks.");
            out_.doors.push_back({d.id, front, back});
        }
        settle();
        if (auto ok = look_for_gaps(); !ok) return tl::unexpected(ok.error());
        for (const Object& o : scene_.objects())
            out_.ofObject.push_back(out_.rooms_of(o.bounds));
        out_.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        return std::move(out_);
    }

private:
    Result<void> lay_out() {
        Box around;
        for (const Door& d : scene_.doors) {
            around.add(d.center - glm::vec3(around_doors));
            around.add(d.center + glm::vec3(around_doors));
        }
        for (const DrawnRoom& room : scene_.drawnRooms) {
            around.add(room.low - out_.edge);
            around.add(room.high + out_.edge);
        }
        const Box& b = scene_.bounds();
        around.low = glm::max(around.low, b.low - 1.0f);
        around.high = glm::min(around.high, b.high + 1.0f);
        if (glm::any(glm::lessThan(around.high, around.low)))
            return fail("the doors lie outside the scene", "doors", "Place them in openings of its walls.");
        const CellPlace low = cell_place(around.low, out_.edge), high = cell_place(around.high, out_.edge);
        out_.low = low;
        out_.count = glm::ivec3(high.x - low.x + 1, high.y - low.y + 1, high.z - low.z + 1);
        const double cells = double(out_.count.x) * double(out_.count.y) * double(out_.count.z);
        if (cells > most_room_cells)
            return fail("the space around the doors holds " + std::to_string(static_cast<long long>(cells)) +
                            " cells, more than eight million",
                        "visibility.roomCell", "Take larger cells.");
        out_.room.assign(static_cast<std::size_t>(cells), unknown);
        return {};
    }
    std::size_t at(const glm::ivec3& c) const {
        return (static_cast<std::size_t>(c.z) * static_cast<std::size_t>(out_.count.y) +
                static_cast<std::size_t>(c.y)) *
                   static_cast<std::size_t>(out_.count.x) +
               static_cast<std::size_t>(c.x);
    }
    bool inside(const glm::ivec3& c) const {
        return glm::all(glm::greaterThanEqual(c, glm::ivec3(0))) && glm::all(glm::lessThan(c, out_.count));
    }
    glm::vec3 middle(const glm::ivec3& c) const {
        return out_.edge * (glm::vec3(c) + glm::vec3(out_.low.x, out_.low.y, out_.low.z) + 0.5f);
    }
    glm::ivec3 place(const glm::vec3& p) const {
        const CellPlace c = cell_place(p, out_.edge);
        return {c.x - out_.low.x, c.y - out_.low.y, c.z - out_.low.z};
    }
    /// Nothing that hides lies between, seen from the first point, and no door.
    bool free_way(const glm::vec3& from, const glm::vec3& to) const {
        return nothing_between(from, to, true) && no_door_between(from, to);
    }
    bool no_door_between(const glm::vec3& from, const glm::vec3& to) const {
        return std::none_of(scene_.doors.begin(), scene_.doors.end(),
                            [&](const Door& d) { return leads_through(d, from, to); });
    }
    /// seen: surfaces count from their front only.
    bool nothing_between(const glm::vec3& from, const glm::vec3& to, bool seen) const {
        const glm::vec3 way = to - from;
        const float far = glm::length(way);
        float begin = 0;
        for (int step = 0; step < 64; ++step) {
            const RayHit hit = rays_.any_surface({from, way / far}, begin, seen);
            if (hit.object < 0 || hit.distance > far) break;
            if (stillness_.hides[static_cast<std::size_t>(hit.object)]) return false;
            begin = hit.distance + 1e-4f;
        }
        return true;
    }
    /// Fills from beside a door; the room's number, 0 outside; under 0: there is no free place.
    int side(const Door& d, float sign) {
        const glm::vec3 n = sign * plane_of(d).normal;
        for (const float away : {0.5f, 0.35f, 0.75f, 1.0f}) {
            const glm::vec3 from = d.center + 1e-3f * n, p = d.center + away * n;
            if (!nothing_between(from, p, false)) continue;
            const glm::ivec3 c = place(p);
            if (!inside(c) || glm::dot(middle(c) - d.center, n) <= 0) continue;
            if (!nothing_between(p, middle(c), false)) continue;
            return flood(c);
        }
        return -1;
    }
    static constexpr glm::ivec3 ways[] = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
    /// From a cell on: through all cells of no number yet that `passes` lets in.
    template <class Passes>
    void spread(std::deque<glm::ivec3> open, std::uint16_t number, const Passes& passes) {
        while (!open.empty() && !(stop_ && *stop_)) {
            const glm::ivec3 c = open.front();
            open.pop_front();
            for (const glm::ivec3& w : ways) {
                const glm::ivec3 next = c + w;
                if (!inside(next) || out_.room[at(next)] != unknown || !passes(middle(c), middle(next))) continue;
                out_.room[at(next)] = number;
                open.push_back(next);
            }
        }
    }
    /// Within something closed: most ways out meet a surface from behind.
    bool within_something(const glm::vec3& p) const {
        int behind = 0;
        for (const glm::ivec3& w : ways) {
            const RayHit hit = rays_.any_surface({p, glm::vec3(w)}, 0, false);
            behind += hit.object >= 0 && !hit.front && stillness_.hides[static_cast<std::size_t>(hit.object)];
        }
        return behind >= 5;
    }
    /// Rooms drawn by hand come first; of space that two share the first has it.
    void fill_drawn() {
        for (const DrawnRoom& room : scene_.drawnRooms) {
            const auto number = static_cast<std::uint16_t>(++out_.rooms);
            out_.names.push_back(room.name);
            const glm::ivec3 low = glm::max(place(room.low), glm::ivec3(0)),
                             high = glm::min(place(room.high), out_.count - 1);
            bool any = false;
            glm::ivec3 c;
            for (c.z = low.z; c.z <= high.z; ++c.z)
                for (c.y = low.y; c.y <= high.y; ++c.y)
                    for (c.x = low.x; c.x <= high.x && !(stop_ && *stop_); ++c.x) {
                        const glm::vec3 at_middle = middle(c);
                        if (out_.room[at(c)] != unknown || glm::any(glm::lessThan(at_middle, room.low)) ||
                            glm::any(glm::greaterThan(at_middle, room.high)) || within_something(at_middle) ||
                            within_one_thing(at_middle))
                            continue;
                        out_.room[at(c)] = number;
                        any = true;
                    }
            if (!any)
                out_.remarks.push_back(room.name + " has no free space of its own: it lies within something, or in "
                                                   "another room that was drawn before it.");
        }
    }
    /// Within one thing: to both sides along an axis its surface shows its back. Where things touch, the other ways may
    /// meet their neighbours first.
    bool within_one_thing(const glm::vec3& p) const {
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const RayHit a = rays_.any_surface({p, glm::vec3(ways[2 * axis])}, 0, false);
            if (a.object < 0 || a.front || !stillness_.hides[static_cast<std::size_t>(a.object)]) continue;
            const RayHit b = rays_.any_surface({p, glm::vec3(ways[2 * axis + 1])}, 0, false);
            if (b.object == a.object && !b.front) return true;
        }
        return false;
    }
    /// From the end of the space that is looked at inward, as far as no wall stands, whichever side it shows.
    void flood_outside() {
        std::deque<glm::ivec3> open;
        glm::ivec3 c;
        for (c.z = 0; c.z < out_.count.z; ++c.z)
            for (c.y = 0; c.y < out_.count.y; ++c.y)
                for (c.x = 0; c.x < out_.count.x; ++c.x) {
                    const bool rim = glm::any(glm::equal(c, glm::ivec3(0))) || glm::any(glm::equal(c, out_.count - 1));
                    if (!rim) {
                        c.x = std::max(c.x, out_.count.x - 2); // the other end of the row
                        continue;
                    }
                    if (out_.room[at(c)] != unknown || within_something(middle(c))) continue;
                    out_.room[at(c)] = outside;
                    open.push_back(c);
                }
        spread(std::move(open), outside, [&](const glm::vec3& from, const glm::vec3& to) {
            return nothing_between(from, to, false) && no_door_between(from, to);
        });
    }
    int flood(const glm::ivec3& from) {
        const std::uint16_t before = out_.room[at(from)];
        if (before == outside) return 0;
        if (before != unknown) return before;
        const auto number = static_cast<std::uint16_t>(++out_.rooms);
        out_.room[at(from)] = number;
        spread({from}, number, [&](const glm::vec3& a, const glm::vec3& b) { return free_way(a, b); });
        return number;
    }
    void settle() {
        out_.middles.assign(static_cast<std::size_t>(out_.rooms) + 1, glm::vec3(0.0f));
        std::vector<double> n(out_.middles.size(), 0);
        std::vector<glm::dvec3> sum(out_.middles.size(), glm::dvec3(0.0));
        glm::ivec3 c;
        for (c.z = 0; c.z < out_.count.z; ++c.z)
            for (c.y = 0; c.y < out_.count.y; ++c.y)
                for (c.x = 0; c.x < out_.count.x; ++c.x) {
                    std::uint16_t& r = out_.room[at(c)];
                    if (r == outside) r = 0;
                    if (r == unknown) {
                        r = Rooms::nowhere;
                        continue;
                    }
                    sum[r] += glm::dvec3(middle(c));
                    ++n[r];
                }
        for (std::size_t r = 1; r < n.size(); ++r)
            out_.middles[r] = glm::vec3(sum[r] / std::max(1.0, n[r]));
    }
    /// Between cells that touch, and along rays all over each room: what gets from one room into another where no door
    /// is.
    Result<void> look_for_gaps() {
        std::map<std::tuple<int, int, int>, std::size_t> known; // into gaps, by rooms and direction
        const auto found = [&](int from, int to, int direction, const glm::vec3& at, const glm::vec3& where) {
            if (from == to) return;
            const auto [it, fresh] = known.insert({{from, to, direction}, out_.gaps.size()});
            if (fresh) out_.gaps.push_back({from, to, false, direction < 0 ? glm::ivec3(0) : ways[direction], {}});
            Gap& g = out_.gaps[it->second];
            g.open = g.open || nothing_between(at, where, false);
            g.area.add(where - 0.5f * out_.edge);
            g.area.add(where + 0.5f * out_.edge);
        };
        std::vector<std::vector<glm::ivec3>> cells(static_cast<std::size_t>(out_.rooms) + 1);
        glm::ivec3 c;
        for (c.z = 0; c.z < out_.count.z; ++c.z) {
            if (stop_ && *stop_) return fail("stopped", "rooms", "");
            for (c.y = 0; c.y < out_.count.y; ++c.y)
                for (c.x = 0; c.x < out_.count.x; ++c.x) {
                    const int own = out_.room[at(c)];
                    if (own > 0 && own != Rooms::nowhere) cells[static_cast<std::size_t>(own)].push_back(c);
                    for (int d = 0; d < 6; ++d) {
                        const glm::ivec3 next = c + ways[d];
                        if (own == Rooms::nowhere || !inside(next)) continue;
                        const int other = out_.room[at(next)];
                        if (other != own && other != Rooms::nowhere && free_way(middle(c), middle(next)))
                            found(own, other, d, middle(c), 0.5f * (middle(c) + middle(next)));
                    }
                }
        }
        std::mt19937 random(7);
        const auto part = [&] { return static_cast<float>(random() >> 8) / 16777216.0f; };
        for (int room = 1; room <= out_.rooms; ++room) {
            const auto& own = cells[static_cast<std::size_t>(room)];
            for (int ray = 0; ray < 4000 && !own.empty(); ++ray) {
                const float y = 1 - 2 * part(), r = std::sqrt(std::max(0.0f, 1 - y * y)), phi = 6.2831853f * part();
                follow(room, middle(own[random() % own.size()]), {r * std::cos(phi), y, r * std::sin(phi)}, found);
            }
        }
        std::set<std::pair<int, int>> told;
        std::set<int> bared; // whose walls, floor or roof show what lies within to an eye outside
        for (const Gap& g : out_.gaps) {
            if (g.from == 0 && !g.open) bared.insert(g.to);
            if ((g.from == 0 && !g.open) || !told.insert({g.from, g.to}).second) continue;
            const glm::vec3 at = g.area.center();
            out_.remarks.push_back(name_of(g.to) + " is seen from " + (g.from == 0 ? "the outside" : name_of(g.from)) +
                                   (g.open ? " where no door is, near " : " through the back of a wall, near ") +
                                   number_text(at.x, 3) + ", " + number_text(at.y, 3) + ", " + number_text(at.z, 3) +
                                   ".");
        }
        if (!bared.empty())
            out_.remarks.push_back(
                "Of " + std::to_string(bared.size()) + (bared.size() == 1 ? " room" : " rooms") +
                " a wall, floor or roof is seen from inside only: from outside they show through it.");
        return {};
    }
    std::string name_of(int room) const {
        const auto drawn = static_cast<std::size_t>(room) - 1;
        return room == 0                   ? "The outside"
               : drawn < out_.names.size() ? "\"" + out_.names[drawn] + "\""
                                           : "Room " + std::to_string(room);
    }
    /// Along a ray until something hides what lies behind: rooms change only where it leads through a door.
    template <class Found>
    void follow(int room, const glm::vec3& from, const glm::vec3& direction, const Found& found) {
        float begin = 0, far = around_doors * 2;
        for (int step = 0; step < 64; ++step) {
            const RayHit hit = rays_.any_surface({from, direction}, begin, true);
            if (hit.object < 0) break;
            if (stillness_.hides[static_cast<std::size_t>(hit.object)]) {
                far = hit.distance;
                break;
            }
            begin = hit.distance + 1e-4f;
        }
        std::set<int> may{room}; // where a way through the doors so far may have led
        glm::vec3 last = from;
        const float step = 0.5f * out_.edge;
        for (float t = step; t < far - out_.edge; t += step) { // the last cell may lie across what was met
            const glm::vec3 now = from + t * direction;
            for (const Rooms::Between& b : out_.doors)
                if (may.count(b.front) || may.count(b.back))
                    for (const Door& d : scene_.doors)
                        if (d.id == b.door && leads_through(d, last, now)) {
                            may.insert(b.front);
                            may.insert(b.back);
                        }
            last = now;
            const glm::ivec3 c = place(now);
            if (!inside(c)) { // into the open
                if (may.count(0) == 0) found(room, 0, -1, from, now);
                return;
            }
            const int label = out_.room[at(c)];
            // Within walls; or in a cell that lies across a door.
            if (label == Rooms::nowhere || may.count(label) ||
                std::any_of(scene_.doors.begin(), scene_.doors.end(), [&](const Door& d) {
                    const glm::vec3 n = out_.edge * plane_of(d).normal;
                    return leads_through(d, now - n, now + n);
                }))
                continue;
            found(room, label, -1, from, now);
            return;
        }
    }

    const Scene& scene_;
    RayScene rays_;
    Stillness stillness_;
    const std::atomic<bool>* stop_;
    Rooms out_;
};

} // namespace

int Rooms::room_at(const glm::vec3& point) const {
    const CellPlace p = cell_place(point, edge);
    const glm::ivec3 c(p.x - low.x, p.y - low.y, p.z - low.z);
    if (glm::any(glm::lessThan(c, glm::ivec3(0))) || glm::any(glm::greaterThanEqual(c, count))) return 0;
    const std::uint16_t own =
        room[(static_cast<std::size_t>(c.z) * static_cast<std::size_t>(count.y) + static_cast<std::size_t>(c.y)) *
                 static_cast<std::size_t>(count.x) +
             static_cast<std::size_t>(c.x)];
    return own == nowhere ? -1 : own;
}

std::vector<int> Rooms::rooms_near(const glm::vec3& point) const {
    std::set<int> out;
    for (int z = -1; z <= 1; ++z)
        for (int y = -1; y <= 1; ++y)
            for (int x = -1; x <= 1; ++x)
                if (const int r = room_at(point + edge * glm::vec3(x, y, z)); r >= 0) out.insert(r);
    if (out.empty()) out.insert(0);
    return {out.begin(), out.end()};
}

std::vector<std::uint16_t> Rooms::rooms_of(const Box& box) const {
    // A cell more on each side: what stands in a wall is seen from both sides.
    const CellPlace from = cell_place(box.low - edge, edge), to = cell_place(box.high + edge, edge);
    std::vector<bool> touched(static_cast<std::size_t>(rooms) + 1, false);
    const glm::ivec3 a(from.x - low.x, from.y - low.y, from.z - low.z), b(to.x - low.x, to.y - low.y, to.z - low.z);
    if (glm::any(glm::lessThan(a, glm::ivec3(0))) || glm::any(glm::greaterThanEqual(b, count))) touched[0] = true;
    const glm::ivec3 first = glm::max(a, glm::ivec3(0)), last = glm::min(b, count - 1);
    for (int z = first.z; z <= last.z; ++z)
        for (int y = first.y; y <= last.y; ++y) {
            const std::size_t row =
                (static_cast<std::size_t>(z) * static_cast<std::size_t>(count.y) + static_cast<std::size_t>(y)) *
                static_cast<std::size_t>(count.x);
            for (int x = first.x; x <= last.x; ++x)
                if (const std::uint16_t r = room[row + static_cast<std::size_t>(x)]; r != nowhere) touched[r] = true;
        }
    std::vector<std::uint16_t> out;
    for (std::size_t r = 0; r < touched.size(); ++r)
        if (touched[r]) out.push_back(static_cast<std::uint16_t>(r));
    if (out.empty()) out.push_back(0); // all of it lies within walls
    return out;
}

std::size_t Rooms::bytes() const {
    std::size_t n = room.size() * 2 + doors.size() * sizeof(Between) + gaps.size() * sizeof(Gap);
    for (const auto& of : ofObject)
        n += of.size() * 2;
    return n;
}

std::string rooms_digest(const Scene& scene, const Setup& setup) {
    Digest d;
    const auto add = [&](const auto& value) { d.add(&value, sizeof value); };
    add(setup.number("visibility.roomCell"));
    const std::string still = still_digest(scene, setup);
    d.add(still.data(), still.size());
    for (const Door& door : scene.doors) {
        add(door.id);
        add(door.center);
        add(door.size);
        add(door.turn);
        d.add(door.object.data(), door.object.size());
    }
    for (const DrawnRoom& room : scene.drawnRooms) {
        add(room.low);
        add(room.high);
        d.add(room.name.data(), room.name.size()); // remarks have it
    }
    return d.hex();
}

Result<Rooms> find_rooms(const Scene& scene, const Setup& setup, const std::atomic<bool>* stop) {
    return Filling(scene, setup, stop).fill();
}

} // namespace mirolux
