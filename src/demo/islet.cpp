#include "demo/islet.h"
#include "core/image/image.h"
#include "core/scene/project.h"
#include <cmath>
#include <cstdio>

namespace mirolux::demo {

using namespace blocks;
using glm::ivec3;
using glm::vec3;

namespace {

constexpr ivec3 islet_size(192, 112, 192);
constexpr int sea = 15; // cells under this height are under water
constexpr glm::vec2 middle(104, 92);

/// sRGB as a painter writes it, to linear.
vec3 paint(std::uint32_t rgb) {
    vec3 out;
    for (int c = 0; c < 3; ++c)
        out[c] = static_cast<float>(srgb_decode(static_cast<double>(rgb >> (16 - 8 * c) & 255) / 255));
    return out;
}

std::uint32_t mixed(std::uint32_t a) {
    a ^= a >> 16;
    a *= 0x7feb352du;
    a ^= a >> 15;
    a *= 0x846ca68bu;
    return a ^ a >> 16;
}

/// 0 to 1 for whole places.
float speckle(int x, int y, int z, unsigned seed) {
    return static_cast<float>(mixed(static_cast<unsigned>(x) * 73856093u ^ static_cast<unsigned>(y) * 19349663u ^
                                    static_cast<unsigned>(z) * 83492791u ^ seed * 2654435761u) >>
                              8) *
           0x1p-24f;
}

/// Smooth between whole places, in the plane.
float hills(float x, float z, unsigned seed) {
    const float fx = std::floor(x), fz = std::floor(z);
    const int i = static_cast<int>(fx), k = static_cast<int>(fz);
    const auto ease = [](float t) { return t * t * (3 - 2 * t); };
    const float u = ease(x - fx), v = ease(z - fz);
    return glm::mix(glm::mix(speckle(i, 0, k, seed), speckle(i + 1, 0, k, seed), u),
                    glm::mix(speckle(i, 0, k + 1, seed), speckle(i + 1, 0, k + 1, seed), u), v);
}

/// Lays cells and names materials.
class Mason {
public:
    explicit Mason(Contents& c, unsigned seed) : c_(c), v_(c.world.still), seed_(seed) {}

    std::uint8_t material(const blocks::Material& m) {
        c_.world.palette.push_back(m);
        return static_cast<std::uint8_t>(c_.world.palette.size() - 1);
    }
    std::uint8_t plain(const char* name, std::uint32_t rgb, float roughness = 0.9f, float metallic = 0) {
        return material({.name = name, .color = paint(rgb), .roughness = roughness, .metallic = metallic});
    }
    std::uint8_t lamp(const char* name, std::uint32_t rgb, ivec3 light, float glow) {
        return material({.name = name, .color = paint(rgb), .roughness = 0.6f, .glow = glow, .light = light});
    }

    void put(const ivec3& at, std::uint8_t m) { v_.set(at, m); }
    void box(const ivec3& low, const ivec3& size, std::uint8_t m) { v_.fill(low, low + size, m); }
    /// One of several by the place: rows of boards, courses of stone, flecks of rock.
    template <class Choose>
    void box_of(const ivec3& low, const ivec3& size, const Choose& choose) {
        for (int y = low.y; y < low.y + size.y; ++y)
            for (int z = low.z; z < low.z + size.z; ++z)
                for (int x = low.x; x < low.x + size.x; ++x)
                    v_.set({x, y, z}, choose(ivec3(x, y, z)));
    }
    /// An upright drum; inner: of a hollow one.
    template <class Choose>
    void drum(glm::vec2 center, int y0, int y1, float radius, float inner, const Choose& choose) {
        const int reach = static_cast<int>(std::ceil(radius));
        for (int y = y0; y < y1; ++y)
            for (int dz = -reach; dz <= reach; ++dz)
                for (int dx = -reach; dx <= reach; ++dx) {
                    const float d = std::hypot(static_cast<float>(dx), static_cast<float>(dz));
                    if (d > radius || d < inner) continue;
                    const ivec3 at(static_cast<int>(center.x) + dx, y, static_cast<int>(center.y) + dz);
                    v_.set(at, choose(at));
                }
    }
    int ground(int x, int z) const {
        int y = islet_size.y - 1;
        while (y > 0 && v_.at({x, y, z}) == 0)
            --y;
        return y + 1;
    }
    std::uint8_t at(const ivec3& c) const { return v_.at(c); }
    float fleck(const ivec3& c) const { return speckle(c.x, c.y, c.z, seed_); }
    unsigned seed() const { return seed_; }

private:
    Contents& c_;
    Volume& v_;
    unsigned seed_;
};

struct Palette {
    std::uint8_t rock, darkRock, paleRock, moss, grass, dryGrass, soil, sand, water, board, darkBoard, trunk, needle,
        brick, darkBrick, white, red, tile, glass, iron, brass, rope, cloth[4], lantern, beacon, redLamp, greenLamp,
        window, ember, fruit, fish;
};

Palette mix_palette(Mason& m) {
    Palette p{};
    p.rock = m.plain("rock", 0x6f6a66);
    p.darkRock = m.plain("dark rock", 0x55514f);
    p.paleRock = m.plain("pale rock", 0x87807a);
    p.moss = m.plain("moss", 0x5d6b3f);
    p.grass = m.plain("grass", 0x5f7a3a);
    p.dryGrass = m.plain("dry grass", 0x7d8746);
    p.soil = m.plain("soil", 0x5a4636);
    p.sand = m.plain("sand", 0xbfa97c);
    p.water = m.material({.name = "water", .color = paint(0x215668), .roughness = 0.15f, .opacity = 0.92f, .loss = 4});
    p.board = m.plain("board", 0x8a6a48);
    p.darkBoard = m.plain("dark board", 0x6d5238);
    p.trunk = m.plain("trunk", 0x4d3a2b);
    p.needle = m.plain("needles", 0x2f4d33);
    p.brick = m.plain("masonry", 0x8f8981);
    p.darkBrick = m.plain("dark masonry", 0x6e6a66);
    p.white = m.plain("whitewash", 0xd9d5cb, 0.8f);
    p.red = m.plain("red wash", 0xa8362c, 0.8f);
    p.tile = m.plain("roof tile", 0x7d3f33);
    p.glass = m.material({.name = "glass", .color = paint(0xbfd6d8), .roughness = 0.1f, .opacity = 0.22f, .loss = 0});
    p.iron = m.plain("iron", 0x9a9da1, 0.38f, 1);
    p.brass = m.plain("brass", 0xc9a14a, 0.3f, 1);
    p.rope = m.plain("rope", 0xb49a6a);
    for (const auto& [i, rgb] : {std::pair(0, 0xb0413au), {1, 0xe0d8c4u}, {2, 0x3f6486u}, {3, 0xd0a13cu}})
        p.cloth[i] = m.plain(i == 0   ? "red cloth"
                             : i == 1 ? "pale cloth"
                             : i == 2 ? "blue cloth"
                                      : "yellow cloth",
                             rgb);
    p.lantern = m.lamp("lantern", 0xffd08a, {60, 52, 38}, 9);
    p.beacon = m.lamp("beacon", 0xfff2d0, {63, 61, 52}, 26);
    p.redLamp = m.lamp("red lamp", 0xff4a30, {46, 8, 4}, 7);
    p.greenLamp = m.lamp("green lamp", 0x4cff8a, {6, 44, 18}, 7);
    p.window = m.lamp("lit window", 0xffc46a, {40, 34, 23}, 3);
    p.ember = m.lamp("ember", 0xff7a2a, {50, 34, 16}, 6);
    p.fruit = m.plain("fruit", 0xc8642d);
    p.fish = m.plain("fish", 0x9fb2b8, 0.35f, 0.6f);
    return p;
}

/// Height of the ground, cells.
int height_of(int x, int z, unsigned seed) {
    const glm::vec2 d((static_cast<float>(x) - middle.x) / 66.0f, (static_cast<float>(z) - middle.y) / 58.0f);
    const float wave = 0.16f * (hills(static_cast<float>(x) * 0.06f, static_cast<float>(z) * 0.06f, seed + 1) - 0.5f) +
                       0.07f * (hills(static_cast<float>(x) * 0.19f, static_cast<float>(z) * 0.19f, seed + 2) - 0.5f);
    const float r = glm::length(d) + wave;
    // The sea's floor, a beach in the south-west, cliffs elsewhere, two terraces.
    float h = 4 + 3 * hills(static_cast<float>(x) * 0.05f, static_cast<float>(z) * 0.05f, seed + 3);
    const float beach = glm::smoothstep(0.1f, 0.7f, glm::dot(glm::normalize(d + 1e-4f), glm::vec2(-0.7f, 0.7f)));
    h += (24 + 2 * hills(static_cast<float>(x) * 0.08f, static_cast<float>(z) * 0.08f, seed + 4)) *
         (1 - glm::smoothstep(glm::mix(0.86f, 0.55f, beach), glm::mix(0.93f, 1.05f, beach), r));
    h += 16 * (1 - glm::smoothstep(0.46f, 0.52f, glm::length(glm::vec2(x, z) - glm::vec2(126, 70)) / 58.0f + wave));
    return static_cast<int>(h);
}

void lay_land(Mason& m, const Palette& p) {
    for (int z = 0; z < islet_size.z; ++z)
        for (int x = 0; x < islet_size.x; ++x) {
            const int h = height_of(x, z, m.seed());
            for (int y = 0; y < std::max(h, sea); ++y) {
                const ivec3 c(x, y, z);
                const float f = m.fleck(c);
                if (y >= h)
                    m.put(c, p.water);
                else if (y >= h - 1 && h > sea + 4)
                    m.put(c, f < 0.25f ? p.dryGrass : f > 0.94f ? p.moss : p.grass);
                else if (y >= h - 3 && h > sea + 4)
                    m.put(c, p.soil);
                else if (h <= sea + 4 && y >= h - 3)
                    m.put(c, f < 0.12f ? p.paleRock : p.sand);
                else { // bands of stone
                    const float band =
                        hills(static_cast<float>(x) * 0.07f + 0.02f * static_cast<float>(y),
                              static_cast<float>(y) * 0.35f + 0.01f * static_cast<float>(z), m.seed() + 9);
                    m.put(c, band + 0.5f * (f - 0.5f) < 0.36f   ? p.darkRock
                             : band + 0.5f * (f - 0.5f) > 0.68f ? p.paleRock
                                                                : p.rock);
                }
            }
        }
}

/// A way into the cliff from the water's edge, with a hall, a lamp and a hearth behind.
void dig_cave(Mason& m, const Palette& p) {
    const auto hollow = [&](vec3 center, vec3 size) {
        const ivec3 low(glm::floor(center - size)), high(glm::ceil(center + size));
        for (int y = low.y; y <= high.y; ++y)
            for (int z = low.z; z <= high.z; ++z)
                for (int x = low.x; x <= high.x; ++x) {
                    const vec3 d = (vec3(x, y, z) - center) / size;
                    const float rough = 0.25f * (m.fleck({x / 2, y / 2, z / 2}) - 0.5f);
                    if (y > sea && glm::dot(d, d) + rough < 1) m.put({x, y, z}, 0);
                }
    };
    hollow({104, 19, 158}, {7, 7, 12}); // the mouth, toward the south
    hollow({106, 20, 146}, {8, 7, 10});
    hollow({112, 21, 134}, {13, 9, 12}); // the hall
    hollow({130, 20, 126}, {10, 6, 7});  // a chamber round a corner
    hollow({122, 19, 131}, {8, 5, 6});
    for (int z = 120; z < 160; ++z) // its floor
        for (int x = 88; x < 142; ++x)
            if (m.at({x, sea - 1, z}) != p.water && m.at({x, sea, z}) == 0) m.put({x, sea - 1, z}, p.sand);
    for (const ivec3& c : {ivec3(108, 27, 136), {116, 27, 130}, {105, 24, 146}}) { // hung from the ceiling
        int top = c.y;
        while (top < 44 && m.at({c.x, top, c.z}) == 0)
            ++top;
        if (top == 44) continue; // no ceiling there
        for (int y = c.y; y < top; ++y)
            m.put({c.x, y, c.z}, p.rope);
        m.put({c.x, c.y - 1, c.z}, p.lantern);
    }
    m.put({134, m.ground(134, 126) > 40 ? 15 : m.ground(134, 126), 126}, p.ember);
    m.box({132, sea, 124}, {5, 1, 5}, p.darkRock);
    m.put({134, sea + 1, 126}, p.ember);
    m.put({135, sea + 1, 126}, p.ember);
}

/// From the landing on the beach to the upper terrace, in flights along the slope.
void build_stairs(Mason& m, const Palette& p) {
    ivec3 at(62, sea + 1, 128);
    const int top = 44;
    int flight = 0;
    while (at.y < top) {
        const ivec3 along = flight % 2 ? ivec3(1, 0, 0) : ivec3(0, 0, -1);
        const ivec3 width = flight % 2 ? ivec3(0, 0, 1) : ivec3(1, 0, 0);
        for (int step = 0; step < 9 && at.y < top; ++step) {
            for (int run = 0; run < 2; ++run) {
                for (int w = -3; w <= 3; ++w) {
                    const ivec3 c = at + w * width;
                    for (int y = std::min(m.ground(c.x, c.z), at.y); y <= at.y; ++y)
                        m.put({c.x, y, c.z}, std::abs(w) == 3 || (y + run) % 4 == 0 ? p.darkBrick : p.brick);
                    for (int y = at.y + 1; y < at.y + 9; ++y)
                        m.put({c.x, y, c.z}, 0);
                }
                at += along;
            }
            ++at.y;
        }
        // A landing with a lantern on its wall.
        for (int dz = -4; dz <= 4; ++dz)
            for (int dx = -4; dx <= 4; ++dx) {
                const ivec3 c = at + ivec3(dx, 0, dz) + 2 * along;
                for (int y = std::min(m.ground(c.x, c.z), at.y - 1); y < at.y; ++y)
                    m.put({c.x, y, c.z}, (dx + dz) % 3 ? p.brick : p.darkBrick);
                for (int y = at.y; y < at.y + 9; ++y)
                    m.put({c.x, y, c.z}, 0);
            }
        const ivec3 post = at + 2 * along + ivec3(flight % 2 ? -4 : 4, 0, flight % 2 ? -4 : 4);
        m.box(post, {1, 5, 1}, p.iron);
        m.put(post + ivec3(0, 5, 0), p.lantern);
        m.put(post + ivec3(0, 6, 0), p.iron);
        at += 2 * along;
        ++flight;
    }
}

void build_lighthouse(Mason& m, const Palette& p) {
    const glm::vec2 c(132, 66);
    const int base = m.ground(132, 66) - 2, top = base + 42;
    m.drum(c, base, base + 4, 13, 0, [&](const ivec3& a) { return a.y % 2 ? p.brick : p.darkBrick; });
    for (int y = base + 4; y < top; ++y) {
        const float radius = 9.4f - 0.075f * static_cast<float>(y - base);
        m.drum(c, y, y + 1, radius, radius - 2.2f,
               [&](const ivec3& a) { return (a.y - base) / 7 % 2 ? p.red : p.white; });
        m.drum(c, y, y + 1, radius - 2.3f, 0, [&](const ivec3&) { return std::uint8_t(0); });
    }
    m.drum(c, base + 4, base + 5, 7, 0, [&](const ivec3& a) { return (a.x + a.z) % 2 ? p.board : p.darkBoard; });
    for (int y = base + 5; y < top - 1; ++y) { // a winding stair
        const double turn = 0.5 * (y - base);
        for (float r = 2; r < 6; r += 0.5f)
            m.put({int(std::lround(c.x + r * std::cos(turn))), y, int(std::lround(c.y + r * std::sin(turn)))}, p.board);
    }
    for (int i = 0; i < 4; ++i) { // windows that look over the islet, a lamp within
        const int y = base + 10 + 8 * i;
        m.box({131, y, 72 - i / 2}, {3, 4, 4}, p.glass);
        m.put({132, y + 1, 66}, p.lantern);
    }
    m.box({131, base + 5, 73}, {3, 7, 4}, 0);                                                          // the door
    m.drum(c, top, top + 2, 9.5f, 0, [&](const ivec3& a) { return a.y % 2 ? p.darkBrick : p.brick; }); // the gallery
    m.drum(c, top + 2, top + 4, 9.5f, 8.6f, [&](const ivec3& a) { return (a.x + a.z) % 2 ? p.iron : std::uint8_t(0); });
    m.drum(c, top + 2, top + 11, 5.5f, 4.4f,
           [&](const ivec3& a) { return a.x == 132 || a.z == 66 ? p.iron : p.glass; });
    m.box({131, top + 2, 65}, {3, 2, 3}, p.brass);
    m.box({131, top + 4, 65}, {3, 4, 3}, p.beacon);
    for (int i = 0; i < 6; ++i)
        m.drum(c, top + 11 + i, top + 12 + i, 6.5f - static_cast<float>(i), 0, [&](const ivec3&) { return p.tile; });
    m.put({132, top + 17, 66}, p.redLamp);
}

void build_cottage(Mason& m, const Palette& p) {
    const ivec3 size(24, 12, 16);
    ivec3 at(92, 0, 60);
    at.y = m.ground(104, 68) - 1;
    m.box(at - ivec3(2, 3, 2), {size.x + 4, 4, size.z + 4}, p.darkBrick);
    m.box(at, {size.x, 16, size.z}, 0);
    m.box_of(at, size, [&](const ivec3& a) {
        const ivec3 d = a - at;
        const bool wall = d.x == 0 || d.z == 0 || d.x == size.x - 1 || d.z == size.z - 1;
        const bool beam = d.x % 8 == 0 || d.y == 0 || d.y == size.y - 1;
        return d.y == 0 ? p.board : !wall ? std::uint8_t(0) : beam ? p.trunk : p.white;
    });
    for (int i = 0; i < 10; ++i) // the roof, with its eaves
        m.box(at + ivec3(-2, size.y + i, -2 + i), {size.x + 4, 1, size.z + 4 - 2 * i}, i < 9 ? p.tile : p.darkBoard);
    for (int i = 1; i < 9; ++i)
        m.box(at + ivec3(1, size.y - 1 + i, i), {size.x - 2, 1, size.z - 2 * i}, 0);
    for (const int x : {3, 11, 18}) {
        m.box(at + ivec3(x, 4, size.z - 1), {4, 4, 1}, p.glass);
        m.box(at + ivec3(x, 4, 0), {4, 4, 1}, p.glass);
    }
    m.box(at + ivec3(9, 1, size.z - 1), {2, 7, 1}, p.darkBoard);
    for (const int x : {6, 16}) {
        m.box(at + ivec3(x, 8, 7), {1, 4, 1}, p.rope);
        m.put(at + ivec3(x, 7, 7), p.lantern);
    }
    m.box(at + ivec3(2, 1, 3), {6, 3, 4}, p.board); // a table
    m.box(at + ivec3(20, 1, 5), {3, 18, 4}, p.darkBrick);
    m.put(at + ivec3(20, 2, 6), p.ember);
    m.box(at + ivec3(20, 3, 6), {1, 2, 1}, 0);
}

void build_market(Mason& m, const Palette& p) {
    const ivec3 corner(78, 0, 92);
    const int floor = m.ground(96, 104);
    for (int z = 0; z < 34; ++z) // a paved square
        for (int x = 0; x < 46; ++x) {
            const ivec3 c(corner.x + x, floor - 1, corner.z + z);
            for (int y = std::min(m.ground(c.x, c.z), floor - 1); y < floor; ++y)
                m.put({c.x, y, c.z}, (x / 3 + z / 3) % 2 ? p.brick : p.paleRock);
            for (int y = floor; y < floor + 16; ++y)
                m.put({c.x, y, c.z}, 0);
        }
    for (int i = 0; i < 6; ++i) {
        const ivec3 at = corner + ivec3(3 + 15 * (i % 3), floor, i / 3 ? 22 : 3);
        for (const ivec3& post : {ivec3(0), {10, 0, 0}, {0, 0, 7}, {10, 0, 7}})
            m.box(at + post, {1, 9, 1}, p.trunk);
        const bool toward = i / 3 == 0;
        for (int z = -1; z <= 8; ++z) // an awning that slopes to the square
            for (int x = -1; x <= 11; ++x)
                m.put(at + ivec3(x, 10 - (toward ? z : 7 - z) / 4, z), (x + 1) / 2 % 2 ? p.cloth[1]
                                                                                       : p.cloth[i % 3 == 0   ? 0
                                                                                                 : i % 3 == 1 ? 2
                                                                                                              : 3]);
        m.box_of(at + ivec3(1, 0, 2), {9, 4, 4}, [&](const ivec3& a) { return a.x % 2 ? p.board : p.darkBoard; });
        for (int x = 1; x < 9; ++x)
            for (int z = 2; z < 5; ++z)
                if (m.fleck(at + ivec3(x, i, z)) < 0.7f)
                    m.put(at + ivec3(x + (x > 8), 4, z), i % 3 == 0 ? p.fruit : i % 3 == 1 ? p.fish : p.cloth[3]);
        m.put(at + ivec3(5, 8, 4), i % 2 ? p.window : p.lantern);
        m.put(at + ivec3(5, 9, 4), p.rope);
    }
    for (int i = 0; i < 5; ++i) { // lanterns on posts along the square
        const ivec3 at = corner + ivec3(2 + 10 * i, floor, 16);
        m.box(at, {1, 8, 1}, p.iron);
        m.box(at + ivec3(0, 8, 0), {1, 2, 1}, p.lantern);
        m.put(at + ivec3(0, 10, 0), p.iron);
    }
    // A rope from post to post hangs with small lamps.
    for (int i = 0; i < 40; ++i) {
        const int sag = static_cast<int>(2.4f * std::sin(glm::pi<float>() * static_cast<float>(i % 10) / 10));
        m.put(corner + ivec3(2 + i, floor + 10 - sag, 16), i % 5 == 2 ? (i % 10 == 2 ? p.redLamp : p.window) : p.rope);
    }
}

void plant_trees(Mason& m, const Palette& p) {
    for (const glm::ivec2 at : {glm::ivec2(150, 98),
                                {158, 84},
                                {146, 110},
                                {86, 48},
                                {74, 62},
                                {116, 46},
                                {66, 84},
                                {140, 92},
                                {128, 112},
                                {98, 44}}) {
        const int base = m.ground(at.x, at.y);
        if (base < sea + 6) continue;
        const int high = 18 + static_cast<int>(10 * m.fleck({at.x, 0, at.y}));
        m.box({at.x, base, at.y}, {2, high - 4, 2}, p.trunk);
        for (int y = 5; y < high; ++y) {
            const float r = (1 - static_cast<float>(y) / static_cast<float>(high)) * 7.5f + (y % 4 == 0 ? 1.2f : 0);
            m.drum({at.x, at.y}, base + y, base + y + 1, std::max(r, 0.8f), 0, [&](const ivec3& a) {
                return m.at(a) == p.trunk ? p.trunk : m.fleck(a) < 0.16f ? m.at(a) : p.needle;
            });
        }
    }
}

/// Great stones out to the west, a walk on them, a red and a green lamp at its head; a jetty of planks on the beach.
void build_breakwater(Mason& m, const Palette& p) {
    for (int i = 0; i < 62; ++i) {
        const int z = 96 + static_cast<int>(9 * std::sin(static_cast<float>(i) * 0.05f));
        for (int dz = -8; dz <= 8; ++dz) {
            const int rough = static_cast<int>(4 * speckle(i / 4, 0, (z + dz) / 4, m.seed() + 5));
            const int top = sea + 5 - std::max(0, std::abs(dz) - 3) * 2 + (std::abs(dz) > 3 ? rough : 0);
            for (int y = 2; y < top; ++y)
                m.put({4 + i, y, z + dz}, m.fleck({i / 3, y / 3, dz / 3}) < 0.4f ? p.darkRock : p.rock);
            if (std::abs(dz) <= 2) m.put({4 + i, sea + 5, z + dz}, dz % 2 ? p.brick : p.paleRock);
        }
        if (i % 12 == 6) {
            m.box({4 + i, sea + 6, z - 3}, {1, 4, 1}, p.iron);
            m.put({4 + i, sea + 10, z - 3}, i == 6 ? p.redLamp : p.lantern);
        }
    }
    m.drum({8, 97}, sea + 6, sea + 15, 3.2f, 0, [&](const ivec3& a) { return (a.y - sea) / 3 % 2 ? p.red : p.white; });
    m.put({8, sea + 15, 97}, p.redLamp);
    for (int i = 0; i < 30; ++i) // the jetty
        for (int w = 0; w < 6; ++w) {
            m.put({52 + w, sea + 2, 138 + i}, i % 2 ? p.board : p.darkBoard);
            if (i % 7 == 3 && (w == 0 || w == 5)) m.box({52 + w, 3, 138 + i}, {1, sea + 2, 1}, p.trunk);
        }
    for (const int z : {145, 166}) {
        m.box({52, sea + 3, z}, {1, 5, 1}, p.trunk);
        m.put({52, sea + 8, z}, z == 166 ? p.greenLamp : p.lantern);
    }
    m.box_of({50, sea + 1, 124}, {14, 1, 14}, [&](const ivec3& a) { return (a.x + a.z) % 3 ? p.brick : p.darkBrick; });
}

/// A ship's boat: hull, thwarts, a lantern at the stern.
Prop ships_boat(const Palette& p) {
    Prop boat{.name = "ship's boat", .cells = Volume(ivec3(15, 16, 34))};
    const glm::vec2 c(7, 17);
    for (int y = 0; y < 7; ++y)
        for (int z = 0; z < 34; ++z) {
            const float t = (static_cast<float>(z) + 0.5f - c.y) / 17.0f;
            const float half =
                (4.2f + 0.45f * static_cast<float>(y)) * std::sqrt(std::max(0.0f, 1 - t * t * (t < 0 ? 1 : 0.55f)));
            const int lift = static_cast<int>(t * t * 3);
            for (int x = 0; x < 15; ++x) {
                const float d = std::abs(static_cast<float>(x) - c.x);
                if (d > half || y < lift) continue;
                const bool shell = d > half - 1.3f || y == lift || z < 2 || z > 32;
                if (shell) boat.cells.set({x, y, z}, y == 6 ? p.white : y == 5 ? p.red : y % 2 ? p.board : p.darkBoard);
            }
        }
    for (const int z : {9, 17, 25})
        for (int x = 2; x < 13; ++x)
            if (boat.cells.at({x, 4, z}) == 0) boat.cells.set({x, 4, z}, p.board);
    boat.cells.fill({7, 1, 16}, {8, 16, 17}, p.trunk);
    for (int y = 8; y < 15; ++y)
        for (int z = 17; z < 17 + (15 - y); ++z)
            boat.cells.set({7, y, z}, p.cloth[1]);
    boat.cells.fill({7, 7, 31}, {8, 9, 32}, p.iron);
    boat.cells.set({7, 9, 31}, p.lantern);
    boat.place = {34, sea - 2, 150};
    boat.pivot = {7.5f, 0, 17};
    boat.turn = 0.6f;
    boat.rate = 0.15f;
    return boat;
}

Camera look(const char* name, vec3 eye, vec3 aim, float fov = 0.9f) {
    const float edge = 0.25f;
    return {.name = name, .eye = eye * edge, .aim = aim * edge, .fovY = fov};
}

} // namespace

Contents light_islet(unsigned seed) {
    Contents c;
    c.name = "Light islet";
    c.world.edge = 0.25f;
    c.world.still = Volume(islet_size);
    Mason m(c, seed);
    const Palette p = mix_palette(m);
    lay_land(m, p);
    build_breakwater(m, p);
    dig_cave(m, p);
    build_market(m, p);
    build_cottage(m, p);
    build_stairs(m, p);
    build_lighthouse(m, p);
    plant_trees(m, p);
    c.world.props.push_back(ships_boat(p));
    Light moon;
    moon.id = 0;
    moon.name = "moon";
    moon.type = LightType::directional;
    moon.direction = glm::normalize(vec3(0.55f, -0.62f, -0.56f));
    moon.color = vec3(0.62f, 0.74f, 1.0f);
    moon.unit = IntensityUnit::lux;
    moon.intensity = 0.5f;
    moon.sourceSize = glm::radians(0.52f);
    c.lights.push_back(moon);
    c.cameras = {
        look("from the sea", {22, 46, 206}, {104, 30, 92}), look("market", {70, 46, 130}, {104, 34, 100}),
        look("cave", {104, 22, 160}, {112, 22, 128}, 1.1f), look("lighthouse", {92, 58, 118}, {130, 60, 68}),
        look("breakwater", {2, 30, 118}, {60, 20, 96}),     look("over the islet", {96, 150, 190}, {100, 20, 92})};
    return c;
}

Contents islet_of_edge(int edge, unsigned seed) {
    const Contents one = light_islet(seed);
    Contents c = one;
    c.name = "islet " + std::to_string(edge);
    c.world.still = Volume(ivec3(edge));
    const int high = std::min(edge, islet_size.y);
    for (int y = 0; y < high; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x)
                if (const std::uint8_t m = one.world.still.at({x % islet_size.x, y, z % islet_size.z}); m != 0)
                    c.world.still.set({x, y, z}, m);
    return c;
}

Result<void> write_islet_of_edge(const std::filesystem::path& folder, int edge, unsigned seed) {
    return write_blocks(islet_of_edge(edge, seed), folder / ("islet-" + std::to_string(edge) + ".blocks"));
}

static void choose(Setup& setup, const char* key, const Value& value) {
    if (auto done = setup.set(key, value); !done) std::fprintf(stderr, "%s\n", to_text(done.error()).c_str());
}

/// The same cells at noon: the sun in the moon's place, before which lamps are nothing.
static Result<void> write_day(Project p, const SceneAsset& asset, const std::filesystem::path& folder) {
    p.name = "Light islet by day";
    p.sky = {{5200, 6000, 7200}, {1500, 2600, 5200}};
    for (Light& l : p.lights) {
        l.name = "sun";
        l.direction = glm::normalize(vec3(0.52f, -0.66f, -0.54f));
        l.color = vec3(1.0f, 0.93f, 0.82f);
        l.intensity = 82000;
    }
    choose(p.setup, "blocks.light", std::string("cast"));
    choose(p.setup, "blocks.top", vec3(3600, 4300, 5600));
    choose(p.setup, "blocks.side", vec3(2500, 2800, 3300));
    choose(p.setup, "blocks.bottom", vec3(1500, 1450, 1300));
    choose(p.setup, "exposure.ev100", 14.2);
    Setup flood = p.setup;
    choose(flood, "blocks.light", std::string("flood"));
    p.setups = {{"day", p.setup}, {"day by levels", flood}};
    return save_project(p, asset, folder / "light-islet-day.mirolux");
}

Result<void> write_islet(const std::filesystem::path& folder) {
    const auto file = folder / "light-islet.blocks";
    if (auto done = write_blocks(light_islet(), file); !done) return done;
    auto open = open_project(file);
    if (!open) return tl::unexpected(open.error());
    Project& p = open->project;
    p.name = "Light islet";
    p.sky = {{0.045f, 0.055f, 0.075f}, {0.006f, 0.012f, 0.030f}};
    choose(p.setup, "blocks.light", std::string("flood"));
    Setup day = p.setup;
    choose(day, "blocks.light", std::string("cast"));
    choose(day, "blocks.top", vec3(0.30f, 0.36f, 0.46f));
    choose(day, "blocks.side", vec3(0.20f, 0.23f, 0.28f));
    choose(day, "blocks.bottom", vec3(0.10f, 0.10f, 0.10f));
    choose(day, "exposure.ev100", -0.4);
    Setup glint = p.setup;
    choose(glint, "blocks.light", std::string("flood-origin"));
    p.setups = {{"night", p.setup}, {"light with its direction", glint}, {"moon by rays", day}};
    if (auto done = save_project(p, *open->asset, folder / "light-islet.mirolux"); !done) return done;
    return write_day(std::move(p), *open->asset, folder);
}

} // namespace mirolux::demo
