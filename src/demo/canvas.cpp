#include "demo/canvas.h"
#include <algorithm>
#include <cmath>

namespace mirolux::demo {

Canvas::Canvas(int width, int height)
    : colors_{width, height, std::vector<std::uint8_t>(std::size_t(4) * width * height)}, emission_(colors_),
      heights_(std::size_t(width) * height, 0.0f) {
    for (std::size_t i = 3; i < emission_.rgba.size(); i += 4)
        emission_.rgba[i] = 255;
}

std::uint32_t mixed(std::uint32_t a, std::uint32_t b, float share) {
    std::uint32_t out = 0;
    for (int shift = 0; shift < 24; shift += 8) {
        const auto from = static_cast<float>(a >> shift & 255), to = static_cast<float>(b >> shift & 255);
        out |= static_cast<std::uint32_t>(std::clamp(from + (to - from) * share + 0.5f, 0.0f, 255.0f)) << shift;
    }
    return out;
}

static void store(ByteImage& image, std::size_t at, std::uint32_t rgb, int alpha) {
    image.rgba[4 * at] = static_cast<std::uint8_t>(rgb >> 16);
    image.rgba[4 * at + 1] = static_cast<std::uint8_t>(rgb >> 8);
    image.rgba[4 * at + 2] = static_cast<std::uint8_t>(rgb);
    image.rgba[4 * at + 3] = static_cast<std::uint8_t>(alpha);
}

void Canvas::put(int x, int y, std::uint32_t rgb, float height, int alpha) {
    if (!inside(x, y)) return;
    store(colors_, at(x, y), rgb, alpha);
    heights_[at(x, y)] = height;
}

void Canvas::clear(int x, int y) {
    if (inside(x, y)) store(colors_, at(x, y), 0, 0);
}

void Canvas::glow(int x, int y, std::uint32_t rgb) {
    if (inside(x, y)) store(emission_, at(x, y), rgb, 255);
}

bool Canvas::filled(int x, int y) const {
    return inside(x, y) && colors_.rgba[4 * at(x, y) + 3] > 0;
}

float Canvas::height_at(int x, int y) const {
    return heights_[at(std::clamp(x, 0, width() - 1), std::clamp(y, 0, height() - 1))];
}

std::uint32_t Canvas::color_at(int x, int y) const {
    const std::uint8_t* p = &colors_.rgba[4 * at(std::clamp(x, 0, width() - 1), std::clamp(y, 0, height() - 1))];
    return static_cast<std::uint32_t>(p[0]) << 16 | static_cast<std::uint32_t>(p[1]) << 8 | p[2];
}

void Canvas::rect(int x0, int y0, int x1, int y1, std::uint32_t rgb, float height) {
    for (int y = y0; y < y1; ++y)
        for (int x = x0; x < x1; ++x)
            put(x, y, rgb, height);
}

void Canvas::line(int x0, int y0, int x1, int y1, std::uint32_t rgb, float height) {
    const int steps = std::max({std::abs(x1 - x0), std::abs(y1 - y0), 1});
    for (int i = 0; i <= steps; ++i)
        put(x0 + static_cast<int>(std::lround(double(x1 - x0) * i / steps)),
            y0 + static_cast<int>(std::lround(double(y1 - y0) * i / steps)), rgb, height);
}

void Canvas::ball(float cx, float cy, float radius, std::uint32_t dark, std::uint32_t light) {
    for (int y = static_cast<int>(cy - radius) - 1; y <= static_cast<int>(cy + radius) + 1; ++y)
        for (int x = static_cast<int>(cx - radius) - 1; x <= static_cast<int>(cx + radius) + 1; ++x) {
            const float dx = (static_cast<float>(x) + 0.5f - cx) / radius,
                        dy = (static_cast<float>(y) + 0.5f - cy) / radius;
            const float d = dx * dx + dy * dy;
            if (d > 1) continue;
            const float z = std::sqrt(1 - d);
            const float shade = std::round(std::clamp(0.35f - 0.35f * dx - 0.35f * dy + 0.4f * z, 0.0f, 1.0f) * 5) / 5;
            put(x, y, mixed(dark, light, shade), z * radius);
        }
}

void Canvas::bar(int x0, int y0, int x1, int y1, std::uint32_t dark, std::uint32_t light, bool upright) {
    const int across = upright ? x1 - x0 : y1 - y0;
    for (int y = y0; y < y1; ++y)
        for (int x = x0; x < x1; ++x) {
            const float t = (static_cast<float>(upright ? x - x0 : y - y0) + 0.5f) / static_cast<float>(across) * 2 - 1;
            const float z = std::sqrt(std::max(0.0f, 1 - t * t));
            put(x, y, mixed(dark, light, std::clamp(z * 0.8f - t * 0.35f, 0.0f, 1.0f)),
                z * 0.5f * static_cast<float>(across));
        }
}

void Canvas::masonry(int x0, int y0, int x1, int y1, int course, int stone, std::uint32_t dark, std::uint32_t light,
                     std::uint32_t joint, unsigned seed) {
    std::mt19937 random(seed);
    const auto share = [&] { return static_cast<float>(random() % 1000) / 1000.0f; };
    for (int top = y0, row = 0; top < y1; top += course, ++row) {
        int left = x0 - (row % 2 ? stone / 2 : 0) - static_cast<int>(random() % 3);
        while (left < x1) {
            const int wide =
                stone + static_cast<int>(random() % static_cast<unsigned>(std::max(1, stone / 3))) - stone / 6;
            const float shade = 0.25f + 0.6f * share();
            const std::uint32_t base = mixed(dark, light, shade);
            for (int y = top; y < std::min(top + course, y1); ++y)
                for (int x = std::max(left, x0); x < std::min(left + wide, x1); ++x) {
                    const bool edge = y == top + course - 1 || x == left + wide - 1;
                    const bool lip = y == top || x == left;
                    const float grain = 0.16f * (share() - 0.5f);
                    if (edge)
                        put(x, y, mixed(joint, dark, 0.3f * share()), 0);
                    else
                        put(x, y,
                            lip ? mixed(base, light, 0.35f)
                                : mixed(base, grain > 0 ? light : dark, std::abs(grain) * 2),
                            lip ? 1.2f : 2.0f + grain * 2);
                }
            left += wide;
        }
    }
}

void Canvas::boards(int x0, int y0, int x1, int y1, int board, std::uint32_t dark, std::uint32_t light, bool upright,
                    unsigned seed) {
    std::mt19937 random(seed);
    const auto share = [&] { return static_cast<float>(random() % 1000) / 1000.0f; };
    const int from = upright ? x0 : y0, to = upright ? x1 : y1;
    for (int b = from; b < to; b += board) {
        const float shade = 0.3f + 0.5f * share(), phase = 40 * share(), slow = 0.1f + 0.1f * share();
        for (int y = y0; y < y1; ++y)
            for (int x = x0; x < x1; ++x) {
                const int across = (upright ? x : y) - b, along = upright ? y : x;
                if (across < 0 || across >= board) continue;
                const float wave =
                    std::sin(phase + slow * static_cast<float>(along) + 1.7f * static_cast<float>(across));
                const bool joint = across == board - 1;
                const std::uint32_t wood = mixed(dark, light, std::clamp(shade + 0.14f * std::round(wave), 0.0f, 1.0f));
                put(x, y,
                    joint         ? mixed(dark, 0, 0.45f)
                    : across == 0 ? mixed(wood, light, 0.3f)
                                  : wood,
                    joint         ? 0.0f
                    : across == 0 ? 1.0f
                                  : 1.6f + 0.25f * wave);
            }
    }
}

void Canvas::fade(int x0, int y0, int x1, int y1, std::uint32_t top, std::uint32_t bottom, int steps) {
    static constexpr int pattern[4][4] = {{0, 8, 2, 10}, {12, 4, 14, 6}, {3, 11, 1, 9}, {15, 7, 13, 5}};
    for (int y = y0; y < y1; ++y)
        for (int x = x0; x < x1; ++x) {
            const float t =
                static_cast<float>(y - y0) / static_cast<float>(std::max(1, y1 - y0 - 1)) * static_cast<float>(steps);
            const float level = std::floor(t + (static_cast<float>(pattern[y & 3][x & 3]) + 0.5f) / 16.0f);
            put(x, y, mixed(top, bottom, std::min(1.0f, level / static_cast<float>(steps))));
        }
}

void Canvas::lay(const Canvas& other, int x0, int y0) {
    for (int y = 0; y < other.height(); ++y)
        for (int x = 0; x < other.width(); ++x) {
            const std::size_t from = other.at(x, y);
            if (other.colors_.rgba[4 * from + 3] == 0 || !inside(x0 + x, y0 + y)) continue;
            const std::size_t to = at(x0 + x, y0 + y);
            std::copy_n(&other.colors_.rgba[4 * from], 4, &colors_.rgba[4 * to]);
            std::copy_n(&other.emission_.rgba[4 * from], 4, &emission_.rgba[4 * to]);
            heights_[to] = other.heights_[from];
        }
}

ByteImage Canvas::normals(float strength) const {
    ByteImage out{width(), height(), std::vector<std::uint8_t>(colors_.rgba.size())};
    const auto height_near = [&](int x, int y, int cx, int cy) {
        return filled(x, y) ? heights_[at(x, y)] : heights_[at(cx, cy)] - 1.0f;
    };
    for (int y = 0; y < height(); ++y)
        for (int x = 0; x < width(); ++x) {
            const float dx = 0.5f * (height_near(x + 1, y, x, y) - height_near(x - 1, y, x, y)),
                        dy = 0.5f * (height_near(x, y - 1, x, y) - height_near(x, y + 1, x, y));
            const float nx = -dx * strength, ny = -dy * strength, length = std::sqrt(nx * nx + ny * ny + 1);
            const auto code = [](float v) { return static_cast<std::uint32_t>(v * 127.0f + 128.5f); };
            store(out, at(x, y), code(nx / length) << 16 | code(ny / length) << 8 | code(1 / length), 255);
        }
    return out;
}

} // namespace mirolux::demo
