#pragma once
#include <algorithm>
#include <cmath>

// The reference definitions, in double, of what shaders/include/tone.glsl does in float.
namespace mirolux::tone {

/// Reinhard et al., Photographic Tone Reproduction for Digital Images, 2002, eq. 4; white in exposed units.
inline double reinhard(double x, double white) {
    return std::clamp(x * (1.0 + x / (white * white)) / (1.0 + x), 0.0, 1.0);
}

/// K. Narkowicz, ACES Filmic Tone Mapping Curve, 2015.
inline double filmic(double x) {
    return std::clamp(x * (2.51 * x + 0.03) / (x * (2.43 * x + 0.59) + 0.14), 0.0, 1.0);
}

/// Factor from luminance (cd/m2) to exposed units for an EV at ISO 100: 1 / (1.2 * 2^EV)
/// (Lagarde and de Rousiers, SIGGRAPH course on physically based shading, 2014, after ISO 12232's saturation speed).
inline double exposure_scale(double ev100) {
    return 1.0 / (1.2 * std::exp2(ev100));
}

} // namespace mirolux::tone
