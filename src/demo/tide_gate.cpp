#include "demo/flat_writer.h"
#include <cmath>

// The quay's tide gate in side view: two stone piers, a gate of two wooden leaves between them, the winch house above.
namespace mirolux::demo {

namespace {

constexpr std::uint32_t stoneDark = 0x4A5060, stoneLight = 0x8E94A0, joint = 0x2B2F3B;
constexpr std::uint32_t woodDark = 0x4E3526, woodLight = 0x8F6844, iron = 0x3B4150, ironLight = 0x707A8C;

/// Night, a low moon and a few clouds in bands.
Canvas sky() {
    Canvas c(560, 200);
    c.fade(0, 0, 560, 200, 0x0B1226, 0x2C4560, 12);
    std::mt19937 random(5);
    for (int i = 0; i < 90; ++i) {
        const int x = static_cast<int>(random() % 560), y = static_cast<int>(random() % 120);
        c.put(x, y, random() % 4 ? 0x6E86A8 : 0xC8D8EA);
    }
    for (int y = 18; y < 46; ++y)
        for (int x = 400; x < 428; ++x) {
            const float d = std::hypot(static_cast<float>(x) - 413.5f, static_cast<float>(y) - 31.5f);
            if (d < 13) c.put(x, y, d < 11 ? 0xF2E8C8 : 0xCFC7AC);
        }
    c.ball(409, 28, 2.5f, 0xD6CCAA, 0xDCD2B0);
    c.ball(418, 35, 1.8f, 0xD6CCAA, 0xDCD2B0);
    for (int band = 0; band < 7; ++band) {
        const int x0 = static_cast<int>(random() % 480), y0 = 60 + static_cast<int>(random() % 90),
                  wide = 50 + static_cast<int>(random() % 90);
        for (int y = 0; y < 6; ++y)
            for (int x = 0; x < wide; ++x) {
                const double arc = std::sin(3.14159 * x / wide) * (3 + 2.5 * std::sin(x * 0.21 + band));
                if (std::abs(y - 3) < arc) c.put(x0 + x, y0 + y, y < 3 ? 0x3E5670 : 0x33495F);
            }
    }
    return c;
}

/// The harbour's far side: roofs, a mast, the light islet.
Canvas shore() {
    Canvas c(560, 70);
    std::mt19937 random(11);
    int x = 0;
    while (x < 560) {
        const int wide = 12 + static_cast<int>(random() % 26), top = 40 - static_cast<int>(random() % 20);
        c.rect(x, top, x + wide, 70, 0x18243A);
        for (int i = 0; i < wide / 2; ++i)
            c.rect(x + i, top - i / 2, x + wide - i, top - i / 2 + 1, 0x18243A);
        for (int wy = top + 5; wy < 62; wy += 8)
            for (int wx = x + 3; wx < x + wide - 3; wx += 6)
                if (random() % 3 == 0) c.rect(wx, wy, wx + 2, wy + 3, random() % 2 ? 0xB98B4A : 0x6E7F55);
        x += wide + static_cast<int>(random() % 6);
    }
    c.rect(300, 2, 308, 70, 0x22314A);
    c.rect(298, 4, 310, 9, 0xE8C878);
    c.rect(120, 8, 122, 70, 0x14203A);
    c.line(121, 10, 150, 30, 0x14203A);
    return c;
}

/// A pier of the gate, seen from the water: masonry with a coping, iron rungs, weed at the foot.
Canvas pier(unsigned seed) {
    Canvas c(150, 140);
    c.masonry(0, 8, 150, 140, 11, 24, stoneDark, stoneLight, joint, seed);
    c.boards(0, 0, 150, 8, 8, 0x6C7078, 0xA6ABB2, false, seed);
    for (int x = 0; x < 150; ++x)
        c.put(x, 7, 0x33363F, 0);
    std::mt19937 random(seed + 3);
    for (int x = 0; x < 150; ++x) {
        const int weed = 18 + static_cast<int>(8 * std::sin(x * 0.17 + seed)) + static_cast<int>(random() % 6);
        for (int y = 140 - weed; y < 140; ++y)
            if (random() % 3) c.put(x, y, mixed(0x24402F, 0x3E6A45, static_cast<float>(random() % 100) / 100), 2.4f);
    }
    for (int y = 20; y < 130; y += 9)
        c.bar(118, y, 132, y + 2, iron, ironLight, false);
    return c;
}

/// A leaf of the gate: upright planks under iron bands, a wheel on each.
Canvas leaf(bool mirrored) {
    Canvas c(90, 112);
    c.boards(0, 0, 90, 112, 9, woodDark, woodLight, true, mirrored ? 4 : 9);
    for (const int y : {8, 52, 94}) {
        c.bar(0, y, 90, y + 7, iron, ironLight, false);
        for (int x = 5; x < 90; x += 10)
            c.ball(static_cast<float>(x), static_cast<float>(y) + 3.5f, 1.8f, iron, 0x9AA4B4);
    }
    for (int i = 0; i < 36; ++i) { // a brace
        const int x = 6 + i * 2, y = mirrored ? 18 + i : 52 - i;
        c.rect(x, y, x + 3, y + 4, mixed(iron, ironLight, 0.4f), 3.2f);
    }
    const float wheel = mirrored ? 66.0f : 24.0f;
    for (int a = 0; a < 220; ++a) {
        const double angle = a * 6.28318 / 220;
        for (int r = 9; r <= 11; ++r)
            c.put(static_cast<int>(wheel + r * std::cos(angle)), static_cast<int>(74 + r * std::sin(angle)),
                  r == 9 ? iron : ironLight, 4);
        if (a % 55 < 2)
            for (int r = 0; r < 10; ++r)
                c.put(static_cast<int>(wheel + r * std::cos(angle)), static_cast<int>(74 + r * std::sin(angle)),
                      ironLight, 3.5f);
    }
    return c;
}

/// The winch house: brick, a lit window, a slate roof.
Canvas house() {
    Canvas c(96, 84);
    c.masonry(6, 26, 90, 84, 6, 12, 0x54372F, 0x9A6A52, 0x2E2320, 21);
    for (int i = 0; i < 26; ++i)
        for (int x = i * 2; x < 96 - i * 2 + 0; ++x) {
            const int y = 26 - i;
            c.put(x, y,
                  mixed(0x26303C, 0x4A5866, ((x + (y % 4) * 3) % 7 == 0 ? 0.2f : 0.7f) - 0.02f * static_cast<float>(i)),
                  1.5f + ((y % 4) == 0 ? 1.0f : 0.0f));
        }
    c.rect(74, 4, 82, 20, 0x5A4038, 2);
    c.rect(72, 2, 84, 5, 0x6E5046, 3);
    const auto window = [&](int x, int y, int wide, int tall) {
        c.rect(x - 2, y - 2, x + wide + 2, y + tall + 2, 0x2A2622, 3);
        for (int py = 0; py < tall; ++py)
            for (int px = 0; px < wide; ++px) {
                const bool bar = px == wide / 2 || py == tall / 2;
                c.put(x + px, y + py, bar ? 0x2A2622 : 0xF0B860, bar ? 3.0f : 0.5f);
                if (!bar)
                    c.glow(x + px, y + py,
                           mixed(0x8A5A1E, 0xE8A848, static_cast<float>(py) / static_cast<float>(tall)));
            }
    };
    window(16, 40, 14, 18);
    window(66, 40, 14, 18);
    c.boards(40, 44, 58, 84, 5, 0x3A2A22, 0x6E4E38, true, 3);
    c.ball(54.5f, 66, 1.6f, 0x8A7A40, 0xE0C870);
    return c;
}

Canvas lamp_post() {
    Canvas c(16, 52);
    c.bar(7, 10, 10, 52, iron, ironLight, true);
    c.rect(5, 48, 12, 52, ironLight, 2);
    c.line(5, 11, 12, 11, ironLight, 2);
    c.rect(4, 2, 13, 4, iron, 3);
    for (int y = 4; y < 11; ++y)
        for (int x = 5; x < 12; ++x) {
            c.put(x, y, 0xFFE0A0, 1);
            c.glow(x, y, y < 9 ? 0xFFD080 : 0xC08840);
        }
    return c;
}

Canvas crate() {
    Canvas c(22, 20);
    c.boards(0, 0, 22, 20, 5, 0x5A3E28, 0xA07A4C, false, 8);
    c.bar(0, 0, 3, 20, 0x5A3E28, 0xB08858, true);
    c.bar(19, 0, 22, 20, 0x5A3E28, 0xB08858, true);
    return c;
}

Canvas barrel() {
    Canvas c(16, 20);
    c.bar(0, 0, 16, 20, 0x3E2A20, 0x9A6C44, true);
    for (const int y : {3, 15})
        for (int x = 0; x < 16; ++x)
            c.put(x, y, mixed(iron, ironLight, 1 - std::abs(x - 6) / 10.0f), c.height_at(x, y) + 0.8f);
    for (const auto& [x, y] : {std::pair(0, 0), {15, 0}, {0, 19}, {15, 19}})
        c.clear(x, y);
    return c;
}

Canvas boat() {
    Canvas c(64, 46);
    for (int y = 30; y < 44; ++y) {
        const int in = (y - 30) * (y - 30) / 14;
        for (int x = in; x < 64 - in / 2; ++x)
            c.put(x, y, y < 33 ? 0xC8B890 : mixed(0x7A2A26, 0xB04A3A, static_cast<float>((x / 3 + y) % 4) / 4),
                  3 + 0.1f * static_cast<float>(y));
    }
    c.bar(28, 0, 31, 31, woodDark, woodLight, true);
    for (int i = 0; i < 24; ++i)
        c.line(31, 4 + i, 31 + i * 3 / 4, 4 + i, mixed(0x8A8470, 0xC8C0A4, static_cast<float>(i % 5) / 5), 1.5f);
    c.rect(8, 22, 22, 30, 0x5E6E78, 2);
    c.rect(10, 24, 14, 28, 0xF0C878, 1);
    for (int y = 24; y < 28; ++y)
        for (int x = 10; x < 14; ++x)
            c.glow(x, y, 0xD09848);
    return c;
}

/// Four cells of moving water.
Canvas water() {
    constexpr int wide = 160, tall = 46;
    Canvas c(wide * 4, tall);
    for (int cell = 0; cell < 4; ++cell)
        for (int y = 0; y < tall; ++y)
            for (int x = 0; x < wide; ++x) {
                const double phase = cell * 1.5708, k = 6.28318 / wide;
                const double wave = std::sin(4 * k * x + y * 0.9 + phase) + std::sin(9 * k * x - y * 0.5 - 2 * phase);
                const double foam = y < 3 ? 1.2 : 0;
                const double level = 0.42 + 0.2 * wave + foam - 0.006 * y;
                const auto share = static_cast<float>(std::round(std::max(0.0, std::min(1.0, level)) * 5) / 5);
                c.put(cell * wide + x, y, mixed(0x10263A, 0x3F7A86, share), static_cast<float>(1.2 * wave));
            }
    return c;
}

/// The shed behind the right pier: weathered boards, a row of windows, a shingle roof.
Canvas shed() {
    Canvas c(150, 78);
    c.boards(2, 22, 148, 78, 7, 0x3E4A4C, 0x7E8E8A, true, 15);
    for (int y = 4; y < 24; ++y)
        for (int x = std::max(0, 10 - y / 2); x < std::min(150, 140 + y / 2); ++x) {
            const bool seam = y % 5 == 0 || (x + (y / 5) * 4) % 9 == 0;
            c.put(x, y, seam ? 0x2A2430 : mixed(0x4A3A46, 0x75606A, static_cast<float>((x * 13 + y / 5 * 7) % 10) / 10),
                  seam ? 0.5f : 1.6f);
        }
    for (int i = 0; i < 3; ++i) {
        const int x = 14 + i * 47;
        c.rect(x - 2, 46, x + 20, 66, 0x2A3032, 2.6f);
        for (int py = 48; py < 64; ++py)
            for (int px = x; px < x + 18; ++px) {
                const bool bar = px == x + 8 || py == 56;
                c.put(px, py, bar ? 0x2A3032 : 0x35506A, bar ? 2.6f : 0.4f);
                if (!bar && i == 1) c.glow(px, py, mixed(0x3A2408, 0xB07830, static_cast<float>(py - 48) / 16));
            }
    }
    return c;
}

Canvas gantry() {
    Canvas c(190, 22);
    c.bar(0, 14, 190, 20, iron, ironLight, false);
    for (int x = 2; x < 190; x += 12)
        c.bar(x, 2, x + 2, 15, iron, ironLight, true);
    c.bar(0, 1, 190, 4, iron, ironLight, false);
    for (int x = 0; x < 190; x += 6)
        c.put(x, 20, iron, 2);
    return c;
}

} // namespace

void paint_tide_gate(FlatWriter& w) {
    // By the standard key times: night, before dawn, dawn, noon, afternoon, dusk, nightfall. Stars go with the day.
    w.skies({{0, 0, 0, 3.4f},
             {0, 0, 0.01f, 3.0f},
             {0.50f, 0.30f, 0.26f, 0.3f},
             {0.26f, 0.50f, 0.84f, 0.12f},
             {0.32f, 0.48f, 0.74f, 0.12f},
             {0.40f, 0.15f, 0.10f, 0.6f},
             {0.02f, 0.02f, 0.05f, 2.6f}});
    w.layer("sky", 0.1f, false);
    w.layer("far shore", 0.35f);
    w.layer("house");
    w.layer("gate");
    w.layer("deck");
    w.layer("water");
    w.sheet("sky", sky(), 0, 0, 0);
    w.sheet("shore", shore(), 0, 0, 0);
    Canvas piers(300, 140);
    piers.lay(pier(2), 0, 0);
    piers.lay(pier(7), 150, 0);
    w.sheet("pier", piers, 150, 140);
    Canvas leaves(180, 112);
    leaves.lay(leaf(false), 0, 0);
    leaves.lay(leaf(true), 90, 0);
    w.sheet("leaf", leaves, 90, 112);
    w.sheet("house", house(), 0, 0, 1, true);
    w.sheet("lamp", lamp_post(), 0, 0, 1, true);
    w.sheet("crate", crate());
    w.sheet("barrel", barrel());
    w.sheet("boat", boat(), 0, 0, 1, true);
    w.sheet("water", water(), 160, 46);
    w.sheet("gantry", gantry());
    w.sheet("shed", shed(), 0, 0, 1, true);

    w.sprite("sky", "sky", "sky", {-256, -51});
    w.sprite("shore", "far shore", "shore", {-196, 8});
    w.sprite("winch house", "house", "house", {22, 150});
    w.sprite("shed", "house", "shed", {330, 150});
    w.sprite("left leaf", "gate", "leaf", {150, 30}, 0);
    w.sprite("right leaf", "gate", "leaf", {240, 30}, 1);
    w.sprite("left pier", "gate", "pier", {0, 12}, 0);
    w.sprite("right pier", "gate", "pier", {330, 12}, 1);
    const int bridge = w.sprite("gantry", "gate", "gantry", {145, 142});
    (void)bridge;
    const glm::vec2 posts[] = {{126, 150}, {342, 150}, {398, 150}, {452, 150}};
    for (int i = 0; i < 4; ++i)
        w.sprite("lamp post " + std::to_string(i + 1), "deck", "lamp", posts[i]);
    const int crates[] = {w.sprite("crate 1", "deck", "crate", {418, 150}),
                          w.sprite("crate 2", "deck", "crate", {424, 170}),
                          w.sprite("barrel", "deck", "barrel", {364, 150})};
    const int boat = w.sprite("boat", "deck", "boat", {182, 24});
    for (const int s : {crates[0], crates[1], crates[2], boat})
        w.always_lit(s);
    for (int i = 0; i < 4; ++i)
        w.sprite("water " + std::to_string(i + 1), "water", "water", {-80 + 160 * i, -10}, 0, 4, 3);

    // What stops light lies a little under the surface, so that faces catch some of it.
    w.wall("left pier", {{-40, -20}, {138, -20}, {138, 141}, {-40, 141}});
    w.wall("right pier", {{342, -20}, {520, -20}, {520, 141}, {342, 141}});
    w.wall("gate leaves", {{158, 20}, {322, 20}, {322, 132}, {158, 132}});
    w.wall("winch house", {{34, 152}, {106, 152}, {106, 200}, {34, 200}});
    w.wall("gantry deck", {{145, 147}, {335, 147}}, false);
    for (int i = 0; i < 3; ++i)
        w.traced(i == 2 ? "barrel" : "crate " + std::to_string(i + 1), crates[i], 1.0);

    const glm::vec3 warm(1.0f, 0.62f, 0.26f);
    for (int i = 0; i < 4; ++i) {
        Light& l = w.light("lamp " + std::to_string(i + 1), LightType::point, {posts[i].x + 8, posts[i].y + 44, 26},
                           warm, 1.9f, 104);
        l.sourceSize = 6;
        if (i == 3) {
            Motion& m = w.motion(l, MotionKind::flicker, 1.6f);
            m.depth = 0.7f;
            m.seed = 3;
        }
    }
    Light& moon = w.light("moon", LightType::directional, {0, 0, 0}, {0.42f, 0.58f, 0.95f}, 0.22f, 0);
    moon.direction = glm::normalize(glm::vec3(-0.45f, -0.75f, -0.6f));
    moon.flat.strongest = 0.8f;
    Light& sign = w.light("sign", LightType::point, {405, 199, 14}, {0.25f, 0.95f, 0.85f}, 1.3f, 24);
    sign.flat.shape = FlatShape::text;
    sign.flat.text = "TIDE GATE";
    sign.flat.size = 9;
    sign.flat.falloff = 3;
    sign.flat.casts = false;
    Motion& breath = w.motion(sign, MotionKind::pulse, 5);
    breath.depth = 0.25f;
    Light& beacon = w.light("beacon", LightType::spot, {240, 196, 40}, {1.0f, 0.92f, 0.72f}, 2.2f, 300);
    beacon.direction = {0.85f, -0.52f, 0};
    beacon.innerConeAngle = 0.06f;
    beacon.outerConeAngle = 0.24f;
    Motion& turning = w.motion(beacon, MotionKind::turn, 9);
    turning.angle = 1.9f;
    Light& lantern = w.light("boat lantern", LightType::point, {212, 60, 18}, {1.0f, 0.55f, 0.25f}, 1.5f, 72);
    Motion& bob = w.motion(lantern, MotionKind::path, 6);
    bob.way = {{0, 0, 0}, {2, 1, 0}, {3, 0, 0}, {1, -1, 0}};
    Light& tube = w.light("gate tube", LightType::point, {240, 139, 10}, {0.95f, 0.25f, 0.18f}, 1.1f, 30);
    tube.flat.shape = FlatShape::line;
    tube.flat.length = 120;
    Light& windows = w.light("window glow", LightType::point, {95, 178, 12}, warm, 0.9f, 44);
    windows.flat.layers = {"house", "deck", "gate"};
    windows.flat.casts = false;

    w.camera("the whole gate", {240, 135}, 270);
    w.camera("right pier", {400, 160}, 130);
    w.camera("between the piers", {240, 110}, 150);
}

} // namespace mirolux::demo
