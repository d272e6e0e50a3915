#pragma once
#include "session_fixture.h"
#include "support/flat_scenes.h"

// Flat stages on the device.
namespace mirolux::test {

/// The frame of a flat stage, with what `o` asks for beside it.
inline FrameRecord flat_frame(const FlatStage& s, RenderOptions o = {}) {
    o.fencedSamples = 0;
    o.picture = false;
    auto r = session().render(s.scene, s.setup, s.view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return std::move(*r);
}

/// A layer of it.
inline FloatImage flat_floats(const FlatStage& s, const char* layer) {
    RenderOptions o;
    o.floatLayers = {layer};
    return flat_frame(s, o).floats.at(layer);
}

inline void flat_choose(FlatStage& s, const char* key, const char* value) {
    if (auto ok = s.setup.set_text(key, value); !ok) qFatal("%s", to_text(ok.error()).c_str());
}

} // namespace mirolux::test
