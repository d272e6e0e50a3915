#pragma once
#include "core/image/image.h"
#include "core/plan/settings.h"
#include <glm/glm.hpp>
#include <map>

// How bright the picture is made: by hand, or as a meter of the picture's own luminance asks for.
namespace mirolux {

/// EV100 that is set by hand: exposure.ev100, or what a camera's aperture N, time t and speed S stand for,
/// log2(N^2 / t * 100 / S) (ISO 2720).
double hand_ev100(const Setup& setup);
/// True where a meter sets the exposure. Sums of coded values are made for the exposure by hand, and keep it.
bool meters(const Setup& setup, bool flat);

/// Weight of a place in the meter's sums; of the histogram, and of the whole, 1 everywhere.
/// at: from the picture's centre, in half picture heights, x right, y down; pixel: half heights that a pixel takes.
double meter_weight(const Setup& setup, const glm::dvec2& at, double aspect, double pixel);
/// Log-average luminance, cd/m2, that the setup's meter finds: exp(sum of w ln max(L, 1e-4) / sum of w); of the
/// histogram the mean of ln L between two percentiles of the pixels. radiance: cd/m2, at least 3 channels; of a flat
/// stage in its own unit, 1 what EV 0 shows as white.
double metered_luminance(const FloatImage& radiance, const Setup& setup, bool flat = false);
/// EV100 that a metered luminance (cd/m2) asks for: log2(L / 0.216) less the compensation, held between least and most.
/// An even picture then comes out at 0.18 before the tone curve.
double ev100_for(double luminance, const Setup& setup);
/// Stops that the setup adds to a picture whose meter says this EV100.
double compensation_at(double ev100, const Setup& setup);
/// Share of the way to the metered EV100 that is left after so many seconds: exp(-speed * seconds), whose speed is
/// exposure.up where the picture got brighter and exposure.down where it got darker; 1 while it is locked.
double left_to_go(double ev100, double wanted, const Setup& setup, double seconds);

/// The same setup with this EV100 set by hand: how a picture is shown whose meter came to it.
Setup exposed_by(const Setup& setup, double ev100);
/// FrameRecord::told of a metered frame: the EV100 that it was shown at, the one that its meter asks for, and the
/// luminance that this found, cd/m2.
inline constexpr const char* told_ev100 = "exposure.ev100";
inline constexpr const char* told_metered = "exposure.metered";
inline constexpr const char* told_luminance = "exposure.luminance";
/// The setup as a frame was shown that told this.
Setup exposed_as(const Setup& setup, const std::map<std::string, std::vector<double>>& told);

/// The target that holds what a metered frame is shown at: EV100, factor from radiance to exposed units, the EV100 that
/// the meter asks for, the luminance that it found (cd/m2, over 0).
inline constexpr const char* exposure_resource = "exposure";

} // namespace mirolux
