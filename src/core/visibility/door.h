#pragma once
#include <glm/glm.hpp>
#include <string>

namespace mirolux {

/// An opening between two rooms: an upright rectangle. What lies behind it is seen through it, as far as it stands
/// open.
struct Door {
    int id = -1; // unique in a project
    std::string name;
    glm::vec3 center{0.0f};     // metres
    glm::vec2 size{1.0f, 2.0f}; // metres across and up
    float turn = 0.0f;          // radians about the vertical; at 0 it faces +Z
    float open = 1.0f;          // share that stands open, from its bottom up; 0: closed
    std::string object;  // ObjectName::id of its leaf; empty: none. With one, `open` holds where the file has the leaf,
                         // and it opens, or closes, as the leaf goes away from there
    float travel = 2.0f; // metres that the leaf goes from one end to the other

    bool operator==(const Door&) const = default;
};

/// A room drawn by hand: all free space within a box is one room, whatever walls stand around it.
struct DrawnRoom {
    int id = -1; // unique in a project
    std::string name;
    glm::vec3 low{0.0f}, high{0.0f}; // metres

    bool operator==(const DrawnRoom&) const = default;
};
/// One side of it elsewhere, no nearer than 10 cm to the other: side / 2 is the axis, odd ones are the high ends.
inline void move_side(DrawnRoom& room, int side, float to) {
    const int axis = side / 2;
    if (side % 2)
        room.high[axis] = glm::max(to, room.low[axis] + 0.1f);
    else
        room.low[axis] = glm::min(to, room.high[axis] - 0.1f);
}

} // namespace mirolux
