#include "core/light/falloff.h"
#include "core/scene/object_edit.h"
#include "core/truth/integrals.h"
#include "core/truth/lit_part.h"
#include "core/truth/source.h"
#include "support/test_main.h"
#include "support/traced.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;
using namespace mirolux::truth;

/// What paths are made of: sources, lobes, trees, parts of rays, and shares of one surface, each by itself.
class truth_light_test : public QObject {
    Q_OBJECT

private slots:
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
};

MIROLUX_TEST(truth_light_test)
#include "truth_light_test.moc"
