#pragma once
#include "core/image/image.h"
#include "core/rays/ray_scene.h"
#include "core/shadow/shadow_set.h"
#include <functional>

// Shadows as rendered, held against rays: what is missed, what is shadowed falsely, and where.
namespace mirolux {

/// What rays say of one pixel and one light.
struct ShadowPair {
    std::uint32_t pixel = 0; // row by row from the top
    float open = 1;          // traced visibility of the light, 0 to 1
    bool edge = false;       // hard visibility differs within a footprint: no map can tell
    bool near = false;       // what stands between lies close to the surface: missed, the shadow comes off
};

/// Pairs of a light with a map: opaque pixels that face it and would have more of its light than `light.threshold`.
struct TracedLight {
    int light = -1; // into DrawList::lights
    std::vector<ShadowPair> pairs;
};

struct ShadowTruth {
    int width = 0, height = 0;
    std::vector<TracedLight> lights; // in the set's order
    bool complete = false;           // not stopped
};

/// Traces every pair: one ray for a light without size (or whose own shadow is hard), 256 over the source of one that
/// has a size (the first 64 alone where these and nine hard ones agree). footprint: a texel's width on the map plane at
/// the surface's depth over max(N.L, 0.1). every: of pixels in both directions. go_on: told the share done, may stop.
ShadowTruth trace_shadows(const Scene& scene, const Setup& setup, const View& view, const DrawList& draws,
                          const ShadowSet& set, const RayScene& rays, int every = 1,
                          const std::function<bool(double)>& go_on = {});

/// Errors over pairs.
struct ShadowErrors {
    std::uint64_t pairs = 0, edge = 0, penumbra = 0; // all pairs; edge ones; those partly lit
    double missedSum = 0, falseSum = 0, penumbraSum = 0;

    double missed() const { return pairs ? missedSum / static_cast<double>(pairs) : 0; } // shadow that is not there
    double falsely() const { return pairs ? falseSum / static_cast<double>(pairs) : 0; } // shadow that should not be
    double penumbra_error() const { return penumbra ? penumbraSum / static_cast<double>(penumbra) : 0; }
    ShadowErrors& operator+=(const ShadowErrors& other);
};

/// `share`: what the frame's shadow leaves of the light (layer "lightshadow"), first channel.
ShadowErrors shadow_errors(const TracedLight& truth, const FloatImage& share);

/// What is wrong with a pixel's shadow, over all lights: the worst of them.
enum class ShadowFault : std::uint8_t {
    none,
    edge,     // within a footprint of a shadow's edge: not judged
    acne,     // shadow where there is none
    detached, // light where something close by should shade it: the shadow has come off
    leaking   // light where something farther off should shade it
};

/// Adds a light's faults to a picture of them (row by row from the top); those under `least` count as none.
void mark_faults(const TracedLight& truth, const FloatImage& share, double least, std::vector<ShadowFault>& faults);

} // namespace mirolux
