#pragma once
#include "core/image/image.h"
#include "core/scene/project.h"

namespace mirolux {

/// What a scene file of one's own lacks to be seen when it is opened: light, if it has none, and an exposure. A project
/// lacks nothing: somebody has set it up.
struct Starter {
    bool light = false, exposure = false;
    bool empty() const { return !light && !exposure; }
};
Starter starter_of(const OpenProject& open);

/// "a key light, a gradient ambient, a sky, a metered exposure"; empty for none.
std::string words_of(const Starter& starter);

/// Adds the starter's light to a project of this camera: a directional key of 10 lx from the camera's upper left and an
/// ambient a fifth as strong.
void add_starter_light(Project& project);

/// Sets the exposure; and, for a scene that has none, a sky that stands at a third of white in it, so that the scene
/// stands out from it.
void expose_starter(Project& project, double ev100, bool sky);

/// The frame's layer that tells surfaces from the sky, by stage; empty: it has none, and is not metered so.
const char* depth_layer(Stage stage);

/// EV100 at which what is seen stands at 0.18 of the exposed range: the log-average of the luminance over the pixels
/// that show a surface, of which those under a thousandth of the brightest hundredth count as that (after E. Reinhard
/// et al., Photographic Tone Reproduction for Digital Images, 2002). radiance: scene-linear, at least 3 channels;
/// depth: 1 channel, 0 where there is no surface. Rounded to a tenth, within the setting's range; none where nothing is
/// lit.
std::optional<double> metered_ev100(const FloatImage& radiance, const FloatImage& depth);

} // namespace mirolux
