#include "demo/flat_writer.h"
#include <cmath>

// The net loft from above: a boarded floor between thick walls, nets, buoys, a stove, moonlight through windows.
namespace mirolux::demo {

namespace {

constexpr std::uint32_t wallDark = 0x4B4A4E, wallLight = 0x84807C, wallJoint = 0x2A292C;

/// Two cells of 16: floor boards in two shades.
Canvas floor_boards() {
    Canvas c(64, 16);
    for (int i = 0; i < 4; ++i)
        c.boards(16 * i, 0, 16 * i + 16, 16, 8, 0x59432F, 0x94734C, false, static_cast<unsigned>(30 + i));
    for (int i = 0; i < 4; ++i)
        for (int y = 0; y < 16; y += 8)
            for (int x = 16 * i + (i * 5 + y) % 13; x < 16 * i + 16; x += 14)
                c.put(x, y + 3, 0x2E241C, 0.4f);
    return c;
}

Canvas wall_top(int width, int height, unsigned seed) {
    Canvas c(width, height);
    c.masonry(0, 0, width, height, 8, 14, wallDark, wallLight, wallJoint, seed);
    return c;
}

Canvas post() {
    Canvas c(14, 14);
    c.ball(7, 7, 6.8f, 0x4A3426, 0xA07850);
    for (int r = 2; r < 6; r += 2)
        for (int a = 0; a < 40; ++a)
            c.put(static_cast<int>(7 + r * std::cos(a * 0.157)), static_cast<int>(7 + r * std::sin(a * 0.157)),
                  0x6E5036, 6);
    return c;
}

Canvas net() {
    Canvas c(110, 76);
    for (int y = 0; y < 76; ++y)
        for (int x = 0; x < 110; ++x) {
            const double nx = (x - 55) / 55.0, ny = (y - 38) / 38.0;
            const double edge = nx * nx + ny * ny + 0.12 * std::sin(5 * std::atan2(ny, nx) + 1);
            if (edge > 0.95) continue;
            const bool knot = (x + y) % 8 == 0 || (x - y + 200) % 8 == 0;
            const float fold = static_cast<float>(std::sin(x * 0.16 + std::sin(y * 0.11) * 2));
            if (knot)
                c.put(x, y, mixed(0x2F5F5A, 0x7DB09A, 0.5f + 0.4f * fold), 2 + 1.5f * fold);
            else if ((x * 7 + y * 3) % 11 < 4)
                c.put(x, y, mixed(0x24443F, 0x3C6E64, 0.5f + 0.4f * fold), 1 + 1.5f * fold);
        }
    return c;
}

Canvas buoys() {
    Canvas c(3 * 26, 26);
    const std::uint32_t dark[] = {0x7A2620, 0x8A6A20, 0x2A4A6A}, light[] = {0xE06A4E, 0xF0CC60, 0x86B4D6};
    for (int i = 0; i < 3; ++i) {
        c.ball(26.0f * static_cast<float>(i) + 13, 13, 12, dark[i], light[i]);
        for (int y = 11; y < 15; ++y)
            for (int x = 1; x < 25; ++x)
                if (c.filled(26 * i + x, y))
                    c.put(26 * i + x, y, mixed(c.color_at(26 * i + x, y), 0xF4EEE0, 0.7f), c.height_at(26 * i + x, y));
        c.ball(26.0f * static_cast<float>(i) + 13, 13, 2.6f, 0x3A3A40, 0x90949C);
    }
    return c;
}

Canvas table() {
    Canvas c(84, 40);
    c.boards(0, 0, 84, 40, 10, 0x6A4A2E, 0xB0865A, false, 77);
    for (int x = 0; x < 84; ++x) {
        c.put(x, 0, 0xC49A6A, 3);
        c.put(x, 39, 0x3A2A1C, 0);
    }
    c.rect(12, 9, 34, 24, 0xD8D0B8, 2.4f);
    for (int y = 12; y < 22; y += 3)
        c.line(15, y, 30, y, 0x8A8474, 2.4f);
    c.ball(62, 20, 6, 0x4A5866, 0x9AA8B6);
    c.ball(62, 20, 3, 0x2A1A12, 0x4A3222);
    return c;
}

Canvas crate() {
    Canvas c(30, 30);
    c.boards(0, 0, 30, 30, 6, 0x5A3E28, 0xA88250, true, 12);
    c.bar(0, 0, 30, 4, 0x5A3E28, 0xB89060, false);
    c.bar(0, 26, 30, 30, 0x5A3E28, 0xB89060, false);
    return c;
}

Canvas stove() {
    Canvas c(40, 34);
    c.rect(0, 0, 40, 34, 0x33363E, 3);
    c.bar(0, 0, 40, 4, 0x24262C, 0x5E6470, false);
    c.bar(0, 30, 40, 34, 0x24262C, 0x5E6470, false);
    c.ball(12, 16, 7, 0x22242A, 0x4E545E);
    c.ball(28, 16, 7, 0x22242A, 0x4E545E);
    for (int y = 12; y < 21; ++y)
        for (int x = 24; x < 33; ++x)
            if (std::hypot(x - 28.0, y - 16.0) < 4.5) {
                c.put(x, y, 0xE07A30, 2);
                c.glow(x, y, std::hypot(x - 28.0, y - 16.0) < 2.5 ? 0xFFB050 : 0xC05018);
            }
    return c;
}

Canvas coil() {
    Canvas c(30, 30);
    for (int y = 0; y < 30; ++y)
        for (int x = 0; x < 30; ++x) {
            const double r = std::hypot(x - 14.5, y - 14.5), turn = std::atan2(y - 14.5, x - 14.5);
            if (r > 14.5 || r < 4) continue;
            const auto strand = static_cast<float>(std::sin(r * 2.1 + turn) * 0.5 + 0.5);
            c.put(x, y, mixed(0x6A5434, 0xC8AC78, strand), 1 + 2 * strand);
        }
    return c;
}

/// A lantern as it hangs, its cap seen from above.
Canvas lantern() {
    Canvas c(12, 12);
    c.ball(6, 6, 5.5f, 0x4A4238, 0xB8A888);
    c.ball(6, 6, 2.6f, 0xC08A40, 0xFFE0A0);
    for (int y = 4; y < 8; ++y)
        for (int x = 4; x < 8; ++x)
            c.glow(x, y, 0xFFD080);
    return c;
}

/// What a window of four panes lets through, soft at its borders.
Canvas panes() {
    Canvas c(64, 96);
    for (int y = 0; y < 96; ++y)
        for (int x = 0; x < 64; ++x) {
            const double spread = 0.72 + 0.28 * y / 95.0; // the beam widens on its way in
            const double u = (x - 31.5) / 32 / spread, v = y / 95.0;
            if (std::abs(u) > 1) continue;
            const double bar = std::abs(u) < 0.07 || std::abs(v - 0.45) < 0.04 ? 0.12 : 1;
            const double soft = std::min({1.0, (1 - std::abs(u)) * 6, v * 8, (1 - v) * 3});
            const auto level = static_cast<std::uint32_t>(255 * std::max(0.0, soft * bar * (1 - 0.55 * v)));
            c.put(x, y, level << 16 | level << 8 | level);
        }
    return c;
}

} // namespace

void paint_net_loft(FlatWriter& w) {
    w.layer("floor");
    w.layer("things");
    w.layer("walls");
    w.layer("overhead");
    w.sheet("boards", floor_boards(), 16, 16, 0.7f);
    w.sheet("wall-long", wall_top(480, 26, 41));
    w.sheet("wall-side", wall_top(26, 218, 42));
    w.sheet("wall-inner", wall_top(20, 86, 43));
    w.sheet("post", post());
    w.sheet("net", net(), 0, 0, 0.8f);
    w.sheet("buoy", buoys(), 26, 26);
    w.sheet("table", table(), 0, 0, 0.8f);
    w.sheet("crate", crate());
    w.sheet("stove", stove(), 0, 0, 1, true);
    w.sheet("coil", coil());
    w.sheet("lantern", lantern(), 0, 0, 1, true);
    w.sheet("panes", panes(), 0, 0, 0);

    std::vector<int> cells;
    for (int row = 0; row < 17; ++row)
        for (int column = 0; column < 30; ++column)
            cells.push_back((column * 7 + row * 13 + column * row) % 4);
    w.tiles("floor", "floor", "boards", {0, 0}, 30, cells);
    w.sprite("net on the floor", "floor", "net", {46, 52});
    w.sprite("net by the posts", "floor", "net", {300, 130});
    w.sprite("table", "things", "table", {190, 176});
    std::vector<int> casters;
    casters.push_back(w.sprite("stove", "things", "stove", {398, 190}));
    casters.push_back(w.sprite("crate 1", "things", "crate", {38, 168}));
    casters.push_back(w.sprite("crate 2", "things", "crate", {70, 180}));
    casters.push_back(w.sprite("crate 3", "things", "crate", {410, 44}));
    for (int i = 0; i < 6; ++i)
        casters.push_back(w.sprite("buoy " + std::to_string(i + 1), "things", "buoy",
                                   {340 + 27 * (i % 3) - 8 * (i / 3), 38 + 25 * (i / 3)}, i % 3));
    w.sprite("coil 1", "things", "coil", {128, 40});
    w.sprite("coil 2", "things", "coil", {268, 40});
    w.sprite("north wall", "walls", "wall-long", {0, 244});
    w.sprite("south wall", "walls", "wall-long", {0, 0});
    w.sprite("west wall", "walls", "wall-side", {0, 26});
    w.sprite("east wall", "walls", "wall-side", {454, 26});
    w.sprite("inner wall", "walls", "wall-inner", {230, 26});
    const glm::vec2 posts[] = {{120, 128}, {180, 128}, {286, 150}, {346, 150}};
    std::vector<int> standing;
    for (int i = 0; i < 4; ++i)
        standing.push_back(w.sprite("post " + std::to_string(i + 1), "walls", "post", posts[i]));
    const glm::vec2 lanterns[] = {{150, 104}, {316, 190}, {226, 200}};
    for (int i = 0; i < 3; ++i)
        w.sprite("lantern " + std::to_string(i + 1), "overhead", "lantern", lanterns[i] - glm::vec2(6));

    const auto box = [&](const char* name, float x0, float y0, float x1, float y1) {
        w.wall(name, {{x0, y0}, {x1, y0}, {x1, y1}, {x0, y1}});
    };
    box("north wall", -20, 252, 500, 290);
    box("south wall", -20, -20, 500, 18);
    box("west wall", -20, 10, 18, 260);
    box("east wall", 462, 10, 500, 260);
    box("inner wall", 235, 10, 245, 107);
    for (std::size_t i = 0; i < casters.size(); ++i) {
        w.traced(i < 4 ? (i == 0 ? "stove" : "crate " + std::to_string(i)) : "buoy " + std::to_string(i - 3),
                 casters[i], 0.7, i < 4 ? 5 : 4);
        w.height(i == 0 ? 20.0f : i < 4 ? 16.0f : 10.0f); // lanterns hang higher
    }
    for (std::size_t i = 0; i < 4; ++i)
        w.traced("post " + std::to_string(i + 1), standing[i], 0.6, 3);

    const glm::vec3 warm(1.0f, 0.68f, 0.34f);
    for (int i = 0; i < 3; ++i) {
        Light& l = w.light("lantern " + std::to_string(i + 1), LightType::point, {lanterns[i], 30}, warm, 1.55f, 120);
        l.sourceSize = 8;
        if (i == 0) {
            Motion& swing = w.motion(l, MotionKind::path, 4);
            swing.way = {{-3, 0, 0}, {0, 2, 0}, {3, 0, 0}, {0, -2, 0}};
        }
    }
    Light& fire = w.light("stove", LightType::point, {392, 206, 16}, {1.0f, 0.42f, 0.14f}, 1.8f, 92);
    Motion& flames = w.motion(fire, MotionKind::flicker, 1.1f);
    flames.depth = 0.55f;
    flames.seed = 9;
    const glm::vec3 moon(0.45f, 0.62f, 1.0f);
    for (int i = 0; i < 2; ++i) {
        Light& l = w.light("moonlit window " + std::to_string(i + 1), LightType::point, {i ? 330.0f : 90.0f, 206, 60},
                           moon, 0.95f, 0);
        l.flat.shape = FlatShape::picture;
        l.flat.picture = "panes";
        l.flat.size = 92;
        l.flat.turn = 0.22f;
        l.flat.casts = false;
    }
    Light& carried = w.light("carried lamp", LightType::spot, {60, 110, 20}, {0.95f, 0.95f, 0.8f}, 1.6f, 170);
    carried.direction = {1, -0.15f, 0};
    carried.innerConeAngle = 0.15f;
    carried.outerConeAngle = 0.42f;
    Motion& look = w.motion(carried, MotionKind::turn, 7);
    look.angle = 0.9f;
    Light& exit = w.light("way out", LightType::point, {412, 128, 12}, {0.3f, 1.0f, 0.5f}, 1.1f, 26);
    exit.flat.shape = FlatShape::text;
    exit.flat.text = "WAY OUT";
    exit.flat.size = 11;
    exit.flat.falloff = 3;
    exit.flat.casts = false;

    w.camera("the whole loft", {240, 135}, 270);
    w.camera("by the stove", {380, 180}, 130);
    w.camera("under the first lantern", {150, 110}, 150);
}

} // namespace mirolux::demo
