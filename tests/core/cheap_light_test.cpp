#include "core/cost/changes.h"
#include "core/io/wire.h"
#include "core/light/cheap_lights.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

namespace {

CheapLight ramp(CheapBlend blend) {
    CheapLight l{.id = 4, .name = "ramp"};
    l.toward = {0, 0, 1};
    l.ramp = {{0.5f, {0.2f, 0.4f, 0.6f}, 0.5f}, {1, {1, 1, 1}, 1}};
    l.blend = blend;
    l.luminance = 3;
    return l;
}

bool near(const glm::dvec3& a, const glm::dvec3& b) {
    return glm::length(a - b) < 1e-6;
}

QString complaint(const char* json) {
    const Json parsed = Json::parse(json);
    try {
        (void)cheap_light_from_json(JsonCursor(parsed));
    } catch (const ReadFailure& f) {
        return QString::fromStdString(f.pointer + ": " + f.what);
    }
    return "taken";
}

} // namespace

class cheap_light_test : public QObject {
    Q_OBJECT
private slots:
    void a_ramp_is_straight_between_its_stops_and_held_beyond() {
        const auto r = ramp(CheapBlend::add).ramp;
        QVERIFY(ramp_at(r, 0.1) == ramp_at(r, 0.5));
        QVERIFY(glm::length(ramp_at(r, 0.75) - glm::dvec4(0.6, 0.7, 0.8, 0.75)) < 1e-6);
        QVERIFY(glm::length(ramp_at(r, 2) - glm::dvec4(1)) < 1e-6);
        QVERIFY(ramp_at({}, 0.5) == glm::dvec4(0));
        const std::vector<RampStop> step = {{0.5f, glm::vec3(0), 0}, {0.5f, glm::vec3(1), 1}};
        QVERIFY(ramp_at(step, 0.49).x == 0 && ramp_at(step, 0.51).x == 1);
    }

    /// A normal across the view reads the ramp's middle: colour (0.2, 0.4, 0.6) of amount 0.5, 3 cd/m2.
    void each_blend_is_its_formula() {
        const glm::dvec3 across(1, 0, 0), below(0.8, 0.8, 0.8);
        QVERIFY(near(view_light_change(ramp(CheapBlend::add), across).of(below), {1.1, 1.4, 1.7}));
        QVERIFY(near(view_light_change(ramp(CheapBlend::multiply), across).of(below), {0.48, 0.56, 0.64}));
        QVERIFY(near(view_light_change(ramp(CheapBlend::screen), across).of(below),
                     {0.8 + 0.1 * 2.2, 0.8 + 0.2 * 2.2, 0.8 + 0.3 * 2.2}));
        QVERIFY(near(view_light_change(ramp(CheapBlend::mix), across).of(below), {0.7, 1.0, 1.3}));
        // Screening never goes over its white where there was less.
        QVERIFY(view_light_change(ramp(CheapBlend::screen), {0, 0, 1}).of(below).x <= 3);
    }

    void changes_follow_each_other_as_one() {
        RadianceChange all;
        glm::dvec3 step(0.3, 0.7, 2);
        const glm::dvec3 start = step;
        for (const CheapBlend b : cheapBlends) {
            const RadianceChange c = view_light_change(ramp(b), glm::normalize(glm::dvec3(0.4, 0.1, 0.9)));
            all.then(c);
            step = c.of(step);
        }
        QVERIFY(near(all.of(start), step));
    }

    /// The mesh holds the shape, and ends where the proxies of lights do.
    void shapes_hold_what_lies_inside() {
        CheapLight ball = starter(CheapStart::ball, 1, {1, 2, 3}), cone = starter(CheapStart::cone, 1, {0, 0, 0});
        std::mt19937 r(5);
        int inside = 0;
        for (int i = 0; i < 4000; ++i) {
            const glm::vec3 d(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1));
            const double from = glm::length(d) * 3;
            const bool held = holds(ball, glm::dvec3(ball.position + d * 3.0f));
            inside += held;
            if (from <= ball.reach) QVERIFY(held);
            if (from > 1.3 * ball.reach) QVERIFY(!held);
        }
        QVERIFY(inside > 400);
        QVERIFY(holds(cone, glm::dvec3(cone.position) - glm::dvec3(0, 0.5 * cone.reach, 0)));
        QVERIFY(!holds(cone, glm::dvec3(cone.position) + glm::dvec3(0, 0.1, 0)));
        QVERIFY(!holds(cone, glm::dvec3(cone.position) - glm::dvec3(0, 1.01 * cone.reach, 0)));
        const double wide = std::tan(cone.angle) * 2;
        QVERIFY(holds(cone, glm::dvec3(cone.position) + glm::dvec3(0.99 * wide, -2, 0)));
        QVERIFY(!holds(cone, glm::dvec3(cone.position) + glm::dvec3(1.05 * wide, -2, 0)));
    }

    void files_keep_them_and_bad_ones_are_told() {
        for (const CheapStart s : cheapStarts) {
            CheapLight l = starter(s, 2.5, {1, 2, 3});
            l.id = 5;
            l.enabled = s != CheapStart::sky;
            l.standsFor = {3, 8};
            if (!l.solid()) l.objects = {"crane", "crane~2"};
            const Json json = Json::parse(to_json(l).dump());
            QVERIFY2(cheap_light_from_json(JsonCursor(json)) == l, word(s));
        }
        QVERIFY(complaint(R"({"id": 1, "shape": "cube"})").contains("/shape"));
        QVERIFY(complaint(R"({"id": 1, "shape": "view-locked"})").contains("one to four"));
        QVERIFY(complaint(R"({"id": 1, "shape": "view-locked", "ramp": [{"at": 0.5}, {"at": 0.2}]})")
                    .contains("/ramp/1/at"));
        QVERIFY(complaint(R"({"id": 1, "shape": "ball", "position": [0, 0, 0], "reach": -1})").contains("/reach"));
        QVERIFY(
            complaint(R"({"id": 1, "shape": "ball", "position": [0, 0, 0], "tint": [-1, 0, 0]})").contains("/tint"));
        QVERIFY(
            complaint(R"({"id": 1, "shape": "cone", "position": [0, 0, 0], "direction": [0, 0, 0]})").contains("zero"));
    }

    /// As a light it has the same place and size, and comes back as it was.
    void handles_are_those_of_a_light() {
        CheapLight cone = starter(CheapStart::cone, 1, {1, 2, 3});
        const CheapLight before = cone;
        Light l = as_light(cone);
        QVERIFY(l.type == LightType::spot && l.range == cone.reach);
        take_place(cone, l);
        QVERIFY(cone == before);
        l.position.x += 2;
        l.outerConeAngle = 0.3f;
        take_place(cone, l);
        QCOMPARE(cone.position.x, before.position.x + 2);
        QCOMPARE(cone.angle, 0.3f);
    }

    /// Lamps that shown cheap lights stand for leave the frame when they are asked to, and only then.
    void lamps_make_room() {
        Scene s = random_scene(4, 30);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        Setup setup;
        const auto in_view = [&](int id) {
            const DrawList list = build_draw_list(s, setup, view);
            return std::any_of(list.lights.begin(), list.lights.end(), [id](const Light& l) { return l.id == id; });
        };
        const int id = build_draw_list(s, setup, view).lights.back().id;
        s.cheapLights.push_back(starter(CheapStart::ball, 1, {0, 0, 0}));
        s.cheapLights[0].id = 1;
        s.cheapLights[0].standsFor = {id};
        QVERIFY(in_view(id));
        QVERIFY(setup.set_text("cheapLights.instead", "on").has_value());
        QVERIFY(in_view(id)); // it is not shown
        QVERIFY(setup.set_text("solidLights.kind", "stencil").has_value());
        QVERIFY(!in_view(id));
        s.cheapLights[0].enabled = false;
        QVERIFY(in_view(id));
    }

    /// More than a frame draws: the plan says how many are.
    void what_does_not_fit_is_told() {
        Scene s = random_scene(4, 3);
        Setup setup;
        QVERIFY(setup.set_text("solidLights.kind", "stencil").has_value());
        for (int i = 0; i < 40; ++i) {
            s.cheapLights.push_back(starter(CheapStart::ball, 1, {0, 0, 0}));
            s.cheapLights.back().id = i;
        }
        const auto told = [&] {
            const FramePlan plan = plan_frame(s, setup, view_from({8, 4, 12}, {0, 1, 0}, 96, 54));
            return std::count(plan.notes.begin(), plan.notes.end(), "Of 40 solid-shape lights the first 32 are drawn.");
        };
        QCOMPARE(told(), 1);
        s.cheapLights.resize(32);
        QCOMPARE(told(), 0);
    }

    void the_logbook_names_what_changed() {
        State a, b;
        a.cheapLights = {ramp(CheapBlend::add)};
        b.cheapLights = {ramp(CheapBlend::mix), starter(CheapStart::ball, 1, {})};
        b.cheapLights[1].id = 9;
        QCOMPARE(describe_changes(a, b), (std::vector<std::string>{"ramp changed", "ball added"}));
        QCOMPARE(describe_changes(b, a), (std::vector<std::string>{"ramp changed", "ball deleted"}));
        b = a;
        b.cheapLights[0].enabled = false;
        QCOMPARE(describe_changes(a, b), std::vector<std::string>{"ramp off"});
    }
};

MIROLUX_TEST(cheap_light_test)
#include "cheap_light_test.moc"
