#include "demo/figurehead.h"
#include <array>
#include <glm/gtc/constants.hpp>

namespace mirolux::demo {

using glm::vec3;

namespace {

constexpr float plinth_top = 0.50f, perch = 0.38f; // metres: where it stands, and from where its rings are measured

/// A ring of the body: its middle, and how far it reaches to the sides and across.
struct Ring {
    vec3 middle;
    float side, across;
};

/// From the tail's end over breast and head to the beak's tip.
constexpr std::array<Ring, 14> rings = {{{{0, -0.02f, -0.40f}, 0.100f, 0.005f},
                                         {{0, 0.10f, -0.29f}, 0.082f, 0.012f},
                                         {{0, 0.22f, -0.18f}, 0.080f, 0.048f},
                                         {{0, 0.35f, -0.075f}, 0.122f, 0.112f},
                                         {{0, 0.50f, 0.010f}, 0.156f, 0.145f},
                                         {{0, 0.64f, 0.060f}, 0.138f, 0.130f},
                                         {{0, 0.745f, 0.085f}, 0.098f, 0.098f},
                                         {{0, 0.835f, 0.110f}, 0.092f, 0.098f},
                                         {{0, 0.905f, 0.155f}, 0.088f, 0.094f},
                                         {{0, 0.925f, 0.222f}, 0.066f, 0.064f},
                                         {{0, 0.905f, 0.272f}, 0.036f, 0.042f},
                                         {{0, 0.868f, 0.312f}, 0.022f, 0.030f},
                                         {{0, 0.812f, 0.328f}, 0.009f, 0.014f},
                                         {{0, 0.775f, 0.318f}, 0.001f, 0.002f}}};

template <class Value>
Value between(const Value& a, const Value& b, const Value& c, const Value& d, float t) { // Catmull and Rom, 1974
    return 0.5f * (2.0f * b + (c - a) * t + (2.0f * a - 5.0f * b + 4.0f * c - d) * (t * t) +
                   (3.0f * b - a - 3.0f * c + d) * (t * t * t));
}

Ring ring_at(float place) {
    const int last = static_cast<int>(rings.size()) - 1, i = std::clamp(static_cast<int>(place), 0, last - 1);
    const float t = place - static_cast<float>(i);
    const auto at = [&](int k) -> const Ring& { return rings[static_cast<std::size_t>(std::clamp(k, 0, last))]; };
    const Ring &a = at(i - 1), &b = at(i), &c = at(i + 1), &d = at(i + 2);
    return {between(a.middle, b.middle, c.middle, d.middle, t),
            std::max(0.001f, between(a.side, b.side, c.side, d.side, t)),
            std::max(0.001f, between(a.across, b.across, c.across, d.across, t))};
}

void add_body(MeshBuilder& b, int wax) {
    constexpr int sections = 84, around = 36;
    std::vector<std::vector<vec3>> all;
    const float length = static_cast<float>(rings.size() - 1);
    for (int j = 0; j <= sections; ++j) {
        const float place = length * static_cast<float>(j) / sections;
        const Ring r = ring_at(place);
        const vec3 ahead = glm::normalize(ring_at(std::min(place + 0.05f, length)).middle -
                                          ring_at(std::max(place - 0.05f, 0.0f)).middle),
                   side(1, 0, 0), across = glm::cross(ahead, side); // toward the breast
        std::vector<vec3> ring;
        for (int i = 0; i <= around; ++i) {
            const float turn = glm::two_pi<float>() * static_cast<float>(i % around) / around;
            // Feathers on the breast: rows of scales, every second one moved by half.
            const float row = place * 7.0f, column = turn * 14.0f / glm::two_pi<float>() +
                                                     0.5f * static_cast<float>(static_cast<int>(row) % 2);
            const float rise = row - std::floor(row), across_ = 2.0f * (column - std::floor(column)) - 1.0f;
            const float breast = glm::smoothstep(1.6f, 2.4f, place) * (1.0f - glm::smoothstep(6.0f, 7.2f, place)),
                        scale = 0.045f * breast * (rise - 0.55f * across_ * across_);
            // A brow over each eye.
            const float brow =
                place > 7.6f && place < 9.6f
                    ? 0.09f * std::pow(std::max(0.0f, std::sin(glm::pi<float>() * (place - 7.6f) / 2.0f)), 2.0f) *
                          std::exp(-std::pow((std::abs(std::sin(turn + 0.5f)) - 0.75f) * 6.0f, 2.0f))
                    : 0.0f;
            ring.push_back(r.middle + vec3(0, perch, 0) +
                           (side * (std::cos(turn) * r.side) - across * (std::sin(turn) * r.across)) *
                               (1.0f + scale + brow));
        }
        all.push_back(std::move(ring));
    }
    b.loft(wax, all, true);
}

/// One wing, raised and swept back: a thin plate of long feathers. `side`: 1 or -1.
void add_wing(MeshBuilder& b, int wax, float side) {
    constexpr int sections = 40, chord = 16;
    std::vector<std::vector<vec3>> all;
    for (int j = 0; j <= sections; ++j) {
        const float u = static_cast<float>(j) / sections;
        // The leading edge: out from the shoulder, up, and back.
        const vec3 lead(0.085f + 0.50f * std::sin(1.35f * u) - 0.05f * u, 0.60f + 0.46f * u + 0.22f * u * u,
                        0.05f + 0.05f * std::sin(3.0f * u) - 0.34f * u * u);
        const float wide =
            (0.30f + 0.12f * std::sin(glm::pi<float>() * u)) * std::sqrt(std::max(0.0f, 1.0f - u * u * u * u));
        const vec3 back = glm::normalize(vec3(0.10f + 0.55f * u, -0.85f, -0.42f)),
                   out = glm::normalize(vec3(0.30f, 0.25f, 0.85f)); // the plate's front
        const float thick = glm::mix(0.020f, 0.007f, std::sqrt(u));
        std::vector<vec3> ring;
        for (int i = 0; i <= 2 * chord; ++i) {
            const int k = i % (2 * chord);
            const bool front = k < chord;
            const float v = front ? static_cast<float>(k) / chord : 2.0f - static_cast<float>(k) / chord;
            // Feathers lie across the chord, one over the other, and end in a row of tips.
            const float feather = u * 11.0f + 0.9f * v, step = feather - std::floor(feather),
                        tip = 1.0f - 0.13f * v * v * (1.0f - 4.0f * (step - 0.5f) * (step - 0.5f) - 0.3f);
            const float profile = std::sqrt(std::max(0.0f, v * (1.0f - v))) * 2.0f, // round before, thin behind
                half_ = 0.5f * thick * (0.35f + 0.65f * profile * (1.0f - 0.5f * v)) +
                        0.0022f * glm::smoothstep(0.1f, 0.5f, v) * (step - 0.5f),
                        hollow = 0.05f * std::sin(glm::pi<float>() * v) * (1.0f - 0.5f * u);
            const float rim = v <= 0.0f || v >= 1.0f ? 0.0f : 1.0f;
            vec3 p = lead + back * (wide * v * tip) + out * (hollow + (front ? half_ : -half_) * rim);
            p.x *= side;
            ring.push_back(p + vec3(0, perch, 0));
        }
        all.push_back(std::move(ring));
    }
    b.loft(wax, all, side < 0);
}

} // namespace

MeshBuilder figurehead(int wax, int eyes, int plinth, int band) {
    MeshBuilder b;
    add_body(b, wax);
    for (const float side : {1.0f, -1.0f}) {
        add_wing(b, wax, side);
        b.sphere(eyes, vec3(0.070f * side, perch + 0.932f, 0.190f), 0.019f, 14, 8);
        // Feet on the plinth's edge.
        b.cylinder(wax, vec3(0.055f * side, plinth_top - 0.01f, 0.02f), vec3(0.06f * side, plinth_top + 0.20f, -0.04f),
                   0.028f, 0.055f, 12);
        for (const float toe : {-0.5f, 0.0f, 0.5f})
            b.cylinder(wax, vec3(0.055f * side, plinth_top + 0.012f, 0.02f),
                       vec3(0.055f * side + 0.06f * toe, plinth_top + 0.004f, 0.105f - 0.02f * std::abs(toe)), 0.017f,
                       0.007f, 6);
    }
    b.cylinder(plinth, {0, 0, 0}, {0, 0.05f, 0}, 0.27f, 0.27f, 28);
    b.cylinder(plinth, {0, 0.05f, 0}, {0, 0.45f, 0}, 0.20f, 0.17f, 28);
    b.cylinder(band, {0, 0.40f, 0}, {0, 0.425f, 0}, 0.178f, 0.178f, 28);
    b.cylinder(plinth, {0, 0.45f, 0}, {0, plinth_top, 0}, 0.22f, 0.22f, 28);
    return b;
}

} // namespace mirolux::demo
