#pragma once
#include "core/image/image.h"
#include <array>
#include <string>

namespace mirolux {

/// Letters a line into a picture, its upper left at x, y, 12 pixels high; what is wider than `most` pixels ends in two
/// dots. ASCII; any other character is a question mark.
void letter(ByteImage& image, int x, int y, std::string text, std::array<std::uint8_t, 3> color, int most);

} // namespace mirolux
