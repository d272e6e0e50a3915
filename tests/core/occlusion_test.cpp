#include "core/ambient/occlusion.h"
#include "core/ambient/occlusion_audit.h"
#include "core/path/path_kind.h"
#include "core/truth/integrals.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include "support/traced.h"
#include <QtTest>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

static Setup with(const std::vector<std::pair<std::string, std::string>>& values) {
    Setup s;
    for (const auto& [key, value] : values)
        if (auto ok = s.set_text(key, value); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return s;
}

class occlusion_test : public QObject {
    Q_OBJECT

private slots:
    /// Of a plane through the eye's ray what is open between two horizons, by the cosine to the projected normal and
    /// the sine of the angle to the eye's ray (planes about it lie dense near it): integrated by steps.
    void arcs_match_their_integral() {
        std::mt19937 r(5);
        for (int i = 0; i < 60; ++i) {
            const double n = random_in(r, -1.5f, 1.5f), right = std::min(double(random_in(r, 0, 1.57f)), n + 1.570796),
                         left = std::max(-double(random_in(r, 0, 1.57f)), n - 1.570796);
            double sum = 0;
            constexpr int steps = 20000;
            for (int s = 0; s < steps; ++s) {
                const double a = left + (right - left) * (s + 0.5) / steps;
                sum += std::max(0.0, std::cos(a - n)) * std::abs(std::sin(a)) * (right - left) / steps;
            }
            QVERIFY2(std::abs(open_arc(n, right) + open_arc(n, left) - sum) < 2e-4,
                     qPrintable(QString("%1: %2 of %3").arg(n).arg(open_arc(n, right) + open_arc(n, left)).arg(sum)));
        }
    }

    void a_wall_takes_its_form_factor() {
        SceneAsset a;
        a.materials = {plain_material(glm::vec3(0.5f), 0, 1)};
        a.materials[0].doubleSided = true;
        add_quad(a, 0, {-200, 0, 20}, {400, 0, 0}, {0, 0, -40});
        add_quad(a, 0, {-200, 0, 0}, {400, 0, 0}, {0, 1, 0});
        Scene scene;
        scene.asset = finished(std::move(a));
        const RayScene rays(scene);
        for (const float d : {0.1f, 0.4f, 1.0f, 3.0f}) {
            const Ray down{{0.3f, 0.05f, d}, {0, -1, 0}};
            const SurfacePoint floor = surface_point(rays, down, rays.any_surface(down, 0, true), true);
            const truth::Estimate e = truth::occlusion(rays, floor, 300, 20000, 1);
            QVERIFY2(std::abs(e.value - open_before_wall(d, 1)) < 0.004,
                     qPrintable(QString("%1: %2 of %3").arg(d).arg(e.value).arg(open_before_wall(d, 1))));
        }
        QCOMPARE(open_before_wall(0, 1), 0.5);
        QVERIFY(open_before_wall(1000, 1) > 0.999);
    }

    /// Under an endless ceiling a ray at a cosine c meets it at height / c metres; what stands in the fade counts less.
    void traced_occlusion_fades_as_the_frame_does() {
        SceneAsset a;
        a.materials = {plain_material(glm::vec3(0.5f), 0, 1)};
        a.materials[0].doubleSided = true;
        add_quad(a, 0, {-50, 0, 50}, {100, 0, 0}, {0, 0, -100});
        add_quad(a, 0, {-50, 1, 50}, {100, 0, 0}, {0, 0, -100});
        Scene scene;
        scene.asset = finished(std::move(a));
        View view = view_from({-3, 0.5f, 0}, {0, 0, 0}, 3, 3);
        view.camera.fovY = 0.002f;
        const auto rays = std::make_shared<RayScene>(scene);
        for (const char* fade : {"0", "0.3", "1"}) {
            const Setup setup =
                with({{"occlusion.kind", "horizon"}, {"occlusion.radius", "2"}, {"occlusion.fade", fade}});
            const truth::PathTracer tracer(scene, setup, view, occlusion_truth(setup), rays);
            double sum = 0, closed = 0;
            std::uint64_t asked = 0;
            for (std::uint32_t n = 0; n < 20000; ++n)
                sum += tracer.sample(1, 1, n, asked).x;
            const double f = std::stod(fade);
            for (int i = 0; i < 4000; ++i) {
                const double c = (i + 0.5) / 4000, metres = 1 / c;
                closed += 2 * c / 4000 * (metres >= 2 ? 0 : f > 0 ? std::clamp((2 - metres) / (2 * f), 0.0, 1.0) : 1.0);
            }
            QVERIFY2(std::abs(sum / 20000 - (1 - closed)) < 0.01,
                     qPrintable(QString("fade %1: %2 of %3").arg(fade).arg(sum / 20000).arg(1 - closed)));
        }
        QCOMPARE(occlusion_truth(with({{"occlusion.kind", "hemisphere"}})).fade, 0.0); // it has none
    }

    void light_in_creases_bounces() {
        for (double open = 0; open <= 1; open += 0.05) {
            const glm::dvec3 b = bounced_occlusion(open, {0.0, 0.5, 0.95});
            QVERIFY(b.x <= b.y && b.y <= b.z && b.x >= open);
            QVERIFY(b.z <= 1.0);
        }
        QVERIFY(bounced_occlusion(0.5, glm::dvec3(0.9)).x > 0.6);
    }

    void narrow_lobes_of_open_surfaces_keep_their_image() {
        for (double roughness : {0.1, 0.5, 1.0}) {
            QVERIFY(std::abs(mirrored_occlusion(0.7, 1, roughness) - 1) < 1e-12);
            QCOMPARE(mirrored_occlusion(0.7, 0, roughness) < 0.7, true);
            for (double open = 0; open < 1; open += 0.1)
                QVERIFY(mirrored_occlusion(0.6, open, roughness) <= mirrored_occlusion(0.6, open + 0.1, roughness));
        }
        QVERIFY(mirrored_occlusion(0.9, 0.6, 0.05) > mirrored_occlusion(0.9, 0.6, 0.9) - 1e-12);
        QCOMPARE(mixed_occlusion(OcclusionMix::product, 0.5, 0.4), 0.2);
        QCOMPARE(mixed_occlusion(OcclusionMix::least, 0.5, 0.4), 0.4);
        QCOMPARE(mixed_occlusion(OcclusionMix::screen, 0.5, 0.4), 0.5);
        QCOMPARE(mixed_occlusion(OcclusionMix::texture, 0.5, 0.4), 0.4);
    }

    void errors_are_those_of_the_pairs() {
        const OcclusionErrors e = occlusion_errors({{0.5, 0.6}, {0.9, 0.7}, {1, 1}, {0.2, 0.2}});
        QCOMPARE(e.pixels, std::size_t(4));
        QVERIFY(std::abs(e.mean - 0.075) < 1e-12 && std::abs(e.bias - 0.025) < 1e-12);
        QVERIFY(std::abs(e.worst - 0.2) < 1e-12 && std::abs(e.traced - 0.625) < 1e-12);
        QCOMPARE(occlusion_errors({}).pixels, std::size_t(0));
    }

    /// Forward paths lay depth and normals for it; deferred ones have them, and add ambient light once it is known.
    void each_path_has_what_it_needs_before() {
        const Scene scene = random_scene(4, 10);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        for (const std::string& path : path_words([](const PathKind&) { return true; })) {
            const auto planned = [&](const char* kind, const char* scale) {
                const Setup s = with({{"path.kind", path}, {"occlusion.kind", kind}, {"occlusion.scale", scale}});
                return plan_frame(scene, s, view);
            };
            const FramePlan off = planned("none", "full"), on = planned("horizon", "half");
            const bool deferred = path_kind(on.setup).deferred;
            const auto place = [&](const char* name) {
                for (std::size_t i = 0; i < on.passes.size(); ++i)
                    if (on.passes[i].name == name) return static_cast<int>(i);
                return -1;
            };
            QVERIFY(!off.pass("occlusion") && !off.pass("ambient light"));
            QVERIFY(place("occlusion") >= 0 && place("occlusion") < place("spread occlusion"));
            const int shading = place(deferred ? "ambient light" : path == "additive" ? "ambient" : "opaque");
            QVERIFY2(place("spread occlusion") < shading, path.c_str());
            QCOMPARE(place("ambient light") >= 0, deferred);
            QVERIFY(place(deferred ? "g-buffer" : "depth") < place("occlusion"));
            QCOMPARE(place("depth") >= 0, !deferred); // the geometry is not drawn twice
            if (path == "forward") QCOMPARE(on.pass("depth")->family, std::string("ambient")); // charged to it
            if (path == "tiled-forward") QCOMPARE(on.pass("depth")->family, std::string("depth"));
            const PlannedPass& lit = on.passes[static_cast<std::size_t>(shading)];
            QVERIFY(std::count(lit.reads.begin(), lit.reads.end(), occlusion_resource) == 1);
            QCOMPARE(on.resource(raw_occlusion_resource)->width, 32);
            QCOMPARE(on.resource(occlusion_resource)->width, 64);
        }
        // Without ambient light there is nothing to darken.
        const FramePlan dark = plan_frame(scene, with({{"occlusion.kind", "horizon"}, {"ambient.kind", "none"}}), view);
        QVERIFY(!dark.pass("occlusion") && !dark.pass("depth"));
        View both = view;
        both.stereo = Stereo::onePass;
        const FramePlan eyes =
            plan_frame(scene, with({{"occlusion.kind", "horizon"}, {"path.kind", "deferred"}}), both);
        QVERIFY(!eyes.pass("occlusion") && !eyes.pass("ambient light") && !eyes.notes.empty());
    }
};

MIROLUX_TEST(occlusion_test)
#include "occlusion_test.moc"
