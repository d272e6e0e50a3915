#pragma once
#include "core/image/image.h"
#include "core/plan/settings.h"
#include "core/plan/view.h"

// The size that a frame is rendered at, and how it becomes the size that is shown.
namespace mirolux {

/// The view as it is rendered for a picture of the view's size: output.scaleX, output.scaleY, or the samples that
/// supersampling splits over width and height. One that is rendered already comes back as it is.
View rendered_view(const Setup& setup, const View& shown);
/// The setup with one sample for each pixel of the view, no history of edges: for what holds layers of the frame
/// against rays through the view's pixels.
Setup plainly_rendered(Setup setup);
/// Screen pixels on a rendered pixel's side where they are whole (output.whole); 0: they need not be.
glm::ivec2 whole_pixels(const Setup& setup);

/// How much of a rendered column (or row) the shown one `at` takes: their overlap where a shown one covers several
/// (step: how many), else between the middles of the nearest two; or, not smooth, the one that its middle lies in. Sums
/// to 1 over all columns.
double column_weight(double step, int rendered, int column, int at, bool smooth);
/// The picture at another size by column_weight, as shaders/render_scale/fragment.glsl. whole: from whole_pixels.
FloatImage resized(const FloatImage& image, int width, int height, bool smooth, glm::ivec2 whole = {0, 0});

inline constexpr const char* resized_resource = "resized";

} // namespace mirolux
