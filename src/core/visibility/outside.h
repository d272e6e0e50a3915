#pragma once
#include "core/cost/frame_record.h"
#include "core/visibility/rooms.h"

// What an eye's frame draws, seen from outside.
namespace mirolux {

struct OutsideQuestion {
    Scene scene;
    Setup setup;
    View inside;  // whose frame it is, in its full size
    View outside; // from where it is looked at; what lies before its near plane is cut away
};

struct OutsideAnswer {
    std::vector<bool> drawn;   // by object, in the eye's own frame
    std::vector<bool> seen;    // a pixel shows it, to the eye or to one nearby
    std::vector<bool> missing; // a pixel shows it to one of them whose own frame leaves it out
    int eyes = 0, allEyes = 0; // that were counted so far, in full size; 0: a small picture of the eye's own only
    int inFrustum = 0, drawnCount = 0, drawnUnseen = 0, leftOutSeen = 0, lightsBehind = 0;
    std::string note;        // why nothing is left out; empty: as much as can be is
    std::optional<Box> cell; // the eye's, by cells
    Sight sight;             // by portals
    ByteImage picture;       // of what is drawn, from outside
};

/// Renders the eye's frame for what it draws, small at first, and the picture from outside; then frames of the full
/// size from eyes all around within a hand's breadth, each for what it draws and for what shows. `each`: the answer so
/// far, first of the small picture, then after every eye; false ends it there. Errors: the session's.
using OutsideProgress = std::function<bool(const OutsideAnswer&)>;
Result<OutsideAnswer> look_from_outside(RenderSession& session, const OutsideQuestion& question,
                                        const OutsideProgress& each = {});

/// A camera above a place, looking down at it from a little aside, whose near plane cuts away what lies higher than
/// `section` metres.
Camera outside_camera(const glm::vec3& over, float distance, float turn, float pitch, float section);

} // namespace mirolux
