#pragma once
#include "core/plan/settings.h"
#include <array>
#include <glm/glm.hpp>

// From exposed values to what a display shows, before its code: the reference, in double, of what the finish does.
namespace mirolux {

/// Curves, in the order of their numbers in shaders/include/tone.glsl.
enum class ToneCurve { none, clamp, reinhard, filmic, neutral, own };
ToneCurve tone_curve(const Setup& setup);

/// A curve of one's own: the code that a display is sent, 0..1, at these stops about the exposed value 1, smooth and
/// rising between them (F. Fritsch and R. Carlson, Monotone piecewise cubic interpolation, 1980); below them in
/// proportion to the light, above them even.
struct OwnCurve {
    static constexpr std::array<double, 5> stops = {-10, -6, -3, 0, 4};
    std::array<double, 5> shown{};  // rising: each at least the one before
    std::array<double, 5> slopes{}; // of a stop
    double at(double exposed) const;
};
/// Keys of its handles, from the darkest on.
const std::array<const char*, 5>& own_curve_keys();
OwnCurve own_curve(const Setup& setup);

/// The Khronos PBR neutral curve: colours as they are up to 0.76, then toward white with their hue (Khronos Group, PBR
/// neutral tone mapper specification, 2024).
glm::dvec3 neutral(const glm::dvec3& exposed);
/// Factors of red, green and blue that make light of the setup's colour temperature look white; 1 at 6500 K.
glm::dvec3 white_balance(const Setup& setup);
/// An exposed colour as the display shows it, 0..1, before sRGB's code: balanced, then by the setup's curve, each
/// channel for itself or all by their luminance; what then lies over 1 goes toward grey of its luminance.
glm::dvec3 toned(const glm::dvec3& exposed, const Setup& setup);

/// Colour, sRGB 0..1, of exposed luminance by its stops about middle grey (0.18), a step each; middle grey is grey,
/// what the display cannot show of the setup's curve black or white. The false-colour view.
glm::dvec3 stop_color(double stopsAboutGrey);
inline constexpr double least_stops = -8, most_stops = 6; // of the view, about middle grey

} // namespace mirolux
