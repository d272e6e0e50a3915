#include "demo/living.h"
#include "demo/materials.h"
#include <glm/gtc/constants.hpp>
#include <glm/gtc/matrix_transform.hpp>

namespace mirolux::demo {

using glm::quat;
using glm::vec3;

namespace {

constexpr float whole = glm::two_pi<float>();

quat about(const vec3& axis, float radians) {
    return glm::angleAxis(radians, axis);
}
constexpr vec3 x_axis(1, 0, 0), y_axis(0, 1, 0), z_axis(0, 0, 1);

/// A value sampled evenly over a clip, both ends included.
template <class Of>
Keys sampled(float seconds, int keys, Of of) {
    Keys out;
    for (int k = 0; k <= keys; ++k) {
        const float t = seconds * static_cast<float>(k) / static_cast<float>(keys);
        out.times.push_back(t);
        const auto v = of(t);
        if constexpr (std::is_same_v<std::decay_t<decltype(v)>, quat>)
            out.values.insert(out.values.end(), {v.x, v.y, v.z, v.w});
        else if constexpr (std::is_same_v<std::decay_t<decltype(v)>, vec3>)
            out.values.insert(out.values.end(), {v.x, v.y, v.z});
        else
            out.values.insert(out.values.end(), v.begin(), v.end());
    }
    return out;
}

/// Rings about a line, each with a middle, a half width along x and a half depth along z, from below to above.
struct Slice {
    vec3 middle;
    float wide, deep;
};
void body_of(MeshBuilder& b, int material, const std::vector<Slice>& slices, int around = 14) {
    std::vector<std::vector<vec3>> sections;
    for (const Slice& s : slices) {
        std::vector<vec3> ring;
        for (int k = 0; k <= around; ++k) {
            const float a = -whole * static_cast<float>(k % around) / static_cast<float>(around);
            ring.push_back(s.middle + vec3(s.wide * std::cos(a), 0, s.deep * std::sin(a)));
        }
        sections.push_back(ring);
    }
    b.loft(material, sections);
}

// --- gulls

constexpr float wing_root = 0.05f, wing_span = 0.62f; // metres from the middle

void wing(MeshBuilder& b, const Materials& m, float side) {
    // Five stations from the body to the tip: leading edge, trailing edge, height.
    struct Station {
        float out, lead, trail, high;
    };
    static constexpr Station stations[] = {{wing_root, -0.09f, 0.10f, 0.02f},
                                           {0.20f, -0.13f, 0.08f, 0.045f},
                                           {0.34f, -0.12f, 0.06f, 0.05f},
                                           {0.48f, -0.05f, 0.06f, 0.035f},
                                           {wing_span, 0.05f, 0.08f, 0.015f}};
    for (int s = 0; s + 1 < 5; ++s) {
        const Station &a = stations[s], &c = stations[s + 1];
        const int material = s == 3 ? m.rubber : m.whitePaint;
        for (const float above : {0.006f, -0.006f}) {
            std::vector<std::vector<vec3>> sections = {
                {{side * a.out, a.high + above, a.lead}, {side * a.out, a.high + above, a.trail}},
                {{side * c.out, c.high + above, c.lead}, {side * c.out, c.high + above, c.trail}}};
            b.loft(material, sections, (above > 0) != (side > 0)); // (+z) x (+x) points up
        }
    }
}

MeshBuilder gull(const Materials& m) {
    MeshBuilder b;
    b.uvScale = 1.0f;
    // Lying along z, the head toward -z: rings stand across, so the loft is laid down afterwards.
    std::vector<std::vector<vec3>> sections;
    static constexpr struct {
        float z, wide, high, y;
    } rings[] = {{0.24f, 0.045f, 0.004f, 0.01f},  {0.15f, 0.035f, 0.018f, 0.005f}, {0.05f, 0.055f, 0.045f, 0},
                 {-0.05f, 0.060f, 0.055f, 0},     {-0.13f, 0.045f, 0.045f, 0.01f}, {-0.18f, 0.034f, 0.036f, 0.025f},
                 {-0.23f, 0.030f, 0.030f, 0.03f}, {-0.26f, 0.014f, 0.014f, 0.026f}};
    constexpr int around = 10;
    for (const auto& r : rings) {
        std::vector<vec3> ring;
        for (int k = 0; k <= around; ++k) {
            const float a = whole * static_cast<float>(k % around) / around;
            ring.emplace_back(r.wide * std::cos(a), r.y + r.high * std::sin(a), r.z);
        }
        sections.push_back(ring);
    }
    b.loft(m.whitePaint, sections, true);
    b.cylinder(m.rubber, {0, 0.026f, -0.25f}, {0, 0.018f, -0.315f}, 0.011f, 0.003f, 7);
    wing(b, m, 1);
    wing(b, m, -1);
    return b;
}

/// Wings lifted by an angle at the shoulder and by more of it at the wrist.
std::function<Vertex(const Vertex&)> wings_at(float degrees) {
    return [degrees](const Vertex& v) {
        Vertex out = v;
        const float side = v.position.x < 0 ? -1.0f : 1.0f, far = std::abs(v.position.x);
        if (far < wing_root) return out;
        const float wrist = 0.34f, shoulder = glm::radians(degrees), hand = 0.7f * shoulder;
        const auto turned = [&](const vec3& p, float angle) { return about(z_axis, side * angle) * p; };
        vec3 p = v.position - vec3(side * wing_root, 0, 0);
        if (far > wrist) {
            const vec3 joint(side * (wrist - wing_root), 0, 0);
            p = joint + turned(p - joint, hand);
            out.normal = turned(out.normal, hand);
        }
        out.position = vec3(side * wing_root, 0, 0) + turned(p, shoulder);
        out.normal = turned(out.normal, shoulder);
        return out;
    };
}

struct Flight {
    vec3 middle;
    float radius, oval, phase, lift;
    int rounds; // in the clip
};

void fly_gulls(GlbWriter& glb, const Materials& m) {
    const int mesh = glb.mesh("gull", gull(m), {.shapes = {wings_at(48), wings_at(-34)}});
    static constexpr float seconds = 24;
    static const Flight flights[] = {{{-5.5f, 6.4f, 17.5f}, 4.2f, 0.7f, 0.05f, 0.7f, 3},
                                     {{-3.0f, 7.6f, 16.0f}, 6.0f, 0.6f, 0.45f, 0.9f, -2},
                                     {{3.0f, 6.8f, 19.5f}, 5.0f, 0.8f, 0.80f, 0.6f, 2},
                                     {{4.0f, 5.2f, 45.0f}, 6.5f, 0.6f, 0.20f, 0.8f, 2},
                                     {{1.0f, 8.5f, 60.0f}, 8.0f, 0.7f, 0.60f, 1.0f, -2}};
    int number = 0;
    for (const Flight& f : flights) {
        const auto place = [&](float t) {
            const float a = whole * (f.phase + static_cast<float>(f.rounds) * t / seconds);
            return f.middle + vec3(f.radius * std::cos(a), f.lift * std::sin(2 * a + 7 * f.phase),
                                   f.oval * f.radius * std::sin(a));
        };
        const auto turn = [&](float t) {
            const vec3 ahead = place(t + 0.05f) - place(t - 0.05f);
            const float bank = (f.rounds > 0 ? -0.35f : 0.35f);
            return about(y_axis, std::atan2(-ahead.x, -ahead.z)) *
                   about(x_axis, std::atan2(ahead.y, glm::length(vec3(ahead.x, 0, ahead.z)))) * about(z_axis, bank);
        };
        // It beats its wings for some seconds, then glides.
        const auto wings = [&](float t) -> std::array<float, 2> {
            const float share = t / seconds * 4 + f.phase, glide = share - std::floor(share);
            const float strength = glm::smoothstep(0.0f, 0.1f, glide) * (1 - glm::smoothstep(0.55f, 0.65f, glide));
            const float beat = std::sin(whole * (2.0f * t + f.phase)) * strength + 0.15f * (1 - strength);
            return {std::max(0.0f, beat), std::max(0.0f, -beat)};
        };
        const int node = glb.mover(numbered("gull", ++number), mesh, place(0), turn(0));
        glb.move("gulls", node, "translation", sampled(seconds, 120, place));
        glb.move("gulls", node, "rotation", sampled(seconds, 120, turn));
        glb.move("gulls", node, "weights", sampled(seconds, 288, wings));
    }
}

// --- the crane

void turn_crane(GlbWriter& glb, const Materials& m) {
    const vec3 foot(8.6f, 0, 17.4f);
    constexpr float high = 5.2f, reach = 5.0f, seconds = 24;
    MeshBuilder pillar;
    pillar.box(m.concrete, {-0.7f, 0, -0.7f}, {1.4f, 0.35f, 1.4f});
    pillar.cylinder(m.steel, {0, 0.35f, 0}, {0, high - 0.5f, 0}, 0.24f, 0.19f, 18);
    pillar.torus(m.darkSteel, {0, high - 0.5f, 0}, y_axis, 0.26f, 0.06f, 20, 8);
    glb.mover("crane pillar", glb.mesh("crane pillar", pillar), foot);
    MeshBuilder head;
    head.cylinder(m.darkSteel, {0, -0.45f, 0}, {0, 0.9f, 0}, 0.17f, 0.12f, 16);
    head.box(m.container[4], {-0.45f, -0.35f, 0.25f}, {0.9f, 0.75f, 1.1f}); // the winch house, as a counterweight
    head.bar(m.darkSteel, {0, 0.85f, 0}, {0, 0.35f, 1.2f}, 0.06f);
    const int slewing = glb.mover("crane head", glb.mesh("crane head", head), foot + vec3(0, high, 0));
    MeshBuilder jib;
    for (const float x : {-0.17f, 0.17f}) {
        jib.bar(m.container[4], {x, 0, 0}, {0.4f * x, 0, -reach}, 0.09f);
        jib.bar(m.container[4], {x, 0.32f, 0}, {0.4f * x, 0.05f, -reach}, 0.06f);
        for (int k = 0; k < 6; ++k) {
            const float a = static_cast<float>(k) / 6, c = static_cast<float>(k + 1) / 6;
            jib.bar(m.container[4], {x * (1 - 0.6f * a), 0, -reach * a},
                    {x * (1 - 0.6f * c), 0.32f - 0.27f * c, -reach * c}, 0.04f);
        }
    }
    jib.cylinder(m.darkSteel, {-0.12f, -0.05f, -reach}, {0.12f, -0.05f, -reach}, 0.13f, 0.13f, 14);
    const int boom =
        glb.mover("crane jib", glb.mesh("crane jib", jib), {0, 0.1f, -0.12f}, about(x_axis, 0.30f), slewing);
    MeshBuilder load;
    load.cylinder(m.darkSteel, {0, -2.6f, 0}, {0, 0, 0}, 0.018f, 0.018f, 6, false);
    load.torus(m.darkSteel, {0, -2.7f, 0}, x_axis, 0.09f, 0.025f, 14, 6);
    for (const float x : {-0.45f, 0.45f})
        for (const float z : {-0.35f, 0.35f})
            load.bar(m.rope, {0, -2.75f, 0}, {x, -3.25f, z}, 0.025f);
    load.box(m.wood, {-0.5f, -3.95f, -0.4f}, {1.0f, 0.7f, 0.8f});
    for (const float y : {-3.9f, -3.4f})
        load.box(m.darkSteel, {-0.52f, y, -0.42f}, {1.04f, 0.06f, 0.84f});
    const int hook =
        glb.mover("crane load", glb.mesh("crane load", load), {0, -0.1f, -reach}, about(x_axis, -0.30f), boom);
    const auto swing = [](float t) { return 0.75f * std::sin(whole * t / seconds); };
    const auto luff = [](float t) {
        return 0.30f + 0.14f * std::sin(whole * t / seconds + 0.9f) - 0.14f * std::sin(0.9f);
    };
    glb.move("crane", slewing, "rotation", sampled(seconds, 48, [&](float t) { return about(y_axis, swing(t)); }));
    glb.move("crane", boom, "rotation", sampled(seconds, 48, [&](float t) { return about(x_axis, luff(t)); }));
    // The load hangs down, and lags behind.
    glb.move("crane", hook, "rotation", sampled(seconds, 96, [&](float t) {
                 const float lag = 0.05f * std::sin(whole * t / 4);
                 return about(x_axis, -luff(t)) * about(z_axis, lag) * about(y_axis, 0.3f * std::sin(whole * t / 12));
             }));
    glb.move("crane", hook, "translation", sampled(seconds, 48, [&](float t) {
                 return vec3(0, -0.1f - 0.35f * (1 - std::cos(whole * t / seconds)), -reach);
             }));
    Light lamp;
    lamp.name = "crane lamp";
    lamp.type = LightType::spot;
    lamp.position = {0, -0.25f, -reach + 0.35f};
    lamp.direction = glm::normalize(vec3(0, -1, -0.15f));
    lamp.intensity = 420;
    lamp.kelvin = 4000;
    lamp.range = 14;
    lamp.innerConeAngle = glm::radians(18.0f);
    lamp.outerConeAngle = glm::radians(40.0f);
    lamp.sourceSize = 0.2f;
    glb.light(lamp, boom);
}

// --- the dockhand

enum Joint { hips, chest, head, upperL, lowerL, upperR, lowerR, thighL, shinL, thighR, shinR, joints };

struct Bone {
    const char* name;
    int parent;
    vec3 from, to; // as it is bound, metres above the ground
};
const Bone bones[joints] = {{"hips", -1, {0, 0.96f, 0}, {0, 1.08f, 0}},
                            {"chest", hips, {0, 1.12f, 0}, {0, 1.42f, 0}},
                            {"head", chest, {0, 1.50f, 0}, {0, 1.74f, 0}},
                            {"upper arm left", chest, {0.20f, 1.42f, 0}, {0.40f, 1.20f, 0}},
                            {"lower arm left", upperL, {0.40f, 1.20f, 0}, {0.58f, 1.00f, 0}},
                            {"upper arm right", chest, {-0.20f, 1.42f, 0}, {-0.40f, 1.20f, 0}},
                            {"lower arm right", upperR, {-0.40f, 1.20f, 0}, {-0.58f, 1.00f, 0}},
                            {"thigh left", hips, {0.10f, 0.92f, 0}, {0.12f, 0.52f, 0}},
                            {"shin left", thighL, {0.12f, 0.50f, 0}, {0.13f, 0.06f, 0}},
                            {"thigh right", hips, {-0.10f, 0.92f, 0}, {-0.12f, 0.52f, 0}},
                            {"shin right", thighR, {-0.12f, 0.50f, 0}, {-0.13f, 0.06f, 0}}};

/// A tube along a line with radii by share of it.
void tube(MeshBuilder& b, int material, const vec3& from, const vec3& to,
          const std::vector<std::pair<float, float>>& radii) {
    const vec3 along = glm::normalize(to - from), side = glm::normalize(glm::cross(along, vec3(0, 0, 1))),
               front = glm::cross(along, side);
    std::vector<std::vector<vec3>> sections;
    constexpr int around = 12;
    for (const auto& [share, radius] : radii) {
        std::vector<vec3> ring;
        for (int k = 0; k <= around; ++k) {
            const float a = whole * static_cast<float>(k % around) / around;
            ring.push_back(glm::mix(from, to, share) + radius * (std::cos(a) * side + std::sin(a) * front));
        }
        sections.push_back(ring);
    }
    b.loft(material, sections);
}

MeshBuilder dockhand(const Materials& m) {
    MeshBuilder b;
    b.uvScale = 1.0f;
    body_of(b, m.sign,
            {{{0, 0.90f, 0}, 0.165f, 0.115f},
             {{0, 0.98f, 0}, 0.180f, 0.125f},
             {{0, 1.08f, 0}, 0.170f, 0.118f},
             {{0, 1.20f, 0}, 0.185f, 0.122f},
             {{0, 1.32f, 0}, 0.205f, 0.125f},
             {{0, 1.42f, 0}, 0.205f, 0.115f},
             {{0, 1.48f, 0}, 0.120f, 0.085f},
             {{0, 1.51f, 0}, 0.060f, 0.060f}},
            18);
    for (const float y : {1.02f, 1.24f}) // reflecting tape
        body_of(b, m.steel,
                {{{0, y, 0}, 0.186f, 0.131f}, {{0, y + 0.02f, 0}, 0.192f, 0.135f}, {{0, y + 0.04f, 0}, 0.191f, 0.133f}},
                18);
    for (const int arm : {upperL, upperR}) {
        tube(b, m.sign, bones[arm].from, bones[arm].to,
             {{-0.12f, 0.045f}, {0.05f, 0.072f}, {0.5f, 0.062f}, {0.9f, 0.055f}, {1.05f, 0.054f}});
        tube(b, m.sign, bones[arm + 1].from, bones[arm + 1].to,
             {{-0.1f, 0.054f}, {0.2f, 0.056f}, {0.6f, 0.050f}, {1.0f, 0.046f}});
        tube(b, m.rubber, bones[arm + 1].from, bones[arm + 1].to,
             {{0.95f, 0.040f}, {1.1f, 0.046f}, {1.25f, 0.042f}, {1.36f, 0.015f}});
    }
    for (const int leg : {thighL, thighR}) {
        tube(b, m.tarp, bones[leg].from, bones[leg].to,
             {{-0.1f, 0.095f}, {0.2f, 0.098f}, {0.6f, 0.082f}, {1.05f, 0.070f}});
        tube(b, m.tarp, bones[leg + 1].from, bones[leg + 1].to,
             {{-0.06f, 0.070f}, {0.3f, 0.072f}, {0.7f, 0.062f}, {0.92f, 0.064f}});
        const vec3 ankle = bones[leg + 1].to;
        b.box(m.rubber, ankle + vec3(-0.055f, -0.06f, -0.19f), {0.11f, 0.085f, 0.28f});
        b.box(m.rubber, ankle + vec3(-0.058f, 0.01f, -0.07f), {0.116f, 0.13f, 0.155f});
    }
    b.sphere(m.face, {0, 1.64f, -0.01f}, 0.105f, 18, 12);
    b.cylinder(m.face, {0, 1.46f, 0}, {0, 1.57f, 0}, 0.055f, 0.052f, 12, false);
    b.sphere(m.face, {0, 1.625f, -0.115f}, 0.018f, 8, 6); // a nose
    body_of(b, m.container[1],
            {{{0, 1.66f, 0}, 0.118f, 0.122f},
             {{0, 1.71f, 0}, 0.116f, 0.118f},
             {{0, 1.75f, 0}, 0.092f, 0.094f},
             {{0, 1.775f, 0}, 0.02f, 0.02f}},
            16);
    b.box(m.container[1], {-0.085f, 1.665f, -0.205f}, {0.17f, 0.014f, 0.1f});
    return b;
}

/// The bones that a vertex lies nearest to.
std::array<std::pair<int, float>, 4> nearest_bones(const Vertex& v) {
    std::array<std::pair<int, float>, joints> all;
    for (int b = 0; b < joints; ++b) {
        const vec3 way = bones[b].to - bones[b].from;
        const float t = glm::clamp(glm::dot(v.position - bones[b].from, way) / glm::dot(way, way), 0.0f, 1.0f);
        const float d = glm::length(v.position - bones[b].from - t * way) + 0.02f;
        all[static_cast<std::size_t>(b)] = {b, 1 / (d * d * d * d * d * d)};
    }
    std::sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
    const float sum = all[0].second + all[1].second;
    return {{{all[0].first, all[0].second / sum}, {all[1].first, all[1].second / sum}, {0, 0}, {0, 0}}};
}

/// How the dockhand goes at a time: along the quay, a look round, and back.
struct Gait {
    float place, facing, stride, raised; // metres of the way, radians, how far limbs swing, how high the lantern
    float phase;                         // of the steps, radians
};
Gait gait_at(float t) {
    constexpr float walk = 6.0f, rest = 2.0f, way = 7.2f;
    const auto smooth = [](float a, float b, float x) { return glm::smoothstep(a, b, x); };
    const float leg = std::fmod(t, 2 * (walk + rest)), back = leg >= walk + rest ? 1.0f : 0.0f,
                own = leg - back * (walk + rest);
    Gait g;
    const float done = std::clamp(own / walk, 0.0f, 1.0f);
    g.place = way * (back > 0 ? 1 - done : done);
    g.facing = glm::pi<float>() * (back + smooth(walk + 0.6f, walk + rest, own));
    g.stride = smooth(0.0f, 0.5f, own) * (1 - smooth(walk - 0.5f, walk, own));
    g.raised = smooth(walk - 0.2f, walk + 0.4f, own) * (1 - smooth(walk + 0.9f, walk + rest, own));
    g.phase = whole * own / 1.0f;
    return g;
}

void walk_dockhand(GlbWriter& glb, const Materials& m) {
    constexpr float seconds = 16;
    constexpr int keys = 192;
    const vec3 start(-12.6f, 0, 16.9f);
    const int mesh = glb.mesh("dockhand", dockhand(m), {.follow = nearest_bones});
    // The mesh is bound where it is built, about the origin; the root takes it to the quay.
    const int root = glb.mover("dockhand root", -1, vec3(0.0f));
    std::vector<int> nodes;
    for (const Bone& b : bones) {
        const vec3 from = b.parent < 0 ? b.from : b.from - bones[b.parent].from;
        nodes.push_back(glb.mover(std::string("dockhand ") + b.name, -1, from, quat(1, 0, 0, 0),
                                  b.parent < 0 ? root : nodes[static_cast<std::size_t>(b.parent)]));
    }
    const int node = glb.mover("dockhand", mesh, vec3(0.0f));
    glb.skin(node, nodes);
    const auto turn = [&](Joint joint, auto of) {
        glb.move("dockhand", nodes[static_cast<std::size_t>(joint)], "rotation",
                 sampled(seconds, keys, [&](float t) { return of(gait_at(t)); }));
    };
    glb.move("dockhand", root, "translation", sampled(seconds, keys, [&](float t) {
                 const Gait g = gait_at(t);
                 return start + vec3(g.place, 0.018f * g.stride * std::cos(2 * g.phase) - 0.02f * g.stride, 0);
             }));
    glb.move("dockhand", root, "rotation", sampled(seconds, keys, [&](float t) {
                 return about(y_axis, -glm::half_pi<float>() - gait_at(t).facing); // built to look along -z
             }));
    turn(chest,
         [](const Gait& g) { return about(y_axis, 0.10f * g.stride * std::sin(g.phase)) * about(x_axis, -0.05f); });
    turn(head, [](const Gait& g) { return about(y_axis, 0.5f * g.raised); });
    // Arms hang from the pose that they are bound in; the right hand holds the lantern up while looking round.
    turn(upperL,
         [](const Gait& g) { return about(x_axis, -0.5f * g.stride * std::sin(g.phase)) * about(z_axis, -0.62f); });
    turn(lowerL, [](const Gait& g) { return about(x_axis, 0.25f + 0.2f * g.stride); });
    const auto upper = [](const Gait& g) {
        return about(x_axis, 0.22f * g.stride * std::sin(g.phase) + 0.35f + 0.9f * g.raised) * about(z_axis, 0.5f);
    };
    const auto lower = [](const Gait& g) { return about(x_axis, 0.45f + 0.3f * g.raised); };
    turn(upperR, upper);
    turn(lowerR, lower);
    for (const float side : {1.0f, -1.0f}) {
        turn(side > 0 ? thighL : thighR,
             [side](const Gait& g) { return about(x_axis, 0.48f * side * g.stride * std::sin(g.phase)); });
        turn(side > 0 ? shinL : shinR, [side](const Gait& g) {
            return about(x_axis, -g.stride * (0.18f + 0.5f * std::max(0.0f, side * std::cos(g.phase))));
        });
    }
    MeshBuilder lantern;
    lantern.cylinder(m.darkSteel, {0, -0.02f, 0}, {0, 0, 0}, 0.055f, 0.055f, 12);
    lantern.cylinder(m.lampGlow, {0, -0.17f, 0}, {0, -0.02f, 0}, 0.045f, 0.045f, 12, false);
    lantern.cylinder(m.darkSteel, {0, -0.20f, 0}, {0, -0.17f, 0}, 0.055f, 0.055f, 12);
    lantern.torus(m.darkSteel, {0, 0.05f, 0}, z_axis, 0.055f, 0.006f, 16, 6);
    const int hand = nodes[lowerR]; // from which it hangs straight down, swinging a little
    const int held = glb.mover("lantern", glb.mesh("lantern", lantern),
                               bones[lowerR].to + vec3(-0.07f, -0.08f, 0) - bones[lowerR].from, quat(1, 0, 0, 0), hand);
    glb.move("dockhand", held, "rotation", sampled(seconds, keys, [&](float t) {
                 const Gait g = gait_at(t);
                 return glm::inverse(upper(g) * lower(g)) * about(x_axis, 0.2f * g.stride * std::sin(g.phase + 0.8f));
             }));
    Light lamp;
    lamp.name = "lantern light";
    lamp.type = LightType::point;
    lamp.position = {0, -0.29f, 0}; // below what it hangs in: that would shut it in
    lamp.intensity = 28;
    lamp.kelvin = 2500;
    lamp.range = 9;
    lamp.sourceSize = 0.05f;
    glb.light(lamp, held);
}

} // namespace

int bring_to_life(GlbWriter& glb, const Materials& materials) {
    fly_gulls(glb, materials);
    turn_crane(glb, materials);
    walk_dockhand(glb, materials);
    return 2;
}

void sway_figurehead(GlbWriter& glb, const MeshBuilder& mesh, const vec3& place, float degrees) {
    constexpr float waist = 0.62f, neck = 1.14f, seconds = 6;
    const int whole_mesh =
        glb.mesh("figurehead", mesh, {.follow = [](const Vertex& v) -> std::array<std::pair<int, float>, 4> {
                     const float y = v.position.y, up = glm::smoothstep(waist - 0.12f, waist + 0.25f, y),
                                 top = glm::smoothstep(neck, neck + 0.2f, y);
                     return {{{0, 1 - up}, {1, up * (1 - top)}, {2, up * top}, {0, 0}}};
                 }});
    const int foot = glb.mover("figurehead foot", -1, place, about(y_axis, glm::radians(degrees)));
    const int body = glb.mover("figurehead waist", -1, {0, waist, 0}, quat(1, 0, 0, 0), foot);
    const int top = glb.mover("figurehead neck", -1, {0, neck - waist, 0}, quat(1, 0, 0, 0), body);
    const int node = glb.mover("figurehead", whole_mesh, place, about(y_axis, glm::radians(degrees)));
    glb.skin(node, {foot, body, top});
    const auto sway = [](float t, float most, float lag) {
        return most * (std::sin(whole * t / seconds - lag) + std::sin(lag));
    };
    glb.move("figurehead", body, "rotation",
             sampled(seconds, 48, [&](float t) { return about(z_axis, sway(t, 0.035f, 0)); }));
    glb.move("figurehead", top, "rotation",
             sampled(seconds, 48, [&](float t) { return about(z_axis, sway(t, 0.05f, 0.6f)); }));
}

} // namespace mirolux::demo
