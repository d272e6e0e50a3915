#pragma once
#include "session_fixture.h"

namespace mirolux::test {

inline FrameRecord rendered(const Scene& scene, const Setup& setup, const View& view, RenderOptions o) {
    o.picture = false;
    return answer_to(scene, setup, view, o);
}

/// What the frame's shadow leaves of one light.
inline FloatImage shadow_of(const Scene& scene, const Setup& setup, const View& view, int light) {
    RenderOptions o;
    o.light = light;
    o.floatLayers = {"lightshadow"};
    return std::move(rendered(scene, setup, view, o).floats.at("lightshadow"));
}

/// Shadow maps on, full floats, and these.
inline Setup shadowed(std::vector<std::pair<std::string, std::string>> values) {
    values.insert(values.begin(), {{"shadow.maps", "on"}, {"path.targetFormat", "rgba32f"}});
    return setup_with(values);
}

} // namespace mirolux::test
