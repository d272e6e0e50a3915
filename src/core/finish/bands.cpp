#include "core/finish/bands.h"
#include "core/finish/dither.h"
#include <cmath>
#include <cstdlib>

namespace mirolux {

int grey_code(const ByteImage& picture, int x, int y) {
    const std::uint8_t* p = &picture.rgba[4 * (std::size_t(y) * std::size_t(picture.width) + std::size_t(x))];
    return static_cast<int>(std::floor(0.2126 * p[0] + 0.7152 * p[1] + 0.0722 * p[2] + 0.5));
}

std::vector<std::uint8_t> band_edges(const ByteImage& picture, int width, int most) {
    const int w = picture.width, h = picture.height;
    std::vector<int> codes;
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x)
            codes.push_back(grey_code(picture, x, y));
    const auto code = [&](int x, int y) {
        return x < 0 || y < 0 || x >= w || y >= h ? -1 : codes[std::size_t(y * w + x)];
    };
    std::vector<std::uint8_t> out(codes.size());
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x)
            for (const auto& [dx, dy] : {std::pair(1, 0), std::pair(0, 1)}) {
                const int here = code(x, y), next = code(x + dx, y + dy), step = std::abs(next - here);
                bool wide = next >= 0 && step >= 1 && step <= most;
                for (int i = 1; i < width && wide; ++i)
                    wide = code(x - i * dx, y - i * dy) == here && code(x + (i + 1) * dx, y + (i + 1) * dy) == next;
                if (wide) out[std::size_t(y * w + x)] = 1;
            }
    return out;
}

int most_of_band(const Setup& setup) {
    return (3 * 255 + code_steps(setup) - 1) / code_steps(setup);
}

} // namespace mirolux
