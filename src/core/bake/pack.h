#pragma once
#include <glm/glm.hpp>
#include <vector>

// Rectangles laid beside each other, as charts in a map.
namespace mirolux {

struct PackedRect {
    int width = 0, height = 0;
    int x = 0, y = 0;    // once packed
    bool turned = false; // by a quarter: it takes height x width there
    int across() const { return turned ? height : width; }
    int up() const { return turned ? width : height; }
};

/// Lays rectangles on the lowest place of a skyline, long ones first (J. Jylanki, A Thousand Ways to Pack the Bin,
/// 2010), at the width that wastes least; returns the whole's width and height, both multiples of `unit`. No side of a
/// rectangle may be under 1. turns: by a quarter, where that is better.
glm::ivec2 pack(std::vector<PackedRect>& rects, int unit = 4, bool turns = true);

} // namespace mirolux
