#pragma once
#include "core/image/image.h"
#include <cstdint>
#include <random>

namespace mirolux::demo {

/// A sheet of pixel art as it is painted: colours (sRGB), a height for each pixel, from which normals come, and what
/// shines. Columns and rows from the top left.
class Canvas {
public:
    Canvas(int width, int height);

    int width() const { return colors_.width; }
    int height() const { return colors_.height; }
    void put(int x, int y, std::uint32_t rgb, float height = 0, int alpha = 255);
    void clear(int x, int y); // transparent again
    void glow(int x, int y, std::uint32_t rgb);
    bool filled(int x, int y) const;
    float height_at(int x, int y) const;
    std::uint32_t color_at(int x, int y) const;

    /// From x0, y0 to just before x1, y1.
    void rect(int x0, int y0, int x1, int y1, std::uint32_t rgb, float height = 0);
    void line(int x0, int y0, int x1, int y1, std::uint32_t rgb, float height = 0);
    /// A ball: shaded from `dark` to `light` toward its upper left.
    void ball(float x, float y, float radius, std::uint32_t dark, std::uint32_t light);
    /// A bar across its length rounded, upright or lying.
    void bar(int x0, int y0, int x1, int y1, std::uint32_t dark, std::uint32_t light, bool upright);
    /// Courses of stones with joints between them; each stone its own shade.
    void masonry(int x0, int y0, int x1, int y1, int course, int stone, std::uint32_t dark, std::uint32_t light,
                 std::uint32_t joint, unsigned seed);
    /// Boards side by side with grain.
    void boards(int x0, int y0, int x1, int y1, int board, std::uint32_t dark, std::uint32_t light, bool upright,
                unsigned seed);
    /// Between two colours from top to bottom in `steps` bands, joined by an ordered pattern.
    void fade(int x0, int y0, int x1, int y1, std::uint32_t top, std::uint32_t bottom, int steps);
    /// Another canvas laid over this one at a place.
    void lay(const Canvas& other, int x, int y);

    const ByteImage& colors() const { return colors_; }
    ByteImage normals(float strength = 1.0f) const; // green up
    const ByteImage& emission() const { return emission_; }

private:
    std::size_t at(int x, int y) const {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(width()) + static_cast<std::size_t>(x);
    }
    bool inside(int x, int y) const { return x >= 0 && y >= 0 && x < width() && y < height(); }
    ByteImage colors_, emission_;
    std::vector<float> heights_;
};

/// Between two colours, channel by channel.
std::uint32_t mixed(std::uint32_t a, std::uint32_t b, float share);

} // namespace mirolux::demo
