#pragma once
#include "core/cost/frame_record.h"
#include "core/visibility/rooms.h"

// What an eye's frame draws, seen from outside.
namespace mirolux {

struct OutsideQuestion {
    Scene scene;
    Setup setup;
    View inside;  // whose frame it is
    View outside; // from where it is looked at; what lies before its near plane is cut away
};

struct OutsideAnswer {
    std::vector<bool> drawn; // by object
    std::vector<bool> seen;  // a pixel shows it, to the eye or to one a hand's breadth beside it
    int inFrustum = 0, drawnCount = 0, drawnUnseen = 0, leftOutSeen = 0, lightsBehind = 0;
    std::string note;        // why nothing is left out; empty: as much as can be is
    std::optional<Box> cell; // the eye's, by cells
    Sight sight;             // by portals
    ByteImage picture;       // of what is drawn, from outside
};

/// Renders the eye's frame for what it draws, five frames for what shows, and the picture from outside. Errors: the
/// session's.
Result<OutsideAnswer> look_from_outside(RenderSession& session, const OutsideQuestion& question);

/// A camera above a place, looking down at it from a little aside, whose near plane cuts away what lies higher than
/// `section` metres.
Camera outside_camera(const glm::vec3& over, float distance, float turn, float pitch, float section);

} // namespace mirolux
