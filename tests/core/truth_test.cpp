#include "core/light/falloff.h"
#include "core/sky/sky_model.h"
#include "core/truth/remarks.h"
#include "support/test_main.h"
#include "support/traced.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;
using namespace mirolux::truth;

/// The path tracer against closed forms and numerical integrals.
class truth_test : public QObject {
    Q_OBJECT

    /// The inside of a sphere, seen from within: 20,000 triangles.
    static std::shared_ptr<const SceneAsset> sphere(float radius, double albedo) {
        SceneAsset a;
        a.materials.push_back(diffuse(albedo, 0, true));
        Primitive p;
        p.material = 0;
        constexpr int rows = 100, columns = 100;
        for (int j = 0; j <= rows; ++j)
            for (int i = 0; i <= columns; ++i) {
                const float theta = glm::pi<float>() * static_cast<float>(j) / rows,
                            phi = glm::two_pi<float>() * static_cast<float>(i) / columns;
                Vertex v;
                v.normal =
                    -glm::vec3(std::sin(theta) * std::cos(phi), std::cos(theta), std::sin(theta) * std::sin(phi));
                v.position = -radius * v.normal;
                p.vertices.push_back(v);
                p.bounds.add(v.position);
            }
        for (std::uint32_t j = 0; j < rows; ++j)
            for (std::uint32_t i = 0; i < columns; ++i) {
                const std::uint32_t at = j * (columns + 1) + i;
                for (const std::uint32_t k : {at, at + columns + 1, at + 1, at + 1, at + columns + 1, at + columns + 2})
                    p.indices.push_back(k);
            }
        Object o;
        o.primitive = 0;
        o.bounds = p.bounds;
        a.bounds = p.bounds;
        a.primitives.push_back(std::move(p));
        a.objects.push_back(o);
        a.objectNames.push_back({"sphere", "sphere", -1});
        return finished(std::move(a));
    }
private slots:
    /// What no surface stops is the sky, sun and all; a white floor under the sky's ambient light and no lamp gets its
    /// irradiance.
    void the_atmosphere_is_seen_and_lights() {
        Setup setup = lambert();
        for (const auto& [key, value] : {std::pair("sky.kind", "atmosphere"),
                                         {"sun.elevation", "35"},
                                         {"ambient.kind", "environment"},
                                         {"sky.groundAlbedo", "0"}})
            QVERIFY(setup.set_text(key, value).has_value());
        SceneAsset a;
        a.materials.push_back(diffuse(0.5, 0, true));
        add_quad(a, 0, {-200, 0, 200}, {400, 0, 0}, {0, 0, -400});
        const Scene scene{finished(std::move(a)), {}, {}, {}};
        const View up = view_from({0, 2, 0}, {0, 3, -1}, 4, 4);
        const SkyModel model(sky_settings(scene, setup, up));
        const Picture seen = traced(scene, setup, up, {}, 1);
        QVERIFY(std::abs(mean(seen) / luminance(model.radiance(glm::normalize(glm::dvec3(0, 1, -1)))) - 1) < 0.5);
        const View down = view_from({0, 2, 0}, {0, 0, -0.01f}, 4, 4);
        const double wanted = luminance(model.irradiance()) * 0.5 / glm::pi<double>();
        QVERIFY(std::abs(mean(traced(scene, setup, down, {}, 400)) / wanted - 1) < 0.05);
    }

    /// Emission 1 everywhere in a closed box: each bounce adds albedo times the one before.
    void a_closed_glowing_box_has_the_radiance_of_its_series() {
        for (const double albedo : {0.2, 0.5, 0.8}) {
            SceneAsset a;
            a.materials.push_back(diffuse(albedo, 1, true));
            add_box(a, 0, {-2, -1, -3}, {4, 3, 5});
            Scene scene;
            scene.asset = finished(std::move(a));
            const double is = mean(traced(scene, lambert(), view_from({0, 0, 0}, {1, 0.3f, 1}, 12, 8), {}, 800)),
                         wanted = 1 / (1 - albedo);
            QVERIFY2(std::abs(is / wanted - 1) < 0.005, qPrintable(QString("%1: %2").arg(albedo).arg(is / wanted)));
        }
    }

    /// Indirect irradiance r / (1 - r) I / R^2 within a diffuse sphere about a point light.
    void a_lit_sphere_has_the_irradiance_of_its_series() {
        constexpr float R = 2;
        for (const double r : {0.3, 0.7}) {
            Scene scene;
            scene.asset = sphere(R, r);
            scene.lights = {lamp({0, 0, 0}, 100)};
            Options o;
            o.layer = Layer::indirect;
            const double is = mean(
                             traced(scene, lambert(), view_from({0.4f, -0.2f, 0.3f}, {1, 0.2f, 1}, 12, 8), o, 600)),
                         wanted = r / glm::pi<double>() * r / (1 - r) * 100 / (R * R);
            QVERIFY2(std::abs(is / wanted - 1) < 0.01, qPrintable(QString("%1: %2").arg(r).arg(is / wanted)));
            o.layer = Layer::direct;
            const double direct =
                mean(traced(scene, lambert(), view_from({0.4f, -0.2f, 0.3f}, {1, 0.2f, 1}, 12, 8), o, 8));
            QVERIFY2(std::abs(direct / (r / glm::pi<double>() * 100 / (R * R)) - 1) < 0.01,
                     qPrintable(QString::number(direct)));
        }
    }

    /// A glowing polygon over a plane: Lambert's formula for its form factor (J. Lambert, Photometria, 1760).
    void an_area_light_gives_its_form_factor() {
        const glm::dvec3 corner[4] = {{-1, 2, -0.5}, {1, 2, -0.5}, {1, 2, 0.5}, {-1, 2, 0.5}};
        SceneAsset a;
        a.materials = {diffuse(1, 0, false), diffuse(0, 5, false)};
        add_quad(a, 0, {-10, 0, 10}, {20, 0, 0}, {0, 0, -20});
        add_quad(a, 1, {-1, 2, -0.5f}, {2, 0, 0}, {0, 0, 1}); // facing down
        Scene scene;
        scene.asset = finished(std::move(a));
        for (const glm::vec3 at : {glm::vec3(0, 0, 0), {1.5f, 0, 0.7f}, {-3, 0, 2}}) {
            glm::dvec3 sum(0.0);
            for (int i = 0; i < 4; ++i) {
                const glm::dvec3 u = glm::normalize(corner[i] - glm::dvec3(at)),
                                 v = glm::normalize(corner[(i + 1) % 4] - glm::dvec3(at));
                sum += std::acos(glm::clamp(glm::dot(u, v), -1.0, 1.0)) * glm::normalize(glm::cross(u, v));
            }
            const double wanted = 5 * 0.5 * std::abs(sum.y) / glm::pi<double>(); // radiance of white
            View view = view_from(at + glm::vec3(0.3f, 1, 4), at, 3, 3);         // its middle pixel looks at the point
            view.camera.fovY = 0.02f;
            Options o;
            o.layer = Layer::indirect;
            const Picture p = traced(scene, lambert(), view, o, 60000);
            const double is = luminance(p.sum[4]) / p.count[4];
            QVERIFY2(std::abs(is / wanted - 1) < 0.005, qPrintable(QString("%1 of %2").arg(is).arg(wanted)));
        }
    }

    /// What fog sends back of one lamp along the eye's ray, against the midpoint rule.
    void single_scattering_is_its_integral() {
        SceneAsset a;
        a.materials = {diffuse(0, 0, true)};
        add_quad(a, 0, {-30, -30, -20}, {60, 0, 0}, {0, 60, 0});
        Scene scene;
        scene.asset = finished(std::move(a));
        Setup setup = lambert();
        const double sigma = 0.08, albedo = 0.9;
        for (const auto& [key, value] : {std::pair("air.kind", "uniform"),
                                         {"air.extinction", "0.08"},
                                         {"air.albedo", "0.9,0.9,0.9"},
                                         {"light.threshold", "0.0001"}})
            QVERIFY(setup.set_text(key, value).has_value());
        for (const glm::vec3 at : {glm::vec3(1.5f, 0.5f, -8), {0.1f, 0, -5}, {-4, 3, -19}}) {
            scene.lights = {lamp(at, 200)};
            View view = view_from({0, 0, 0}, {0, 0, -1}, 3, 3);
            view.camera.fovY = 0.002f;
            view.camera.near = 0.001f;
            Options o;
            o.layer = Layer::scattering;
            const Picture p = traced(scene, setup, view, o, 20000);
            const double is = luminance(p.sum[4]) / p.count[4];
            double wanted = 0;
            constexpr int steps = 400000;
            for (int i = 0; i < steps; ++i) {
                const double t = 20.0 * (i + 0.5) / steps;
                const glm::dvec3 x(0, 0, -t);
                const double d = glm::length(glm::dvec3(at) - x);
                wanted +=
                    albedo * sigma / (4 * glm::pi<double>()) *
                    normal_irradiance(scene.lights[0], x, derived_range(scene.lights[0], 0.0001f), RangeWindow::squared)
                        .x *
                    std::exp(-sigma * (t + d)) * 20.0 / steps;
            }
            QVERIFY2(std::abs(is / wanted - 1) < 0.01, qPrintable(QString("%1 of %2").arg(is).arg(wanted)));
            // The same of one ray by itself, with an error that says how far it is.
            const PathTracer tracer(scene, setup, view, o, std::make_shared<RayScene>(scene));
            int within = 0;
            for (std::uint32_t seed = 1; seed <= 40; ++seed) {
                const auto e = tracer.single_scattering({{0, 0, 0}, {0, 0, -1}}, 0, 20, 256, seed);
                QCOMPARE(e.samples, 256u);
                QVERIFY(e.error > 0 && e.error < 0.2 * wanted);
                within += std::abs(luminance(e.value) - wanted) < 2 * e.error;
            }
            QVERIFY2(within >= 36, qPrintable(QString::number(within)));
            const auto once = tracer.single_scattering({{0, 0, 0}, {0, 0, -1}}, 0, 20, 64, 5);
            QVERIFY(once.value == tracer.single_scattering({{0, 0, 0}, {0, 0, -1}}, 0, 20, 64, 5).value);
            QCOMPARE(luminance(tracer.single_scattering({{0, 0, 0}, {0, 0, -1}}, 5, 5, 8, 1).value), 0.0);
        }
    }

    /// Walls that glow with 1 and reflect nothing, around fog that loses nothing: 1 in every direction, however often
    /// light is scattered. Fog that keeps a part is darker in its middle than in a corner.
    void fog_that_loses_nothing_cannot_be_seen_within_glowing_walls() {
        SceneAsset a;
        a.materials.push_back(diffuse(0, 1, true));
        add_box(a, 0, {-2, -1, -3}, {4, 3, 5});
        Scene scene;
        scene.asset = finished(std::move(a));
        Setup setup = lambert();
        const View view = view_from({0, 0, 0}, {1, 0.3f, 1}, 12, 8);
        for (const double extinction : {0.2, 1.5}) {
            for (const auto& [key, value] : {std::pair<const char*, std::string>("air.kind", "uniform"),
                                             {"air.extinction", std::to_string(extinction)},
                                             {"air.albedo", "1,1,1"}})
                QVERIFY(setup.set_text(key, value).has_value());
            const double is = mean(traced(scene, setup, view, {}, 1500));
            QVERIFY2(std::abs(is - 1) < 0.005, qPrintable(QString("%1: %2").arg(extinction).arg(is)));
            QVERIFY(setup.set_text("air.albedo", "0.5,0.5,0.5").has_value());
            QVERIFY(mean(traced(scene, setup, view, {}, 200)) < 0.95);
        }
    }

    /// Each lobe by itself, and both together.
    void lobes_add_up() {
        Scene scene = corner(2);
        for (Light& l : scene.lights)
            l.sourceSize = l.type == LightType::directional ? 0.1f : 0.3f;
        const Setup setup;
        const auto of = [&](Layer layer) {
            Options o;
            o.layer = layer;
            o.bounces = 2;
            return mean(traced(scene, setup, small(48, 32), o, 256));
        };
        const double direct = of(Layer::direct), indirect = of(Layer::indirect);
        QVERIFY(of(Layer::diffuse) > 0 && of(Layer::specular) > 0 && of(Layer::indirectSpecular) > 0);
        QVERIFY(std::abs((of(Layer::diffuse) + of(Layer::specular)) / direct - 1) < 0.005);
        QVERIFY(std::abs((of(Layer::indirectDiffuse) + of(Layer::indirectSpecular)) / indirect - 1) < 0.02);
    }

    /// What the switches do, each against what it should come to.
    void options_do_what_they_say() {
        SceneAsset a;
        a.materials = {diffuse(0.5, 0, false)};
        add_quad(a, 0, {-20, 0, 20}, {40, 0, 0}, {0, 0, -40});
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.sky = {{3, 3, 3}, {3, 3, 3}};
        scene.lights = {lamp({0, 5, 0}, 100)};
        scene.lights[0].range = 4; // it ends before the ground
        View view = view_from({2, 1, 0}, {0, 0, 0}, 3, 3);
        view.camera.fovY = 0.0002f;
        Setup setup = lambert();
        Options o;
        o.layer = Layer::direct;
        QCOMPARE(mean(traced(scene, setup, view, o, 4)), 0.0);
        o.complete = true; // without range: I / d^2
        QVERIFY(std::abs(mean(traced(scene, setup, view, o, 4)) / (0.5 / glm::pi<double>() * 100 / 25) - 1) < 1e-4);
        // What leaves the scene meets the ambient light (none here), or the sky.
        o = {};
        o.layer = Layer::indirect;
        QCOMPARE(mean(traced(scene, setup, view, o, 16)), 0.0);
        o.skyAround = true;
        QVERIFY(std::abs(mean(traced(scene, setup, view, o, 64)) - 0.5 * 3) < 1e-4);
        // A clamp only takes away, and nothing from what is below it.
        o.clamp = 1;
        QVERIFY(mean(traced(scene, setup, view, o, 64)) < 1.01);
        o.clamp = 100;
        QVERIFY(std::abs(mean(traced(scene, setup, view, o, 64)) - 1.5) < 1e-4);
    }

    /// Many lamps and spots beside a ray, in reach and out of it: the sum of their integrals by the midpoint rule.
    void air_of_many_lamps_is_their_sum() {
        Setup setup = lambert();
        for (const auto& [key, value] : {std::pair("air.kind", "uniform"),
                                         {"air.extinction", "0.05"},
                                         {"air.albedo", "0.8,0.8,0.8"},
                                         {"light.threshold", "0.01"}})
            QVERIFY(setup.set_text(key, value).has_value());
        std::mt19937 r(21);
        Scene scene;
        SceneAsset a;
        a.materials = {diffuse(0, 0, true)};
        add_quad(a, 0, {-60, -60, -60}, {120, 0, 0}, {0, 120, 0}); // behind all of it
        scene.asset = finished(std::move(a));
        for (int i = 0; i < 40; ++i) {
            Light l = lamp({random_in(r, -6, 6), random_in(r, -6, 6), random_in(r, -30, 2)}, random_in(r, 5, 200));
            l.id = i + 1;
            if (i % 2) {
                l.type = LightType::spot;
                l.direction = glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1)));
                l.outerConeAngle = random_in(r, 0.1f, 1.2f);
                l.innerConeAngle = 0.5f * l.outerConeAngle;
            }
            if (i % 3) l.range = random_in(r, 3, 12);
            scene.lights.push_back(l);
        }
        const PathTracer tracer(scene, setup, view_from({0, 0, 0}, {0, 0, -1}, 3, 3), {},
                                std::make_shared<RayScene>(scene));
        double wanted = 0;
        constexpr int steps = 40000;
        for (int i = 0; i < steps; ++i) {
            const glm::dvec3 x(0, 0, -25.0 * (i + 0.5) / steps);
            for (const Light& l : scene.lights)
                wanted += 0.8 * 0.05 / (4 * glm::pi<double>()) *
                          normal_irradiance(l, x, derived_range(l, 0.01f), RangeWindow::squared).x *
                          std::exp(-0.05 * (-x.z + glm::length(glm::dvec3(l.position) - x))) * 25.0 / steps;
        }
        const auto is = tracer.single_scattering({{0, 0, 0}, {0, 0, -1}}, 0, 25, 20000, 3);
        QVERIFY2(std::abs(luminance(is.value) / wanted - 1) < 0.01,
                 qPrintable(QString("%1 of %2").arg(luminance(is.value)).arg(wanted)));
        QVERIFY2(is.error < 0.01 * wanted, qPrintable(QString::number(is.error / wanted)));
    }

    void odd_scenes_have_defined_pictures() {
        const float nan = std::numeric_limits<float>::quiet_NaN();
        SceneAsset a;
        a.materials = {diffuse(0.5, 0, false), diffuse(0.5, 3, false)};
        add_box(a, 0, {-2, 0, -2}, {4, 1, 4});
        add_quad(a, 1, {-1, 3, -1}, {2, 0, 0}, {0, 0, 2});
        add_quad(a, 1, {5, 3, 5}, {1e-9f, 0, 0}, {0, 0, 1e-9f}); // no area
        for (Vertex& v : a.primitives[4].vertices)
            v.normal = glm::vec3(nan);
        for (Vertex& v : a.primitives[2].vertices)
            v.normal = glm::vec3(0);
        Scene scene;
        scene.asset = finished(std::move(a));
        const auto all_finite = [&](const Scene& s) {
            const Picture p = traced(s, Setup(), view_from({3, 3, 5}, {0, 0.5f, 0}, 24, 16), {}, 8);
            for (const glm::dvec3& v : p.sum)
                if (!std::isfinite(v.x + v.y + v.z)) return false;
            return mean(p) >= 0;
        };
        const auto said = [&](const Setup& setup, double housing = 0.1) {
            return remarks(scene, setup, RayScene(scene), housing);
        };
        QVERIFY(all_finite(scene)); // no light at all
        QCOMPARE(said(lambert()).size(), std::size_t(2));
        QVERIFY(said(lambert())[0].find("2 triangles have no area") != std::string::npos);
        QVERIFY(said(lambert())[1].find("8 normals are none") != std::string::npos);
        scene.lights = {lamp({0, 0.5f, 0}, 100)}; // within the box
        QVERIFY(all_finite(scene));
        QVERIFY(said(lambert())[0].find("lamp stands within something") != std::string::npos);
        scene.lights[0].position.y = 2; // above it
        QCOMPARE(said(lambert()).size(), std::size_t(2));
        scene.lights = {lamp({3, 3, 5}, 1e9f)}; // where the eye is
        QVERIFY(all_finite(scene));
        Scene dark;
        SceneAsset matt;
        matt.materials = {diffuse(0.5, 0, true)};
        add_quad(matt, 0, {-1, 0, 1}, {2, 0, 0}, {0, 0, -2});
        dark.asset = finished(std::move(matt));
        QCOMPARE(remarks(dark, lambert(), RayScene(dark), 0.3).at(0),
                 std::string("nothing in this scene gives light: all is black"));
        dark.lights = {lamp({0, 1, 0}, 3)};
        QVERIFY(remarks(dark, lambert(), RayScene(dark), 0.3).empty());
        Setup cheap = lambert();
        QVERIFY(cheap.set_text("viewLights.kind", "ramp").has_value());
        QVERIFY(remarks(dark, cheap, RayScene(dark), 0.3).empty());
        dark.cheapLights = {starter(CheapStart::rim, 1, {})};
        QCOMPARE(remarks(dark, cheap, RayScene(dark), 0.3).size(), std::size_t(1)); // they are not traced
        Scene nothing;
        SceneAsset none;
        nothing.asset = finished(std::move(none));
        nothing.sky = {{1, 1, 1}, {1, 1, 1}};
        QVERIFY(std::abs(mean(traced(nothing, Setup(), view_from({0, 0, 0}, {0, 0, -1}, 4, 4), {}, 4)) - 1) < 1e-6);
    }
};

MIROLUX_TEST(truth_test)
#include "truth_test.moc"
