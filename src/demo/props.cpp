#include "demo/props.h"
#include <cmath>

namespace mirolux::demo {

using glm::vec3;

MeshBuilder container(const Materials& m, int color) {
    MeshBuilder b;
    b.uvScale = 2.4f;
    const int skin = m.container[color];
    const float l = 6.06f, w = 2.44f, h = 2.59f;
    b.box(skin, {-l / 2 + 0.06f, 0.12f, -w / 2 + 0.05f}, {l - 0.12f, h - 0.2f, w - 0.1f});
    for (const float x : {-l / 2, l / 2 - 0.12f})
        for (const float z : {-w / 2, w / 2 - 0.12f})
            b.box(m.darkSteel, {x, 0, z}, {0.12f, h, 0.12f});
    for (const float y : {0.0f, h - 0.12f})
        for (const float z : {-w / 2, w / 2 - 0.1f})
            b.box(m.darkSteel, {-l / 2, y, z}, {l, 0.12f, 0.1f});
    for (const float y : {0.0f, h - 0.12f})
        for (const float x : {-l / 2, l / 2 - 0.1f})
            b.box(m.darkSteel, {x, y, -w / 2}, {0.1f, 0.12f, w});
    for (int i = 0; i < 4; ++i) { // door bars and handles
        const float z = -0.85f + 0.57f * i;
        b.cylinder(m.steel, {l / 2 + 0.03f, 0.15f, z}, {l / 2 + 0.03f, h - 0.15f, z}, 0.025f, 0.025f, 8, false);
        b.box(m.steel, {l / 2, 1.0f, z - 0.12f}, {0.07f, 0.04f, 0.24f});
    }
    return b;
}

MeshBuilder car(const Materials& m, int color) {
    MeshBuilder b;
    const int paint = m.carPaint[color];
    // Half outline of the body's top from nose to tail; sections run along x (forward is +x).
    struct Station {
        float x, low, high, width;
    };
    const Station body[] = {
        {2.12f, 0.42f, 0.60f, 0.62f},  {2.05f, 0.30f, 0.70f, 0.76f},  {1.70f, 0.26f, 0.80f, 0.84f},
        {0.95f, 0.25f, 0.90f, 0.87f},  {0.30f, 0.25f, 0.93f, 0.88f},  {-1.10f, 0.25f, 0.95f, 0.88f},
        {-1.80f, 0.27f, 0.95f, 0.85f}, {-2.05f, 0.34f, 0.86f, 0.78f}, {-2.12f, 0.46f, 0.70f, 0.66f}};
    auto ring = [](float x, float low, float high, float width, float round) {
        std::vector<vec3> r;
        const int n = 20;
        for (int i = 0; i <= n; ++i) {
            const float t = 6.2831853f * i / n;
            auto squash = [&](float v) { return std::copysign(std::pow(std::abs(v), round), v); };
            r.push_back(
                {x, (low + high) * 0.5f + (high - low) * 0.5f * squash(std::sin(t)), width * squash(std::cos(t))});
        }
        return r;
    };
    std::vector<std::vector<vec3>> sections;
    for (const Station& s : body)
        sections.push_back(ring(s.x, s.low, s.high, s.width, 0.42f));
    b.loft(paint, sections, true);
    const Station cabin[] = {{0.98f, 0.86f, 0.90f, 0.66f},  {0.55f, 0.84f, 1.24f, 0.68f},
                             {0.15f, 0.84f, 1.42f, 0.67f},  {-0.75f, 0.84f, 1.44f, 0.66f},
                             {-1.35f, 0.84f, 1.28f, 0.66f}, {-1.85f, 0.86f, 0.92f, 0.64f}};
    sections.clear();
    for (const Station& s : cabin)
        sections.push_back(ring(s.x, s.low, s.high, s.width, 0.55f));
    b.loft(m.darkSteel, sections, true);
    b.box(paint, {-0.9f, 1.415f, -0.52f}, {1.15f, 0.035f, 1.04f});
    for (const float x : {1.32f, -1.30f})
        for (const float z : {-0.82f, 0.82f}) {
            b.torus(m.rubber, {x, 0.33f, z}, {0, 0, 1}, 0.23f, 0.10f, 18, 8);
            b.cylinder(m.steel, {x, 0.33f, z - 0.06f}, {x, 0.33f, z + 0.06f}, 0.19f, 0.19f, 14);
        }
    for (const float z : {-0.60f, 0.60f}) {
        b.sphere(m.whiteGlow, {2.08f, 0.62f, z}, 0.085f, 10, 6);
        b.box(m.redGlow, {-2.14f, 0.62f, z - 0.14f}, {0.05f, 0.10f, 0.28f});
    }
    b.box(m.darkSteel, {2.05f, 0.36f, -0.34f}, {0.09f, 0.14f, 0.68f});
    return b;
}

MeshBuilder bollard_lamp(const Materials& m) {
    MeshBuilder b;
    b.cylinder(m.concrete, {0, 0, 0}, {0, 0.12f, 0}, 0.17f, 0.15f, 14);
    b.cylinder(m.darkSteel, {0, 0.12f, 0}, {0, 0.86f, 0}, 0.075f, 0.065f, 12, false);
    b.cylinder(m.lampGlow, {0, 0.86f, 0}, {0, 1.04f, 0}, 0.07f, 0.07f, 14);
    for (int i = 0; i < 4; ++i) {
        const float t = 1.5707963f * i + 0.4f;
        b.bar(m.darkSteel, {0.08f * std::cos(t), 0.86f, 0.08f * std::sin(t)},
              {0.08f * std::cos(t), 1.04f, 0.08f * std::sin(t)}, 0.014f);
    }
    b.cylinder(m.darkSteel, {0, 1.04f, 0}, {0, 1.10f, 0}, 0.14f, 0.03f, 14);
    return b;
}

MeshBuilder street_lamp(const Materials& m) {
    MeshBuilder b;
    b.cylinder(m.darkSteel, {0, 0, 0}, {0, 0.5f, 0}, 0.13f, 0.10f, 12);
    b.cylinder(m.steel, {0, 0.5f, 0}, {0, 6.6f, 0}, 0.075f, 0.055f, 12, false);
    for (int i = 0; i < 6; ++i) {
        const float t0 = 1.5707963f * i / 6, t1 = 1.5707963f * (i + 1) / 6;
        b.cylinder(m.steel, {1.3f * (1 - std::cos(t0)), 6.6f + 0.6f * std::sin(t0), 0},
                   {1.3f * (1 - std::cos(t1)), 6.6f + 0.6f * std::sin(t1), 0}, 0.05f, 0.05f, 10, false);
    }
    b.box(m.darkSteel, {1.15f, 7.16f, -0.17f}, {0.75f, 0.10f, 0.34f});
    b.box(m.whiteGlow, {1.22f, 7.12f, -0.13f}, {0.60f, 0.05f, 0.26f});
    return b;
}

MeshBuilder gantry(const Materials& m) {
    MeshBuilder b;
    const float h = 14.0f, r = 0.45f;
    const vec3 corner[4] = {{-r, 0, -r}, {r, 0, -r}, {r, 0, r}, {-r, 0, r}};
    for (const vec3& c : corner)
        b.bar(m.steel, c, c + vec3(0, h, 0), 0.09f);
    for (int level = 0; level < 14; ++level)
        for (int k = 0; k < 4; ++k) {
            const vec3 a = corner[k] + vec3(0, level * 1.0f, 0), d = corner[(k + 1) % 4] + vec3(0, level * 1.0f, 0);
            b.bar(m.steel, a, d, 0.05f);
            b.bar(m.steel, level % 2 ? a : d, (level % 2 ? d : a) + vec3(0, 1, 0), 0.045f);
        }
    b.box(m.darkSteel, {-1.6f, h, -0.7f}, {3.2f, 0.12f, 1.4f});
    for (int i = 0; i < 4; ++i) {
        const float x = -1.2f + 0.8f * i;
        b.box(m.darkSteel, {x - 0.28f, h - 0.50f, 0.62f}, {0.56f, 0.42f, 0.22f});
        b.box(m.whiteGlow, {x - 0.24f, h - 0.46f, 0.83f}, {0.48f, 0.34f, 0.03f});
    }
    return b;
}

MeshBuilder bench(const Materials& m) {
    MeshBuilder b;
    for (int i = 0; i < 4; ++i)
        b.box(m.wood, {-0.9f, 0.43f, -0.24f + 0.125f * i}, {1.8f, 0.035f, 0.1f});
    for (int i = 0; i < 3; ++i)
        b.box(m.wood, {-0.9f, 0.58f + 0.13f * i, -0.28f}, {1.8f, 0.1f, 0.03f});
    for (const float x : {-0.75f, 0.75f}) {
        b.box(m.darkSteel, {x, 0, -0.26f}, {0.05f, 0.95f, 0.04f});
        b.box(m.darkSteel, {x, 0, 0.2f}, {0.05f, 0.43f, 0.04f});
        b.box(m.darkSteel, {x, 0.39f, -0.26f}, {0.05f, 0.04f, 0.5f});
    }
    return b;
}

MeshBuilder barrel(const Materials& m, int material) {
    MeshBuilder b;
    b.cylinder(material, {0, 0, 0}, {0, 0.88f, 0}, 0.29f, 0.29f, 18);
    for (const float y : {0.02f, 0.29f, 0.58f, 0.86f})
        b.torus(m.darkSteel, {0, y, 0}, {0, 1, 0}, 0.29f, 0.018f, 18, 5);
    return b;
}

MeshBuilder crate(const Materials& m) {
    MeshBuilder b;
    b.uvScale = 1.2f;
    b.box(m.wood, {-0.46f, 0.04f, -0.46f}, {0.92f, 0.88f, 0.92f});
    for (const float y : {0.0f, 0.86f})
        for (const float s : {-0.5f, 0.42f}) {
            b.box(m.planks, {-0.5f, y, s}, {1.0f, 0.1f, 0.08f});
            b.box(m.planks, {s, y, -0.5f}, {0.08f, 0.1f, 1.0f});
        }
    for (const float x : {-0.5f, 0.42f})
        for (const float z : {-0.5f, 0.42f})
            b.box(m.planks, {x, 0, z}, {0.08f, 0.96f, 0.08f});
    return b;
}

MeshBuilder mooring_bollard(const Materials& m) {
    MeshBuilder b;
    b.cylinder(m.darkSteel, {0, 0, 0}, {0, 0.08f, 0}, 0.34f, 0.34f, 16);
    b.cylinder(m.darkSteel, {0, 0.08f, 0}, {0, 0.46f, 0}, 0.17f, 0.15f, 16, false);
    b.cylinder(m.darkSteel, {0, 0.46f, 0}, {0, 0.58f, 0}, 0.25f, 0.22f, 16);
    b.torus(m.rope, {0, 0.22f, 0}, {0, 1, 0}, 0.20f, 0.035f, 18, 6);
    b.torus(m.rope, {0, 0.29f, 0}, {0, 1, 0}, 0.20f, 0.035f, 18, 6);
    return b;
}

MeshBuilder railing(const Materials& m, float length) {
    MeshBuilder b;
    const int posts = static_cast<int>(length / 1.5f);
    for (int i = 0; i <= posts; ++i)
        b.cylinder(m.whitePaint, {0, 0, length * i / posts}, {0, 1.05f, length * i / posts}, 0.025f, 0.025f, 6, false);
    for (const float y : {0.38f, 0.72f, 1.05f})
        b.cylinder(m.whitePaint, {0, y, 0}, {0, y, length}, y > 1 ? 0.03f : 0.015f, y > 1 ? 0.03f : 0.015f, 8, false);
    return b;
}

MeshBuilder picket_fence(const Materials& m) {
    MeshBuilder b;
    const float gable = 0.045f; // half its width
    for (int i = 0; i < 28; ++i) {
        const float x = 0.15f * static_cast<float>(i);
        b.box(m.whitePaint, {x, 0.06f, 0}, {0.09f, 0.92f, 0.02f});
        b.quad(m.whitePaint, {x + gable, 0.98f - gable, 0.02f}, {gable, gable, 0}, {-gable, gable, 0});
    }
    for (const float y : {0.25f, 0.75f})
        b.box(m.whitePaint, {-0.05f, y, -0.04f}, {4.25f, 0.09f, 0.04f});
    return b;
}

MeshBuilder tide_board(const Materials& m) {
    MeshBuilder b;
    const float turn = 0.0872665f; // five degrees
    const vec3 across(1.3f * std::cos(turn), 1.3f * std::sin(turn), 0),
        up(-0.45f * std::sin(turn), 0.45f * std::cos(turn), 0), corner(4.6f, 0.75f, 0.03f);
    b.quad(m.darkSteel, corner, across, up);
    b.quad(m.whitePaint, corner + up, across, up);
    b.quad(m.planks, corner + across, -across, 2.0f * up);
    for (const float x : {4.75f, 5.65f})
        b.box(m.wood, {x, 0, -0.06f}, {0.08f, 1.5f, 0.06f});
    return b;
}

MeshBuilder ferry(const Materials& m) {
    MeshBuilder b;
    b.uvScale = 3.0f;
    // Hull: sections along z, bow at +z; each section from port rail under the keel to starboard rail.
    const float length = 52.0f, beam = 5.6f;
    std::vector<std::vector<vec3>> hull;
    for (int j = 0; j <= 40; ++j) {
        const float s = j / 40.0f, z = -length / 2 + length * s;
        const float full = std::min(1.0f, 0.80f + 2.2f * s) *
                           std::pow(std::max(0.0f, 1.0f - std::pow(std::max(0.0f, s - 0.62f) / 0.38f, 2.4f)), 0.6f);
        const float sheer = 2.5f + 1.5f * std::pow(std::max(0.0f, s - 0.5f) * 2.0f, 2.0f);
        std::vector<vec3> ring;
        for (int i = 0; i <= 20; ++i) {
            const float t = -1.0f + i / 10.0f;
            const float side = std::copysign(std::pow(std::abs(t), 0.55f), t);
            ring.push_back({side * beam * full, -1.6f + (sheer + 1.6f) * std::pow(std::abs(t), 2.6f), z});
        }
        hull.push_back(ring);
    }
    b.loft(m.ferryHull, hull, true);
    b.loft(
        m.whitePaint,
        {{hull[0][0], hull[0][20]}, {hull[0][3], hull[0][17]}, {hull[0][7], hull[0][13]}, {hull[0][10], hull[0][10]}});
    for (int j = 0; j < 40; ++j) // deck
        b.loft(m.ferryDeck,
               {{hull[j][0] + vec3(0, -0.5f, 0), hull[j][20] + vec3(0, -0.5f, 0)},
                {hull[j + 1][0] + vec3(0, -0.5f, 0), hull[j + 1][20] + vec3(0, -0.5f, 0)}},
               true);
    auto house = [&](float x, float y, float z0, float z1, float h, int windows) {
        b.box(m.whitePaint, {-x, y, z0}, {2 * x, h, z1 - z0});
        const float pitch = (z1 - z0) / windows;
        for (int i = 0; i < windows; ++i)
            for (const float side : {-x - 0.02f, x - 0.02f})
                b.box(m.screen, {side, y + 0.9f, z0 + pitch * (i + 0.2f)}, {0.04f, h - 1.5f, pitch * 0.6f});
    };
    house(4.4f, 2.0f, -20, 12, 2.7f, 18);
    b.box(m.ferryDeck, {-4.9f, 4.7f, -21}, {9.8f, 0.14f, 34});
    house(3.5f, 4.84f, -14, 9, 2.5f, 12);
    b.box(m.ferryDeck, {-4.0f, 7.34f, -15}, {8.0f, 0.14f, 25.5f});
    house(2.6f, 7.48f, 1, 8, 2.3f, 4);
    b.box(m.screen, {-2.2f, 8.4f, 7.98f}, {4.4f, 0.9f, 0.05f});
    b.cylinder(m.ferryHull, {0, 7.4f, -7}, {0, 11.0f, -7.8f}, 1.25f, 1.05f, 20);
    b.cylinder(m.whitePaint, {0, 9.4f, -7.45f}, {0, 10.1f, -7.6f}, 1.2f, 1.18f, 20, false);
    b.cylinder(m.whitePaint, {0, 9.7f, 3}, {0, 14.5f, 3}, 0.12f, 0.06f, 10);
    b.bar(m.whitePaint, {-1.6f, 12.6f, 3}, {1.6f, 12.6f, 3}, 0.07f);
    b.sphere(m.whiteGlow, {0, 14.5f, 3}, 0.14f, 10, 8);
    b.sphere(m.redGlow, {-2.7f, 9.0f, 6}, 0.13f, 10, 8);
    b.sphere(m.greenGlow, {2.7f, 9.0f, 6}, 0.13f, 10, 8);
    for (const float side : {-4.75f, 4.75f}) {
        for (int i = 0; i <= 22; ++i)
            b.bar(m.whitePaint, {side, 4.84f, -20.5f + 1.5f * i}, {side, 5.84f, -20.5f + 1.5f * i}, 0.04f);
        for (const float y : {5.2f, 5.52f, 5.84f})
            b.bar(m.whitePaint, {side, y, -20.5f}, {side, y, 12.5f}, 0.035f);
    }
    for (int i = 0; i < 5; ++i) // lifeboats
        for (const float side : {-3.9f, 3.9f}) {
            if (i == 2) continue;
            std::vector<std::vector<vec3>> boat;
            for (int j = 0; j <= 8; ++j) {
                const float s = j / 8.0f, w = 0.55f * std::sqrt(std::max(0.0f, 1 - std::pow(2 * s - 1, 2.0f)));
                std::vector<vec3> ring;
                for (int k = 0; k <= 10; ++k)
                    ring.push_back(vec3(side, 8.2f, -13.0f + 4.0f * i) + vec3(w * std::cos(0.62831853f * k),
                                                                              0.42f * std::sin(0.62831853f * k),
                                                                              -1.4f + 2.8f * s));
                boat.push_back(ring);
            }
            b.loft(m.sign, boat, false);
        }
    for (int i = 0; i < 12; ++i)
        for (const float side : {-4.5f, 4.5f})
            b.sphere(m.whiteGlow, {side, 4.55f, -19.0f + 2.7f * i}, 0.09f, 10, 6);
    return b;
}

MeshBuilder hall(const Materials& m) {
    MeshBuilder b;
    b.uvScale = 2.0f;
    // 24 x 14 m, floor 0.12 m up, roof on steel frames.
    b.quad(m.tiles, {-12, 0.12f, 7}, {24, 0, 0}, {0, 0, -14}, 6, 4);
    b.box(m.concrete, {-12.3f, 0, -7.3f}, {24.6f, 0.11f, 14.6f});
    for (int i = 0; i <= 6; ++i) {
        const float x = -12.0f + 4.0f * i;
        for (const float z : {-7.0f, 7.0f})
            b.box(m.darkSteel, {x - 0.08f, 0.1f, z - 0.08f}, {0.16f, 4.3f, 0.16f});
        b.box(m.steel, {x - 0.09f, 4.4f, -7.3f}, {0.18f, 0.34f, 14.6f});
        for (int k = 0; k < 7; ++k)
            b.bar(m.steel, {x, 4.1f, -6.5f + 2.0f * k}, {x, 4.4f, -5.5f + 2.0f * k}, 0.05f);
    }
    for (int k = 0; k <= 7; ++k)
        b.box(m.steel, {-12.2f, 4.74f, -7.0f + 2.0f * k - 0.05f}, {24.4f, 0.10f, 0.10f});
    b.box(m.container[3], {-12.8f, 4.84f, -7.8f}, {25.6f, 0.10f, 15.6f});
    for (const float z : {-7.0f, 7.0f})
        for (int i = 0; i <= 24; ++i)
            b.box(m.darkSteel, {-12.0f + i - 0.025f, 0.12f, z - 0.03f}, {0.05f, 4.28f, 0.06f});
    for (const float z : {-7.0f, 7.0f})
        for (const float y : {0.12f, 2.4f, 4.3f})
            b.box(m.darkSteel, {-12, y, z - 0.035f}, {24, 0.07f, 0.07f});
    for (int i = 0; i < 5; ++i)
        for (const float z : {-3.5f, 0.0f, 3.5f}) {
            b.box(m.darkSteel, {-9.6f + 4.6f * i, 4.12f, z - 0.12f}, {1.4f, 0.08f, 0.24f});
            b.box(m.lampGlow, {-9.55f + 4.6f * i, 4.09f, z - 0.09f}, {1.3f, 0.04f, 0.18f});
        }
    b.box(m.concrete, {-12, 0.12f, -7}, {0.25f, 4.3f, 14});
    b.box(m.sign, {-4.5f, 4.98f, 7.3f}, {9.0f, 0.12f, 0.3f});
    for (int i = 0; i < 8; ++i) // an abstract sign of lit bars
        b.box(m.amberGlow, {-4.2f + 1.08f * i, 5.10f, 7.5f},
              {0.70f, 0.55f + 0.25f * static_cast<float>((i * 5) % 3), 0.08f});
    return b;
}

MeshBuilder hall_glass(const Materials& m, float x) {
    MeshBuilder b;
    b.quad(m.glass, {x, 0.19f, 0}, {0.95f, 0, 0}, {0, 4.1f, 0});
    return b;
}

MeshBuilder kiosk(const Materials& m) {
    MeshBuilder b;
    b.uvScale = 1.6f;
    b.box(m.planks, {-1.5f, 0, -1.2f}, {3.0f, 1.05f, 2.4f});
    for (const float x : {-1.5f, 1.4f})
        for (const float z : {-1.2f, 1.1f})
            b.box(m.darkSteel, {x, 1.05f, z}, {0.1f, 1.35f, 0.1f});
    b.box(m.planks, {-1.5f, 1.05f, -1.2f}, {3.0f, 1.35f, 0.08f});
    b.box(m.sign, {-1.9f, 2.4f, -1.6f}, {3.8f, 0.14f, 3.2f});
    b.box(m.amberGlow, {-1.2f, 2.56f, 1.45f}, {2.4f, 0.34f, 0.08f});
    b.box(m.wood, {-1.6f, 1.05f, 1.1f}, {3.2f, 0.06f, 0.5f});
    b.box(m.screen, {0.5f, 1.2f, 0.9f}, {0.6f, 0.42f, 0.04f});
    return b;
}

MeshBuilder workshop(const Materials& m) {
    MeshBuilder b;
    b.uvScale = 2.5f;
    // Four rooms of 7 x 9 m in a row along x, roller doors between them half open, fronts open to +z.
    b.quad(m.concrete, {-14, 0.05f, 4.5f}, {28, 0, 0}, {0, 0, -9}, 8, 3);
    b.box(m.container[2], {-14.2f, 0, -4.7f}, {28.4f, 4.4f, 0.2f});
    b.box(m.container[4], {-14.4f, 4.4f, -4.9f}, {28.8f, 0.15f, 9.8f});
    for (int i = 0; i <= 4; ++i) {
        const float x = -14.0f + 7.0f * i;
        if (i == 0 || i == 4)
            b.box(m.container[2], {x - 0.1f, 0, -4.6f}, {0.2f, 4.4f, 9.2f});
        else {
            b.box(m.concrete, {x - 0.1f, 0, -4.6f}, {0.2f, 4.4f, 3.1f});
            b.box(m.concrete, {x - 0.1f, 0, 1.5f}, {0.2f, 4.4f, 3.1f});
            b.box(m.concrete, {x - 0.1f, 3.2f, -1.5f}, {0.2f, 1.2f, 3.0f});
            for (int s = 0; s < 6; ++s) // roller slats
                b.box(m.steel, {x - 0.05f, 3.2f - 0.16f * (s + 1), -1.5f}, {0.1f, 0.15f, 3.0f});
        }
    }
    for (int i = 0; i < 4; ++i) {
        const float x = -14.0f + 7.0f * i;
        for (int s = 0; s < 8; ++s) // front doors rolled up to different heights
            b.box(m.steel, {x + 0.3f, 4.25f - 0.16f * (s * (i % 2 ? 0.5f : 1.0f)), 4.45f}, {6.4f, 0.15f, 0.1f});
        b.box(m.darkSteel, {x + 0.1f, 0, 4.4f}, {0.2f, 4.4f, 0.2f});
        b.box(m.darkSteel, {x + 6.7f, 0, 4.4f}, {0.2f, 4.4f, 0.2f});
        for (const float z : {-2.2f, 2.0f}) {
            b.box(m.darkSteel, {x + 2.8f, 4.02f, z - 0.1f}, {1.4f, 0.08f, 0.2f});
            b.box(i % 2 ? m.whiteGlow : m.lampGlow, {x + 2.85f, 3.98f, z - 0.07f}, {1.3f, 0.05f, 0.14f});
        }
    }
    return b;
}

MeshBuilder workbench(const Materials& m) {
    MeshBuilder b;
    b.box(m.wood, {-1.2f, 0.86f, -0.4f}, {2.4f, 0.08f, 0.8f});
    for (const float x : {-1.15f, 1.05f})
        for (const float z : {-0.35f, 0.25f})
            b.box(m.darkSteel, {x, 0, z}, {0.1f, 0.86f, 0.1f});
    b.box(m.darkSteel, {-1.2f, 1.3f, -0.44f}, {2.4f, 0.9f, 0.04f});
    for (int i = 0; i < 9; ++i)
        b.cylinder(m.steel, {-1.0f + 0.25f * i, 1.45f, -0.38f},
                   {-1.0f + 0.25f * i, 1.75f + 0.1f * static_cast<float>(i % 3), -0.38f}, 0.02f, 0.03f, 8);
    b.box(m.container[0], {0.4f, 0.94f, -0.2f}, {0.45f, 0.26f, 0.3f});
    b.torus(m.rubber, {-0.6f, 1.0f, 0.05f}, {0, 1, 0}, 0.23f, 0.09f, 18, 8);
    return b;
}

MeshBuilder beacon(const Materials& m) {
    MeshBuilder b;
    b.cylinder(m.concrete, {0, -1, 0}, {0, 1.2f, 0}, 2.2f, 2.0f, 24);
    for (int i = 0; i < 5; ++i)
        b.cylinder(i % 2 ? m.sign : m.whitePaint, {0, 1.2f + 1.6f * i, 0}, {0, 2.8f + 1.6f * i, 0}, 1.15f - 0.09f * i,
                   1.06f - 0.09f * i, 24, false);
    b.cylinder(m.darkSteel, {0, 9.2f, 0}, {0, 9.4f, 0}, 1.3f, 1.3f, 24);
    b.cylinder(m.whiteGlow, {0, 9.8f, 0}, {0, 10.2f, 0}, 0.2f, 0.2f, 16); // no wider than the lamps' housing
    for (int i = 0; i < 8; ++i) {
        const float t = 0.78539816f * i;
        b.bar(m.darkSteel, {0.85f * std::cos(t), 9.4f, 0.85f * std::sin(t)},
              {0.85f * std::cos(t), 10.8f, 0.85f * std::sin(t)}, 0.05f);
    }
    b.cylinder(m.darkSteel, {0, 10.8f, 0}, {0, 11.7f, 0}, 1.1f, 0.05f, 24);
    return b;
}

MeshBuilder buoy(const Materials& m) {
    MeshBuilder b;
    b.cylinder(m.sign, {0, -0.4f, 0}, {0, 0.5f, 0}, 0.7f, 0.7f, 18);
    b.cylinder(m.sign, {0, 0.5f, 0}, {0, 2.0f, 0}, 0.42f, 0.14f, 14);
    b.sphere(m.redGlow, {0, 2.15f, 0}, 0.16f, 12, 8);
    return b;
}

MeshBuilder gate_barrier(const Materials& m) {
    MeshBuilder b;
    b.box(m.sign, {-0.2f, 0, -0.2f}, {0.4f, 1.05f, 0.4f});
    for (int i = 0; i < 8; ++i)
        b.box(i % 2 ? m.whitePaint : m.sign, {0.2f + 0.42f * i, 0.86f, -0.04f}, {0.42f, 0.1f, 0.08f});
    b.sphere(m.redGlow, {0, 1.12f, 0}, 0.08f, 10, 6);
    return b;
}

} // namespace mirolux::demo
