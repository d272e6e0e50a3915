#pragma once
#include "core/base/error.h"
#include "core/visibility/cells.h"
#include <functional>

// Rooms and doors: space is filled from both sides of every door, as far as what stands still and the doors let; what
// is seen from an eye is then only what the chain of open doors shows.
namespace mirolux {

/// A way from one room into another that no door marks: all places where cells that touch let it through in one
/// direction, or one that a ray has found.
struct Gap {
    int from = 0, to = 0;
    bool open = false; // nothing is there; else a wall that is seen from its other side only
    glm::ivec3 way{0}; // along an axis; 0: a ray's, which goes any way
    Box area;          // of those places
};

/// Rooms by small cells. Number 0 is the outside.
struct Rooms {
    struct Between {
        int door = -1;           // Door::id
        int front = 0, back = 0; // rooms on the side that it faces, and behind
    };
    std::string digest;
    float edge = 0.25f;                              // metres
    CellPlace low;                                   // the first cell
    glm::ivec3 count{0};                             // cells
    static constexpr std::uint16_t nowhere = 0xFFFF; // of a cell within walls
    std::vector<std::uint16_t> room;                 // by cell, x fastest, then y
    int rooms = 0;                                   // 1 to rooms; 0 beside
    std::vector<std::string> names;                  // of those that were drawn by hand: the first ones
    std::vector<glm::vec3> middles;                  // of a room's cells; of the outside 0
    std::vector<Between> doors;
    std::vector<Gap> gaps;
    std::vector<std::vector<std::uint16_t>> ofObject; // rooms that touch each object that stands still, ascending
    std::vector<std::string> remarks;
    double seconds = 0; // that it took

    int room_at(const glm::vec3& point) const; // under 0: nowhere
    /// The same, and the rooms of cells that touch the point's: where a cell lies across a wall it may be either.
    std::vector<int> rooms_near(const glm::vec3& point) const;
    /// Rooms that a box touches, ascending; 0 among them where part of it lies in no room.
    std::vector<std::uint16_t> rooms_of(const Box& box) const;
    std::size_t bytes() const;
};

/// A door's upright rectangle.
struct DoorPlane {
    glm::vec3 corners[4]; // low left, low right, high right, high left as one faces its front
    glm::vec3 normal;     // unit, to the side that it faces
};
/// share: of its height, from below.
DoorPlane plane_of(const Door& door, float share = 1.0f);
/// True if the way between two points leads through the door's rectangle.
bool leads_through(const Door& door, const glm::vec3& from, const glm::vec3& to);
/// Share that stands open now: by how far its leaf has gone from where the file has it, or as it is set.
double open_share(const Scene& scene, const Door& door);

/// Digest of all that rooms depend on: what stands still, where doors are, rooms drawn by hand, how small cells are.
/// Not whether doors are open.
std::string rooms_digest(const Scene& scene, const Setup& setup);
/// Takes the rooms drawn by hand, and finds those on both sides of every door. Costs a ray for each face of each cell.
/// Errors: there are no doors; the doors' surroundings hold over eight million cells; stopped.
Result<Rooms> find_rooms(const Scene& scene, const Setup& setup, const std::atomic<bool>* stop = nullptr);

std::filesystem::path rooms_file(const std::filesystem::path& bakes, const std::string& digest);
Result<void> write_rooms(const Rooms& rooms, const std::filesystem::path& file);
Result<Rooms> read_rooms(const std::filesystem::path& file);
/// As cells_of.
std::shared_ptr<const Rooms> rooms_of(const Scene& scene, const Setup& setup, std::string* remark = nullptr);

/// Part of the picture: from -1 to 1 across and up.
struct Window {
    glm::vec2 low{-1.0f}, high{1.0f};
    bool empty() const { return !(low.x < high.x && low.y < high.y); }
};
Window shared_part(const Window& a, const Window& b);
/// The window that holds a box's picture; the whole one where it reaches the near plane.
Window window_of(const glm::mat4& viewProjection, const Box& box);

/// What an eye sees through open doors.
struct Sight {
    std::vector<std::vector<Window>> windows; // by room: where it shows; none: not at all
    struct Through {
        int door = -1; // Door::id
        int to = 0;    // room
        Window window;
    };
    std::vector<Through> chain; // doors in the order that they were looked through

    bool sees(int room) const { return !windows[static_cast<std::size_t>(room)].empty(); }
    bool sees(int room, const Window& part) const;
};
/// From the eye's room through every chain of open doors, each time only as far as the door's picture within the ones
/// before it. A door that the eye all but stands in shows all.
Sight look_through_doors(const Rooms& rooms, const Scene& scene, const View& view);
/// Rooms that light from a place gets into within its reach, through open doors: by room.
std::vector<bool> lit_rooms(const Rooms& rooms, const Scene& scene, const glm::vec3& from, float reach);

} // namespace mirolux
