#pragma once
#include "core/plan/camera_motion.h"
#include "core/scene/object_edit.h"

namespace mirolux {

/// What a person takes hold of in the picture to place what is selected.
enum class PlaceHandle { ground, axisX, axisY, axisZ, turnX, turnY, turnZ, size, sizeX, sizeY, sizeZ };
const char* word(PlaceHandle kind);

/// Where a selection stands: its middle, and for a single object the axes of its box, half as long as its sides.
struct PlaceFrame {
    glm::vec3 pivot{0.0f};
    bool single = false;
    glm::vec3 axes[3]{};  // metres, world; of a single object
    glm::vec3 foot{0.0f}; // what comes to lie on a grid: the middle of a single object's underside, else the pivot
};
/// Of one object: its box as the file has it, carried along by the edit.
PlaceFrame frame_of(const Box& inFile, const ObjectEdit& edit);

struct PlacedHandle {
    PlaceHandle kind;
    glm::vec3 position; // world, metres
};

/// The handles as the view sees them: arms, arcs and the common size keep their size on screen, the sides of a single
/// object's box are where they are.
std::vector<PlacedHandle> handles_of(const PlaceFrame& frame, const View& view);

/// Where drags stop. 0: anywhere.
struct Snap {
    float grid = 0.0f;    // metres: the foot's coordinates that a move changes, and a box's sides, are whole multiples
    float angle = 0.0f;   // radians: turns are whole multiples
    bool tenths = false;  // sizes are whole tenths of what they were
    bool surface = false; // what is moved on the ground stands on what the pointer meets
};

/// What a drag from one ray to another does: a placement, and for the sides of a box factors along its axes about the
/// opposite side.
struct PlaceDrag {
    Placement placement;
    glm::vec3 factors{1.0f};
};
PlaceDrag dragged(const PlaceFrame& start, PlaceHandle kind, const View& view, const Ray& from, const Ray& to,
                  const Snap& snap = {});

/// An edit under a drag that began when it was `start`.
ObjectEdit placed_by(const ObjectEdit& start, const PlaceDrag& drag);
/// A light carried along: its place and its axis; what it gives and how far stays.
Light placed_by(const Light& start, const PlaceDrag& drag);

} // namespace mirolux
