#include "core/account/pixel_account.h"
#include "core/io/file.h"
#include "core/light/falloff.h"
#include "core/light/luminance.h"
#include "core/scene/object_edit.h"
#include "core/truth/integrals.h"
#include "core/truth/lit_part.h"
#include "core/truth/remarks.h"
#include "core/truth/source.h"
#include "core/truth/truth_picture.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QTemporaryDir>
#include <QtTest>
#include <tbb/global_control.h>

using namespace mirolux;
using namespace mirolux::test;
using namespace mirolux::truth;

/// The path tracer against closed forms, numerical integrals and itself.
class truth_test : public QObject {
    Q_OBJECT

    static Setup lambert() {
        Setup s;
        for (const auto& [key, value] : {std::pair("shading.model", "lambert"), {"ambient.kind", "none"}})
            if (!s.set_text(key, value)) qFatal("%s", key);
        return s;
    }
    static Material diffuse(double albedo, double emission, bool bothSides) {
        Material m = plain_material(glm::vec3(static_cast<float>(albedo)), 0, 1);
        m.emissive = glm::vec3(static_cast<float>(emission));
        m.doubleSided = bothSides;
        return m;
    }
    static Light lamp(glm::vec3 position, float candela) {
        Light l;
        l.id = 1;
        l.name = "lamp";
        l.position = position;
        l.intensity = candela;
        return l;
    }
    static Picture traced(const Scene& scene, const Setup& setup, const View& view, const Options& options,
                          std::uint32_t samples) {
        Picture p(view.width, view.height);
        refine(PathTracer(scene, setup, view, options, std::make_shared<RayScene>(scene)), p, {samples, 0},
               [](double) { return true; });
        return p;
    }
    static double mean(const Picture& p) {
        double sum = 0;
        for (std::size_t i = 0; i < p.sum.size(); ++i)
            sum += luminance(p.sum[i]) / p.count[i];
        return sum / static_cast<double>(p.sum.size());
    }
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
    /// A lit corner with all kinds of surfaces.
    static Scene corner(std::uint32_t seed) {
        Scene s = random_scene(seed, 12);
        return s;
    }
    static View small(int width, int height) { return view_from({7, 5, 9}, {0, 1, 0}, width, height); }

private slots:
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

    /// A lamp with a size gives an open surface the irradiance of a point; its highlight is that of its disc, by the
    /// midpoint rule; and where half of it is hidden, half of it is seen.
    void a_source_has_a_size() {
        SceneAsset a;
        a.materials = {diffuse(1, 0, false), plain_material({0.8f, 0.8f, 0.8f}, 1, 0.25f)};
        add_quad(a, 0, {-20, 0, 20}, {20, 0, 0}, {0, 0, -40}); // matt to the left, metal to the right
        add_quad(a, 1, {0, 0, 20}, {20, 0, 0}, {0, 0, -40});
        Scene scene;
        scene.asset = finished(std::move(a));
        Setup setup;
        QVERIFY(setup.set_text("ambient.kind", "none").has_value());
        Light ball = lamp({0, 3, 0}, 50), sun = lamp({}, 0.4f);
        ball.sourceSize = 0.8f;
        sun.type = LightType::directional;
        sun.direction = glm::normalize(glm::vec3(0.4f, -1, 0.1f));
        sun.sourceSize = glm::radians(20.0f);
        const auto at = [](const glm::vec3& point, const glm::vec3& from) {
            View v = view_from(point + from, point, 3, 3);
            v.camera.fovY = 0.0002f;
            return v;
        };
        for (const Light& light : {ball, sun}) {
            scene.lights = {light};
            Options o;
            o.layer = Layer::diffuse;
            const glm::vec3 matt(-1.5f, 0, 0.5f), metal(1.2f, 0, 0.3f);
            Light point = light;
            point.sourceSize = 0;
            const glm::dvec3 to = Source(point, matt).axis();
            const Setup flat = lambert();
            const double irradiance = normal_irradiance(point, matt, 0, RangeWindow::squared).x * to.y,
                         is = mean(traced(scene, flat, at(matt, {0.3f, 3, 0.2f}), o, 4000)) * glm::pi<double>();
            QVERIFY2(std::abs(is / irradiance - 1) < 0.004, qPrintable(QString("%1 of %2").arg(is).arg(irradiance)));

            o.layer = Layer::specular;
            const Source source(light, metal);
            glm::dvec3 t, b;
            frame_of(source.axis(), t, b);
            for (const double off : {0.0, 0.1, 0.35}) { // from the mirrored direction
                const glm::dvec3 mirrored = glm::reflect(-source.axis(), glm::dvec3(0, 1, 0));
                const glm::dvec3 eye = glm::normalize(mirrored + off * t);
                Scattering s;
                s.surface = {{0.8, 0.8, 0.8}, 1, 0.25};
                s.normal = {0, 1, 0};
                s.toEye = eye;
                double wanted = 0;
                constexpr int steps = 300;
                for (int i = 0; i < steps; ++i)
                    for (int j = 0; j < steps; ++j) {
                        const glm::dvec3 l = source.direction({(i + 0.5) / steps, (j + 0.5) / steps});
                        QVERIFY(source.metres(l).has_value());
                        wanted += s.lobes(l).specular.x * std::max(l.y, 0.0) / (steps * steps);
                    }
                // Even radiance: what the irradiance of a point of it would be, over pi sine^2 of the half angle.
                const double sine2 = light.type == LightType::directional
                                         ? std::pow(std::sin(light.sourceSize / 2), 2)
                                         : std::pow(0.4 / glm::length(light.position - metal), 2);
                wanted *= normal_irradiance(light, metal, 0, RangeWindow::squared).x * source.angle() /
                          (glm::pi<double>() * sine2);
                const double traced_ = mean(traced(scene, setup, at(metal, 4.0f * glm::vec3(eye)), o, 4000));
                QVERIFY2(std::abs(traced_ / wanted - 1) < 0.01,
                         qPrintable(QString("off %1: %2 of %3").arg(off).arg(traced_).arg(wanted)));
            }
        }
        // A wall's edge halves the ball for a point in line with its middle.
        SceneAsset walled = *scene.asset;
        add_quad(walled, 0, {-1.0f, 0, 20}, {0, 2, 0}, {0, 0, -40}); // edge at x = -1, y = 2: seen from x = -3
        scene.asset = finished(std::move(walled));
        const RayScene rays(scene);
        const auto floor_at = [&](float x) {
            const Ray ray{{x, 0.2f, 0}, {0, -1, 0}};
            return surface_point(rays, ray, rays.any_surface(ray, 0, true), true);
        };
        const Estimate half = visibility(rays, floor_at(-3), ball, 0, 4096, 1);
        QVERIFY2(std::abs(half.value - 0.5) < 0.02 && half.error > 0 && half.error < 0.02,
                 qPrintable(QString::number(half.value)));
        QCOMPARE(visibility(rays, floor_at(-1.2f), ball, 0, 256, 1).value, 0.0);
        QCOMPARE(visibility(rays, floor_at(-9), ball, 0, 256, 1).value, 1.0);
        const Light inside = [&] {
            Light l = ball;
            l.position = {-9, 0.1f, 0};
            return l;
        }();
        QVERIFY(std::isfinite(visibility(rays, floor_at(-9), inside, 0, 16, 1).value)); // within its own source
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

    /// A ray's lit part holds all that the lamp reaches and nothing else, against many points of the ray.
    void the_lit_part_of_a_ray_is_where_the_lamp_reaches() {
        std::mt19937 r(9);
        int none = 0, some = 0;
        for (int i = 0; i < 3000; ++i) {
            Light l = lamp({random_in(r, -5, 5), random_in(r, -5, 5), random_in(r, -5, 5)}, 10);
            l.type = i % 3 ? LightType::spot : LightType::point;
            l.direction = glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1.1f)));
            l.outerConeAngle = random_in(r, 0.05f, 1.55f);
            const double reach = i % 4 ? random_in(r, 1, 8) : 0;
            const glm::dvec3 o(random_in(r, -8, 8), random_in(r, -8, 8), random_in(r, -8, 8)),
                d = glm::normalize(glm::dvec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1.1f)));
            const auto part = lit_part(l, reach, o, d, {0.5, 20});
            none += !part;
            some += part.has_value();
            for (int k = 0; k <= 200; ++k) {
                const double t = 0.5 + 19.5 * k / 200;
                const glm::dvec3 v = o + d * t - glm::dvec3(l.position);
                const double cosine = glm::dot(v, glm::dvec3(l.direction)) / glm::length(v) -
                                      std::cos(double(l.outerConeAngle)),
                             within = reach > 0 ? reach - glm::length(v) : 1;
                if (std::abs(within) < 1e-4 || (l.type == LightType::spot && std::abs(cosine) < 1e-5)) continue;
                const bool lit = within > 0 && (l.type == LightType::point || cosine > 0),
                           told = part && t >= part->from && t <= part->to;
                QVERIFY2(lit == told, qPrintable(QString("%1 at %2 m").arg(i).arg(t)));
            }
        }
        QVERIFY(none > 300 && some > 300);
    }

    void scattering_chooses_as_it_says_and_reflects_what_the_lobes_do() {
        for (const brdf::Model model :
             {brdf::Model::lambert, brdf::Model::phong, brdf::Model::blinnPhong, brdf::Model::ggx})
            for (const double cosine : {1.0, 0.6, 0.15}) {
                Scattering s;
                s.model = model;
                s.surface = {{0.6, 0.5, 0.4}, 0.3, 0.35};
                s.exponent = 20;
                s.normal = glm::normalize(glm::dvec3(0.3, 1, -0.2));
                glm::dvec3 t, b;
                frame_of(s.normal, t, b);
                s.toEye = s.normal * cosine + t * std::sqrt(1 - cosine * cosine);
                // By the midpoint rule over the hemisphere: the density's whole, and the light of an even sky.
                double whole = 0;
                glm::dvec3 wanted(0.0), is(0.0);
                constexpr int steps = 400;
                for (int i = 0; i < steps; ++i)
                    for (int j = 0; j < 2 * steps; ++j) {
                        const double z = (i + 0.5) / steps, r = std::sqrt(1 - z * z),
                                     phi = glm::two_pi<double>() * (j + 0.5) / (2 * steps),
                                     area = glm::two_pi<double>() / (2.0 * steps * steps);
                        const glm::dvec3 l = t * (r * std::cos(phi)) + b * (r * std::sin(phi)) + s.normal * z;
                        const brdf::Lobes f = s.lobes(l);
                        whole += s.density(l) * area;
                        wanted += (f.diffuse + f.specular) * z * area;
                    }
                QVERIFY2(whole < 1.01 && whole > 0.5, qPrintable(QString::number(whole)));
                constexpr int samples = 60000;
                int above = 0;
                for (std::uint32_t n = 0; n < samples; ++n) {
                    Sampler u(7, n, 3, Sequence::sobol);
                    const glm::dvec2 uv = u.two();
                    const glm::dvec3 l = s.choose(uv, u.one());
                    QVERIFY(std::abs(glm::length(l) - 1) < 1e-6);
                    const double nl = glm::dot(s.normal, l), density = s.density(l);
                    if (nl <= 0 || density <= 0) continue;
                    ++above;
                    const brdf::Lobes f = s.lobes(l);
                    is += (f.diffuse + f.specular) * (nl / density);
                }
                QVERIFY2(std::abs(double(above) / samples / whole - 1) < 0.01,
                         qPrintable(QString("%1 of %2").arg(double(above) / samples).arg(whole)));
                is /= samples;
                QVERIFY2(std::abs(luminance(is) / luminance(wanted) - 1) < 0.01,
                         qPrintable(QString("model %1, cosine %2: %3 of %4")
                                        .arg(static_cast<int>(model))
                                        .arg(cosine)
                                        .arg(luminance(is))
                                        .arg(luminance(wanted))));
            }
    }

    /// Shares add up to one, choices come as often as they say, and nobody who gives anything is left out.
    void the_tree_chooses_as_often_as_it_says() {
        std::mt19937 r(5);
        std::vector<EmitterBounds> all;
        std::vector<Light> lights;
        for (int i = 0; i < 300; ++i) {
            Light l = lamp({random_in(r, -20, 20), random_in(r, 0, 6), random_in(r, -20, 20)}, random_in(r, 1, 50));
            l.type = i % 2 ? LightType::spot : LightType::point;
            l.direction = glm::normalize(glm::vec3(random_in(r, -1, 1), -1, random_in(r, -1, 1)));
            l.outerConeAngle = random_in(r, 0.2f, 1.2f);
            l.range = i % 7 ? random_in(r, 2, 15) : 0;
            EmitterBounds b;
            b.box.add(l.position);
            if (l.range > 0) {
                b.reached.add(l.position - glm::vec3(l.range));
                b.reached.add(l.position + glm::vec3(l.range));
            }
            b.cone = l.type == LightType::spot ? Cone{l.direction, std::cos(l.outerConeAngle)} : Cone{{0, 0, 1}, -1};
            b.cosineFalloff = 0.9999f;
            b.range = l.range;
            b.power = i == 13 ? 0 : l.intensity;
            if (i == 13) l.intensity = 0;
            all.push_back(b);
            lights.push_back(l);
        }
        const LightTree tree(all);
        for (int p = 0; p < 60; ++p) {
            const glm::vec3 at(random_in(r, -20, 20), random_in(r, 0, 4), random_in(r, -20, 20));
            const glm::vec3 n =
                p % 3 ? glm::normalize(glm::vec3(random_in(r, -1, 1), 0.7f, random_in(r, -1, 1))) : glm::vec3(0.0f);
            double whole = 0;
            std::vector<double> shares;
            for (int i = 0; i < 300; ++i) {
                shares.push_back(tree.share_of(i, at, n));
                whole += shares.back();
                const bool gives =
                    glm::length(normal_irradiance(lights[std::size_t(i)], at, 0, RangeWindow::squared)) > 0 &&
                    (n == glm::vec3(0.0f) || glm::dot(n, lights[std::size_t(i)].position - at) > 0);
                if (gives) QVERIFY2(shares.back() > 0, qPrintable(QString("light %1 at point %2").arg(i).arg(p)));
            }
            QVERIFY(whole < 1 + 1e-9);
            std::vector<int> chosen(300, 0);
            int none = 0;
            constexpr int draws = 4000;
            for (int k = 0; k < draws; ++k) {
                const LightTree::Choice c = tree.choose(at, n, (k + 0.5) / draws);
                if (c.emitter < 0) {
                    ++none;
                    continue;
                }
                ++chosen[std::size_t(c.emitter)];
                QVERIFY(std::abs(c.share - shares[std::size_t(c.emitter)]) < 1e-9);
            }
            QVERIFY(std::abs(whole + double(none) / draws - 1) < 0.01);
            for (std::size_t i = 0; i < 300; ++i)
                QVERIFY(std::abs(double(chosen[i]) / draws - shares[i]) < 4.0 / draws + 1e-3);
        }
        QVERIFY(LightTree({}).empty() && LightTree({}).choose({}, {}, 0.5).emitter < 0);
    }

    /// Means of few samples scatter about the mean of many as their variance says: 0.3 to 2 % beyond the 99 % interval.
    void means_are_unbiased() {
        int beyond = 0, asked = 0;
        for (const std::uint32_t seed : {1u, 2u, 3u}) {
            const Scene scene = corner(seed);
            Setup setup;
            if (seed == 2) QVERIFY(setup.set_text("air.kind", "uniform").has_value());
            const View view = small(64, 48);
            const auto rays = std::make_shared<RayScene>(scene);
            const auto blocks = [&](std::uint32_t s, std::uint32_t samples) {
                Options o;
                o.seed = s;
                o.bounces = 3;
                o.clamp = 0;
                Picture p(view.width, view.height);
                refine(PathTracer(scene, setup, view, o, rays), p, {samples, 0}, [](double) { return true; });
                std::vector<double> out(12, 0.0);
                for (int y = 0; y < 48; ++y)
                    for (int x = 0; x < 64; ++x)
                        out[std::size_t(y / 16 * 4 + x / 16)] +=
                            luminance(p.sum[std::size_t(y * 64 + x)]) / samples / 256;
                return out;
            };
            std::vector<std::vector<double>> few;
            for (std::uint32_t k = 0; k < 64; ++k)
                few.push_back(blocks(100 + k, 16));
            const std::vector<double> many = blocks(7, 1024);
            for (std::size_t b = 0; b < 12; ++b) {
                double m = 0, v = 0;
                for (const auto& f : few)
                    m += f[b] / 64;
                for (const auto& f : few)
                    v += (f[b] - m) * (f[b] - m) / 63;
                for (const auto& f : few) { // both scatter, the many samples a 64th as much
                    beyond += std::abs(f[b] - many[b]) > 2.576 * std::sqrt(v * (1 + 1 / 64.0));
                    ++asked;
                }
            }
        }
        qInfo("%d of %d blocks beyond the 99 %% interval", beyond, asked);
        QVERIFY(beyond >= 0.003 * asked && beyond <= 0.02 * asked);
    }

    void samples_are_the_same_on_any_number_of_threads_and_in_any_slices() {
        const Scene scene = corner(4);
        const Setup setup;
        const View view = small(48, 32);
        const PathTracer tracer(scene, setup, view, {}, std::make_shared<RayScene>(scene));
        const auto run = [&](std::size_t threads, std::uint32_t firstGoal) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
            Picture p(48, 32);
            if (firstGoal) refine(tracer, p, {firstGoal, 0}, [](double) { return true; });
            refine(tracer, p, {40, 0}, [](double) { return true; });
            return p;
        };
        const Picture one = run(1, 0);
        QVERIFY(one == run(2, 0));
        QVERIFY(one == run(2, 13));
    }

    void a_kept_picture_goes_on_where_it_was_left() {
        QTemporaryDir folder;
        const auto path = folder.filePath("a.truth").toStdString();
        const Scene scene = corner(4);
        const Setup setup;
        const View view = small(40, 24);
        const PathTracer tracer(scene, setup, view, {}, std::make_shared<RayScene>(scene));
        const std::string digest = digest_of(scene, setup, view, {});
        Picture whole(40, 24), part(40, 24);
        refine(tracer, whole, {32, 0}, [](double) { return true; });
        int slices = 0;
        refine(tracer, part, {32, 0}, [&](double) { return ++slices < 2; });
        QVERIFY(part != whole && part.rays > 0 && part.rays < whole.rays);
        QVERIFY(write_picture(path, part, digest).has_value());
        auto again = read_picture(path, digest);
        QVERIFY(again.has_value() && *again == part);
        refine(tracer, *again, {32, 0}, [](double) { return true; });
        QVERIFY(*again == whole);
        // What cannot be used says why.
        Scene other = scene;
        other.lights[2].intensity += 1;
        QVERIFY(digest_of(other, setup, view, {}) != digest);
        QVERIFY(!read_picture(path, digest_of(other, setup, view, {})));
        auto bytes = *read_file(path);
        for (const std::size_t at : {std::size_t(3), bytes.size() / 2, bytes.size() - 3}) {
            auto damaged = bytes;
            damaged[at] ^= 0x10;
            QVERIFY(write_file_atomically(path, std::string(damaged.begin(), damaged.end())).has_value());
            QVERIFY(!read_picture(path, digest));
        }
        QVERIFY(write_file_atomically(path, std::string(bytes.begin(), bytes.begin() + 60)).has_value());
        QVERIFY(!read_picture(path, digest));
        QVERIFY(!read_picture(folder.filePath("none").toStdString(), digest));
    }

    /// Error falls with the root of the samples, and faster with the low-discrepancy sequence.
    void the_error_falls_as_it_should() {
        const Scene scene = corner(6);
        const Setup setup;
        const View view = small(32, 24);
        const auto rays = std::make_shared<RayScene>(scene);
        Options o;
        o.layer = Layer::direct;
        o.seed = 99;
        Picture best(32, 24);
        refine(PathTracer(scene, setup, view, o, rays), best, {16384, 0}, [](double) { return true; });
        std::map<Sequence, std::vector<double>> errors;
        for (const Sequence sequence : {Sequence::random, Sequence::sobol}) {
            o.sequence = sequence;
            for (const std::uint32_t samples : {16u, 32u, 64u, 128u, 256u}) {
                double squares = 0;
                for (std::uint32_t seed = 1; seed <= 4; ++seed) {
                    o.seed = seed;
                    Picture p(32, 24);
                    refine(PathTracer(scene, setup, view, o, rays), p, {samples, 0}, [](double) { return true; });
                    for (std::size_t i = 0; i < p.sum.size(); ++i) {
                        const double d = luminance(p.sum[i]) / samples - luminance(best.sum[i]) / 16384;
                        squares += d * d;
                    }
                }
                errors[sequence].push_back(std::sqrt(squares));
            }
        }
        const auto slope = [](const std::vector<double>& e) {
            return std::log2(e.back() / e.front()) / static_cast<double>(e.size() - 1);
        };
        const auto &random = errors[Sequence::random], &sobol = errors[Sequence::sobol];
        qInfo("slopes: random %.3f, Sobol %.3f", slope(random), slope(sobol));
        QVERIFY(std::abs(slope(random) + 0.5) < 0.05);
        QVERIFY(slope(sobol) < -0.45);
        for (std::size_t i = 0; i < sobol.size(); ++i)
            QVERIFY(sobol[i] <= random[i]);
    }

    void an_error_is_asked_for_and_met() {
        const Scene scene = corner(3);
        const Setup setup;
        const View view = small(48, 32);
        const PathTracer tracer(scene, setup, view, {}, std::make_shared<RayScene>(scene));
        Picture p(48, 32);
        refine(tracer, p, {4096, 0.05}, [](double) { return true; });
        QVERIFY2(p.relative_error() <= 0.05 || p.fewest() == 4096, qPrintable(QString::number(p.relative_error())));
        const auto [least, most] = std::minmax_element(p.count.begin(), p.count.end());
        QVERIFY2(*most > *least, "samples go where the error is");
    }

    void shares_of_light_and_of_the_hemisphere_are_told() {
        // A floor under a square lid of 4 x 4 m at 1 m: half of the lamp's light and part of the sky is closed.
        SceneAsset a;
        a.materials = {diffuse(0.5, 0, true)};
        add_quad(a, 0, {-20, 0, 20}, {40, 0, 0}, {0, 0, -40});
        add_quad(a, 0, {0, 1, 2}, {4, 0, 0}, {0, 0, -4});
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.lights = {lamp({0, 3, 0}, 10)};
        View view = view_from({-3, 0.5f, 0}, {2, 0, 0}, 3, 3);
        view.camera.fovY = 0.002f;
        Options o;
        o.layer = Layer::visibility;
        o.light = 1;
        QCOMPARE(mean(traced(scene, lambert(), view, o, 4)), 0.0); // the lid is between
        o.light = 77;                                              // no such light
        QCOMPARE(mean(traced(scene, lambert(), view, o, 4)), 0.0);
        o.light = 1;
        View beside = view_from({-3, 0.5f, 0}, {-1, 0, 0}, 3, 3);
        beside.camera.fovY = 0.002f;
        QVERIFY(std::abs(mean(traced(scene, lambert(), beside, o, 4)) - 1) < 1e-9);
        // Occlusion under the middle of the lid against the form factor of a rectangle parallel to the point.
        o.layer = Layer::occlusion;
        o.radius = 100;
        const double half = 2, c = half / std::sqrt(1 + half * half); // four quarters, each a = b = 2 at height 1
        const double closed = 4 / glm::two_pi<double>() * 2 * c * std::atan(c);
        const double is = mean(traced(scene, lambert(), view, o, 20000));
        QVERIFY2(std::abs(is - (1 - closed)) < 0.005, qPrintable(QString("%1 of %2").arg(is).arg(1 - closed)));
        o.radius = 0.5; // the lid is farther away
        QVERIFY(std::abs(mean(traced(scene, lambert(), view, o, 200)) - 1) < 1e-9);
    }

    /// The same of one surface, each with its samples and its error.
    void integrals_of_a_surface_tell_their_error() {
        SceneAsset a;
        a.materials = {diffuse(0.5, 0, true), diffuse(0.5, 0, true)};
        a.materials[1].alphaMode = AlphaMode::blend;
        a.materials[1].baseColor.a = 0.25f;
        add_quad(a, 0, {-20, 0, 20}, {40, 0, 0}, {0, 0, -40});
        add_quad(a, 0, {0, 1, 2}, {4, 0, 0}, {0, 0, -4});
        add_quad(a, 1, {-6, 2, 2}, {3, 0, 0}, {0, 0, -4}); // a pane
        Scene scene;
        scene.asset = finished(std::move(a));
        const RayScene rays(scene);
        const auto floor_at = [&](float x, float z) {
            const Ray ray{{x, 0.5f, z}, {0, -1, 0}};
            return surface_point(rays, ray, rays.any_surface(ray, 0, true), true);
        };
        const double half = 2, c = half / std::sqrt(1 + half * half),
                     open = 1 - 4 / glm::two_pi<double>() * 2 * c * std::atan(c);
        // The error says how far: nine tenths of the estimates lie within two of them (Sobol's lie nearer still).
        int within = 0;
        for (std::uint32_t seed = 1; seed <= 40; ++seed) {
            const Estimate e = occlusion(rays, floor_at(2, 0), 100, 256, seed);
            QCOMPARE(e.samples, 256u);
            QVERIFY(e.error > 0.005 && e.error < 0.05);
            within += std::abs(e.value - open) < 2 * e.error;
        }
        QVERIFY(within >= 36);
        QCOMPARE(occlusion(rays, floor_at(2, 0), 100, 256, 3).value,
                 occlusion(rays, floor_at(2, 0), 100, 256, 3).value);
        QCOMPARE(occlusion(rays, floor_at(2, 0), 100, 0, 3).samples, 0u);
        Light sun = lamp({}, 1);
        sun.type = LightType::directional;
        sun.direction = {0, -1, 0};
        QCOMPARE(visibility(rays, floor_at(2, 0.3f), sun, 0, 1, 1).value, 0.0);
        QCOMPARE(visibility(rays, floor_at(-10, 0), sun, 0, 1, 1).value, 1.0);
        QVERIFY(std::abs(visibility(rays, floor_at(-4.5f, 0.3f), sun, 0, 1, 1).value - 0.75) <
                1e-6);                                                                       // through the pane
        QCOMPARE(visibility(rays, floor_at(2, 0), lamp({2, -1, 0}, 5), 0, 1, 1).value, 0.0); // from below
        // Seen from the left at 45 degrees, the lid stands where a mirror in the floor shows it.
        const Mirrored m = mirror(rays, floor_at(1, 0), glm::normalize(glm::vec3(-1, 1, 0)));
        QVERIFY(m.hit.object == 1 && std::abs(m.hit.distance - std::sqrt(2.0f)) < 1e-3f);
        QCOMPARE(mirror(rays, floor_at(-10, 0), {0, 1, 0}).hit.object, -1);
    }

    /// Objects that cast nothing let lamps through and are seen all the same; unseen ones cast and are not seen.
    void casting_switches_hold_for_lamps_alone() {
        SceneAsset a;
        a.materials = {diffuse(0.5, 0, true)};
        add_quad(a, 0, {-20, 0, 20}, {40, 0, 0}, {0, 0, -40});
        add_quad(a, 0, {-2, 1, 2}, {4, 0, 0}, {0, 0, -4});
        Scene scene;
        scene.asset = finished(std::move(a));
        scene.lights = {lamp({0, 3, 0}, 10)};
        const Ray down{{0, 0.5f, 0}, {0, -1, 0}}, up{{0, 0.5f, 0}, {0, 1, 0}};
        RayScene rays(scene);
        const auto as = [&](Casting casting) {
            ObjectEdit e{scene.asset->objectNames[1].id, "lid"};
            e.casts = casting;
            scene.placed = place_objects(*scene.asset, {e});
            rays.place(scene);
            const SurfacePoint floor = surface_point(rays, down, rays.any_surface(down, 0, true), true);
            return std::tuple(visibility(rays, floor, scene.lights[0], 0, 1, 1).value,
                              occlusion(rays, floor, 10, 512, 1).value, rays.nearest(up).object);
        };
        const auto [lit, open, above] = as(Casting::yes);
        QVERIFY(lit == 0 && open < 0.3 && above == 1);
        const auto [litNo, openNo, aboveNo] = as(Casting::no);
        QVERIFY(litNo == 1 && openNo == open && aboveNo == 1);
        const auto [litUnseen, openUnseen, aboveUnseen] = as(Casting::unseen);
        QVERIFY(litUnseen == 0 && openUnseen == 1 && aboveUnseen == -1);
    }

    /// Rays asked together are answered as one by one: holes, panes, sides, and ends.
    void rays_together_are_rays_one_by_one() {
        const Scene scene = corner(5);
        SceneAsset a = *scene.asset;
        for (std::size_t m = 0; m < a.materials.size(); ++m)
            if (m % 3 == 1) {
                a.materials[m].alphaMode = AlphaMode::blend;
                a.materials[m].baseColor.a = 0.3f;
            }
        Scene mixed = scene;
        mixed.asset = finished(std::move(a));
        const RayScene rays(mixed);
        std::mt19937 r(3);
        std::vector<Ray> asked;
        std::vector<float> to;
        for (int i = 0; i < 2003; ++i) {
            const glm::vec3 from(random_in(r, -6, 6), random_in(r, 0.1f, 5), random_in(r, -6, 6));
            asked.push_back({from, glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 1), 0.3f))});
            to.push_back(i % 17 == 0  ? -1.0f
                         : i % 5 == 0 ? std::numeric_limits<float>::infinity()
                                      : random_in(r, 1, 9));
        }
        std::vector<float> together(asked.size(), -1.0f);
        rays.transmitted(asked, to, together);
        int open = 0, part = 0;
        for (std::size_t i = 0; i < asked.size(); ++i) {
            const float one = rays.transmitted(asked[i], 0, to[i]);
            QVERIFY2(std::abs(together[i] - one) < 1e-5f,
                     qPrintable(QString("%1: %2 of %3").arg(i).arg(together[i]).arg(one)));
            open += one == 1.0f;
            part += one > 0 && one < 1;
        }
        QVERIFY(open > 200 && part > 20 && open + part < 1900);
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
        Scene nothing;
        SceneAsset none;
        nothing.asset = finished(std::move(none));
        nothing.sky = {{1, 1, 1}, {1, 1, 1}};
        QVERIFY(std::abs(mean(traced(nothing, Setup(), view_from({0, 0, 0}, {0, 0, -1}, 4, 4), {}, 4)) - 1) < 1e-6);
    }

    void distances_are_over_the_mean_of_the_truth() {
        const FloatImage t{2, 1, 4, {1, 1, 1, 0, 3, 3, 3, 0}}, a{2, 1, 3, {2, 2, 2, 3, 3, 3}};
        const Distance d = distance(a, t);
        QCOMPARE(d.mean, 0.25);
        QCOMPARE(d.bias, 0.25);
        QVERIFY(std::abs(d.rms - std::sqrt(0.5) / 2) < 1e-12);
        QVERIFY(std::abs(d.p95 - 0.5) < 1e-12);
    }
};

MIROLUX_TEST(truth_test)
#include "truth_test.moc"
