#pragma once
#include "core/flat/flat_view.h"
#include "core/image/image.h"
#include "core/scene/scene.h"

namespace mirolux::flat {

/// A flat stage as its sheets have it, without light, as the sprites' pass draws it: rows from the top.
struct Painted {
    FloatImage scene, glow;          // linear, three channels
    std::vector<bool> lit, receives; // by pixel: whether light shows on it, whether shadows fall on it
};
/// The asset must hold its pictures; glow is 0 where those of emission are not decoded.
Painted painted(const Scene& scene, const Setup& setup, const View& view);

} // namespace mirolux::flat
