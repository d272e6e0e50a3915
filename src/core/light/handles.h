#pragma once
#include "core/plan/camera_motion.h"

namespace mirolux {

/// What a person takes hold of in the picture to change a light.
enum class HandleKind { ground, axisX, axisY, axisZ, aim, range, outerCone, innerCone, fadeInner, fadeOuter, end };
const char* word(HandleKind kind);

struct Handle {
    HandleKind kind;
    glm::vec3 position; // world, metres
};

/// The handles of a light as the view sees it; axis arms and the aim keep their size on screen. Range handles only
/// where there is a range; `reach` stands in for an unbounded light's.
std::vector<Handle> handles_of(const Light& light, const View& view, float reach);

/// The light after its handle was dragged from one ray to another. `start` is the light when the drag began. `surface`:
/// the point under the second ray, if any: aims turn to it. Angles stay inside glTF's limits, ranges over 0.1 m.
Light dragged(const Light& start, HandleKind kind, const View& view, const Ray& from, const Ray& to,
              const std::optional<glm::vec3>& surface, float reach);

/// Unit vector across the light's axis that lies flat in the picture: the side on which cone and range handles sit.
glm::vec3 handle_side(const Light& light, const View& view);

/// Level, across the picture: where the handles of a light's own fade lie on their rings.
glm::vec3 fade_side(const Light& light, const View& view);

} // namespace mirolux
