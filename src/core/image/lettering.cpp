#include "core/image/lettering.h"
#include <algorithm>
#include <cstring>
#include <vector>
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wunused-function"
#pragma GCC diagnostic ignored "-Wsign-compare"
#include <stb/stb_easy_font.h>
#pragma GCC diagnostic pop

namespace mirolux {

void letter(ByteImage& image, int x, int y, std::string text, std::array<std::uint8_t, 3> color, int most) {
    for (char& c : text)
        if (c < 32 || c > 126) c = '?';
    const auto width = [](std::string t) { return stb_easy_font_width(t.data()); };
    if (width(text) > most) {
        while (!text.empty() && width(text + "..") > most)
            text.pop_back();
        text += "..";
    }
    struct Corner {
        float x, y, z;
        unsigned char color[4];
    };
    std::vector<Corner> corners(text.size() * 80 + 4);
    const int quads = stb_easy_font_print(0, 0, text.data(), nullptr, corners.data(),
                                          static_cast<int>(corners.size() * sizeof(Corner)));
    for (int q = 0; q < quads; ++q) { // upright rectangles all
        const Corner &low = corners[std::size_t(4 * q)], &high = corners[std::size_t(4 * q + 2)];
        for (int v = std::max(0, y + int(low.y)); v < std::min(image.height, y + int(high.y)); ++v)
            for (int u = std::max(0, x + int(low.x)); u < std::min(image.width, x + int(high.x)); ++u) {
                std::uint8_t* p =
                    &image.rgba[std::size_t(4) * (std::size_t(v) * std::size_t(image.width) + std::size_t(u))];
                std::copy(color.begin(), color.end(), p);
                p[3] = 255;
            }
    }
}

} // namespace mirolux
