#pragma once
#include <glm/glm.hpp>
#include <vector>

namespace mirolux::blocks {

/// A colour, and what it must not be joined with: those of another kind.
struct ColorSample {
    glm::vec3 color{0.0f}; // linear, 0 to 1
    int kind = 0;
};
/// The group of each sample, from 0 on, at most `most` of them: the widest group, as the eye sees steps (sRGB code), is
/// cut at its median until there are enough, or all in each are alike (P. Heckbert, Color Image Quantization for Frame
/// Buffer Display, 1982). Kinds never share a group where there are no more kinds than groups.
std::vector<int> alike_colors(const std::vector<ColorSample>& samples, int most);

} // namespace mirolux::blocks
