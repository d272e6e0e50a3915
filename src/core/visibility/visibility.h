#pragma once
#include "core/plan/settings.h"
#include "core/plan/view.h"

// What of a scene is drawn from here: which objects a frame leaves out because something stands before them.
namespace mirolux {

enum class VisibilityKind {
    frustum, // all that the view's frustum touches
    cells,   // what was found visible from the eye's cell beforehand (cells.h)
    portals, // what is seen from the eye\'s room through open doors (rooms.h)
    depth,   // what the depth of the objects seen last does not hide
    queries  // the same, by the device's occlusion queries
};
VisibilityKind visibility_kind(const Setup& setup);

/// Whether visibility is found on the device, by passes of the frame. Not where the frame draws both eyes, or several
/// samples a pixel: then nothing is left out, and the plan says so.
bool found_on_device(const Setup& setup, const View& view);

/// What hides what lies behind it beforehand, by object: what stands still (movers), is drawn, is not seen through, and
/// is at least `visibility.occluder` across. A door's leaf never is one.
struct Stillness {
    std::vector<bool> still; // stands still
    std::vector<bool> hides;
};
Stillness stillness_of(const Scene& scene, const Setup& setup);

/// Resources of the passes that find visibility on the device.
inline constexpr const char* occluder_depth_resource = "occluder depth";
inline constexpr const char* occluder_pyramid_resource = "occluder pyramid";

/// FrameRecord::told of them: objects drawn, and those that the frustum touches.
inline constexpr const char* told_visible = "visibility.drawn";

/// The levels of a pyramid over a picture: each texel of the first holds the farthest depth of 4x4 pixels, each of the
/// next ones of 2x2 texels of the one before; sizes are rounded up, the last one is 1x1.
struct PyramidLevel {
    int width = 0, height = 0;
    std::size_t first = 0; // word in the buffer
};
std::vector<PyramidLevel> pyramid_levels(int width, int height);

} // namespace mirolux
