#pragma once
#include "core/cost/frame_record.h"
#include "core/scene/project.h"
#include "core/visibility/visibility.h"
#include <functional>

namespace mirolux {

/// An object that shows in a picture from which it was left out.
struct MissingObject {
    int object = -1; // into Scene::objects()
    std::size_t view = 0;
    std::uint32_t pixels = 0;
};

/// What is drawn held against what shows: an object-frame is one object in one picture.
struct VisibilityAudit {
    std::uint64_t frames = 0;
    std::uint64_t inFrustum = 0; // object-frames that the frustum alone would draw
    std::uint64_t drawn = 0, seen = 0;
    std::uint64_t missing = 0;          // at least a pixel shows, and it was not drawn
    std::uint64_t surplus = 0;          // drawn, and no pixel shows
    std::vector<MissingObject> worst{}; // of the missing ones, those of most pixels first; 32 at most
    std::vector<std::string> notes{};   // why nothing was left out somewhere, each once
    bool stopped = false;

    std::uint32_t most_pixels() const { return worst.empty() ? 0 : worst.front().pixels; }
};

/// What pictures of an audit are rendered with: the setup's visibility, and nothing else that takes time.
Setup visibility_setup(const Setup& setup);

/// The scene without what shines.
Scene without_lights(const Scene& scene);

/// Every view in turn, as a sequence of frames, for each of the setups: what was drawn of it against the pixels that
/// each object covers in a picture of the same size of all objects (RenderOptions::seen). `each`: after every view,
/// with the findings so far; false stops. Errors: the session's.
using AuditProgress = std::function<bool(std::size_t done, const std::vector<VisibilityAudit>&)>;
Result<std::vector<VisibilityAudit>> audit_visibility(RenderSession& session, const Scene& scene,
                                                      const std::vector<Setup>& setups, const std::vector<View>& views,
                                                      const AuditProgress& each = {});

/// The views of a walk: places so far apart, at each so many headings evenly round (0: the walk's own), at the walk's
/// time.
std::vector<View> views_along(const Walk& walk, const View& view, double everyMetres, int headings);

} // namespace mirolux
