#pragma once
#include <string>
#include <vector>

namespace mirolux::flat {

inline constexpr int letter_width = 5, letter_height = 7;

/// Our own letters of 5 by 7 pixels with one between them: which pixels a line of text fills, column and row from the
/// top left. Small letters are shown as capitals; what there is no letter for, as a gap.
struct LetterPixel {
    int column, row;
};
std::vector<LetterPixel> pixels_of(const std::string& text);
/// Width of a line in pixels.
int width_of(const std::string& text);

} // namespace mirolux::flat
