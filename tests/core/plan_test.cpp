#include "core/plan/camera_motion.h"
#include "core/plan/frame_plan.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

class plan_test : public QObject {
    Q_OBJECT
private slots:
    void a_wrong_key_names_the_nearest_and_a_wrong_value_its_range() {
        Setup s;
        const auto key = s.set_text("path.maxLight", "4");
        QVERIFY(!key && key.error().remedy.find("path.maxLights") != std::string::npos);
        const auto value = s.set_text("path.maxLights", "65");
        QVERIFY(!value && value.error().remedy.find("1 to 64") != std::string::npos);
        const auto word = s.set_text("tone.curve", "bright");
        QVERIFY(!word && word.error().remedy.find("filmic") != std::string::npos);
        QVERIFY(!s.set_text("exposure.ev100", "nan"));
        QVERIFY(!s.set_text("path.depthPrepass", "perhaps"));
        QVERIFY(s == Setup());
    }

    void every_setting_survives_text_and_json() {
        for (const Setting& d : all_settings()) {
            Setup a, b;
            const std::string text = d.kind == SettingKind::toggle   ? "on"
                                     : d.kind == SettingKind::choice ? d.choices.back()
                                     : d.kind == SettingKind::text   ? "a name"
                                     : d.kind == SettingKind::color  ? "0.25,0.5,0.75"
                                     : d.kind == SettingKind::number ? to_text(Value(d.high))
                                                                     : std::to_string(static_cast<int>(d.high));
            QVERIFY2(a.set_text(d.key, text).has_value(), d.key.c_str());
            const auto json = nlohmann::json::parse(to_json(a).dump());
            for (const auto& [key, value] : json.items())
                QVERIFY2(b.set_json(key, value).has_value(), key.c_str());
            QVERIFY(a == b);
            QVERIFY(!d.help.empty() && !d.label.empty() && !d.station.empty());
        }
    }

    void differences_are_said_in_words() {
        Setup a, b;
        QVERIFY(b.set("path.maxLights", 16).has_value());
        QCOMPARE(differences(a, b), std::vector<std::string>{"Lights an object (K) 8 \u2192 16"});
    }

    void plan_follows_the_path() {
        const Scene scene = random_scene(1, 20);
        const View view = view_from({0, 5, 16}, {0, 1, 0}, 320, 200);
        auto names = [&](const Setup& s) {
            std::vector<std::string> out;
            for (const PlannedPass& p : plan_frame(scene, s, view).passes)
                out.push_back(p.name);
            return out;
        };
        Setup s;
        QCOMPARE(names(s), (std::vector<std::string>{"opaque", "sky", "transparent", "finish"}));
        QVERIFY(s.set("path.depthPrepass", true).has_value());
        QCOMPARE(names(s).front(), std::string("depth"));
        QVERIFY(s.set("path.kind", std::string("additive")).has_value());
        QCOMPARE(names(s), (std::vector<std::string>{"depth", "ambient", "lights", "sky", "transparent", "finish"}));
        Setup t;
        QVERIFY(t.set("path.kind", std::string("tiled-deferred")).has_value());
        QCOMPARE(names(t),
                 (std::vector<std::string>{"g-buffer", "culling", "shading", "sky", "transparent", "finish"}));
        QVERIFY(t.set("path.kind", std::string("clustered-forward")).has_value());
        QCOMPARE(names(t), (std::vector<std::string>{"depth", "culling", "opaque", "sky", "transparent", "finish"}));
    }

    /// Brute force over sampled points of each object: a light that lights one is in the object's list when nothing
    /// limits it.
    void lists_hold_every_light_that_reaches_the_object() {
        std::mt19937 r(3);
        for (std::uint32_t seed = 1; seed <= 8; ++seed) {
            const Scene scene = random_scene(seed, 40);
            Setup s;
            QVERIFY(s.set("path.maxLights", 64).has_value());
            const View view = view_from({0, 6, 18}, {0, 1, 0}, 320, 200);
            const DrawList list = build_draw_list(scene, s, view);
            QCOMPARE(list.droppedLights, std::uint64_t(0));
            for (const auto* draws : {&list.opaque, &list.blended})
                for (const Draw& d : *draws) {
                    const Primitive& p = scene.asset->primitives[scene.asset->objects[d.object].primitive];
                    const std::vector<std::uint32_t> listed(list.lightIndices.begin() + d.lightOffset,
                                                            list.lightIndices.begin() + d.lightOffset + d.lightCount);
                    QVERIFY(std::is_sorted(listed.begin(), listed.end()));
                    for (int k = 0; k < 20; ++k) {
                        const float u = random01(r), v = random01(r);
                        const glm::vec3 point = p.vertices[0].position +
                                                (p.vertices[1].position - p.vertices[0].position) * u +
                                                (p.vertices[2].position - p.vertices[0].position) * v;
                        for (std::size_t l = 0; l < list.lights.size(); ++l) {
                            const glm::dvec3 e =
                                normal_irradiance(list.lights[l], point, list.reach[l], RangeWindow::squared);
                            if (e.r + e.g + e.b > 0)
                                QVERIFY(std::find(listed.begin(), listed.end(), l) != listed.end());
                        }
                    }
                }
        }
    }

    void lights_over_the_limit_are_dropped_and_counted() {
        const Scene scene = random_scene(5, 40);
        const View view = view_from({0, 6, 18}, {0, 1, 0}, 320, 200);
        Setup all, few;
        QVERIFY(all.set("path.maxLights", 64).has_value());
        QVERIFY(few.set("path.maxLights", 3).has_value());
        const DrawList a = build_draw_list(scene, all, view), b = build_draw_list(scene, few, view);
        QCOMPARE(a.lightIndices.size() - b.lightIndices.size(), std::size_t(b.droppedLights));
        QVERIFY(b.droppedLights > 0 && b.droppedObjects > 0);
        for (const Draw& d : b.opaque)
            QVERIFY(d.lightCount <= 3u + static_cast<unsigned>(b.directional));
    }

    void a_light_outside_the_view_is_counted_and_left_out() {
        Scene scene;
        scene.asset = white_plane();
        Light l;
        l.position = {0, 1, 500};
        l.range = 5;
        scene.lights = {l};
        const DrawList list = build_draw_list(scene, Setup(), view_from({0, 3, 12}, {0, 0, 0}, 64, 64));
        QCOMPARE(list.lightsOutside, 1);
        QVERIFY(list.lights.empty());
    }

    /// Monte-Carlo oracle: every sampled point of a sphere that projects into the picture does so inside the rectangle.
    void sphere_rect_holds_the_sphere() {
        std::mt19937 r(11);
        const View view = view_from({0, 0, 0}, {0.3f, 0.1f, -1}, 200, 120);
        for (int i = 0; i < 500; ++i) {
            const glm::vec3 c(random_in(r, -6, 6), random_in(r, -4, 4), random_in(r, -12, 2));
            const float radius = random_in(r, 0.1f, 3);
            const PixelRect rect = sphere_rect(view, c, radius);
            for (int k = 0; k < 60; ++k) {
                const glm::vec3 p = c + radius * glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 1),
                                                                          random_in(r, -1, 1)) +
                                                                glm::vec3(1e-4f));
                const auto at = project(view, p);
                if (!at || at->x < 0 || at->y < 0 || at->x >= 200 || at->y >= 120) continue;
                QVERIFY(at->x >= rect.x0 && at->x <= rect.x1 && at->y >= rect.y0 && at->y <= rect.y1);
            }
        }
    }

    void frustum_keeps_every_point_that_projects_into_the_picture() {
        std::mt19937 r(13);
        const View view = view_from({1, 2, 3}, {-4, 0, -2}, 300, 200);
        const auto planes = frustum_planes(view.camera, 1.5);
        for (int i = 0; i < 2000; ++i) {
            const glm::vec3 p(random_in(r, -20, 20), random_in(r, -20, 20), random_in(r, -20, 20));
            const auto at = project(view, p);
            if (at && at->x > 0 && at->y > 0 && at->x < 300 && at->y < 200)
                QVERIFY(intersects(planes, Box{p, p}) && intersects(planes, p, 0.001f));
        }
    }

    void camera_moves_are_what_they_say() {
        const View view = view_from({0, 2, 8}, {0, 1, 0}, 640, 360);
        const Camera& c = view.camera;
        QVERIFY(std::abs(glm::length(orbit(c, 0.4f, 0.2f).eye - c.aim) - glm::length(c.eye - c.aim)) < 1e-4f);
        QCOMPARE(look(c, 0.3f, 0).eye, c.eye);
        QVERIFY(std::abs(glm::length(dolly(c, 0.5f).eye - c.aim) - 0.5f * glm::length(c.eye - c.aim)) < 1e-4f);
        const Ray ray = ray_through(view, 123.5, 77.25);
        const auto back = project(view, ray.origin + ray.direction * 4.0f);
        QVERIFY(back && std::abs(back->x - 123.5f) < 1e-2f && std::abs(back->y - 77.25f) < 1e-2f);
        Camera up = c;
        for (int i = 0; i < 100; ++i)
            up = orbit(up, 0, 0.2f); // never over the pole
        QVERIFY(std::isfinite(view_matrix(up)[0][0]));
    }
};

MIROLUX_TEST(plan_test)
#include "plan_test.moc"
