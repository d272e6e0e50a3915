#pragma once
#include "core/account/pixel_account.h"

namespace mirolux::flat {

/// The account of a probed pixel of a flat stage, in double: the sheet's colour, what each light gives of it with what
/// holds it back (range, cone, facing, layer, shadow and whose wall), and how the way joins them. Values are in parts
/// of what a sheet shows; LightTerm::metres is in units.
PixelAccount flat_account(const Scene& scene, const Setup& setup, const View& view, const DrawList& list,
                          const PixelProbe& probe);

/// What each of a view's lights adds straight to a picture whose light travels (`flat.kind` cascades), by rays from a
/// few places: sums over its pixels of luminance, in parts of what a sheet shows. What walls throw back is nobody's.
std::vector<double> plane_contributions(const Scene& scene, const Setup& setup, const View& view, const DrawList& list);

} // namespace mirolux::flat
