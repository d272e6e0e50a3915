#include "core/image/image_io.h"
#include "core/sky/panorama.h"
#include "core/truth/surroundings.h"
#include "support/test_main.h"
#include "support/traced.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;
using namespace mirolux::truth;

/// Surroundings that shine from few directions, found by the path tracer.
class truth_surroundings_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

    /// An even sky and a small disc that gives most of the light.
    static double disc_light(const glm::dvec3& d, double across) {
        return std::acos(std::clamp(glm::dot(d, glm::normalize(glm::dvec3(0.3, 0.6, -0.5))), -1.0, 1.0)) < 0.5 * across
                   ? 9000
                   : 1;
    }

    /// Lit by a picture of it.
    Setup pictured(double across) const {
        const std::string file = folder_.filePath("disc.exr").toStdString();
        const auto wrote =
            write_exr(file, panorama(
                                1024, [&](const glm::dvec3& d) { return glm::dvec3(disc_light(d, across)); }, 4));
        Setup setup;
        for (const auto& [key, value] : {std::pair<const char*, std::string>{"ambient.kind", "environment"},
                                         {"environment.source", "file"},
                                         {"environment.file", file},
                                         {"shading.model", "lambert"}})
            if (!wrote || !setup.set_text(key, value)) qFatal("no surroundings");
        return setup;
    }

private slots:
    /// What is chosen is as often as it is said, all directions together once.
    void directions_come_as_often_as_is_said() {
        const auto light = [](const glm::dvec3& d) { return disc_light(d, 0.05); };
        const Surroundings around(64, 4, light);
        double whole = 0, mean = 0, truth = 0;
        constexpr int rows = 400;
        for (int j = 0; j < rows; ++j)
            for (int i = 0; i < 2 * rows; ++i) {
                const double high = glm::pi<double>() * (j + 0.5) / rows, round = glm::pi<double>() * (i + 0.5) / rows;
                const glm::dvec3 d(std::sin(high) * std::cos(round), std::cos(high), std::sin(high) * std::sin(round));
                const double angle = std::sin(high) * std::pow(glm::pi<double>() / rows, 2);
                QVERIFY(around.density(d) > 0.04 / (4 * glm::pi<double>()));
                whole += around.density(d) * angle;
                truth += light(d) * angle;
            }
        QVERIFY2(std::abs(whole - 1) < 1e-3, qPrintable(QString::number(whole)));
        std::mt19937 r(7);
        std::uniform_real_distribution<double> u;
        double squares = 0;
        constexpr int samples = 40000;
        for (int i = 0; i < samples; ++i) {
            const glm::dvec3 d = around.choose({u(r), u(r)});
            QVERIFY(std::abs(glm::length(d) - 1) < 1e-9);
            const double value = light(d) / around.density(d);
            mean += value / samples;
            squares += value * value / samples;
        }
        const double error = std::sqrt((squares - mean * mean) / samples);
        QVERIFY2(std::abs(mean - truth) < 4 * error + 0.005 * truth, qPrintable(QString::number(mean / truth)));
        QVERIFY(error < 0.02 * mean); // by even directions it would be over a fifth
        // Darkness is evenly chosen, and what is not a number shines as little.
        const Surroundings dark(8, 1, [](const glm::dvec3& d) { return d.y > 0 ? 0.0 : std::nan(""); });
        QVERIFY(std::abs(dark.density(glm::dvec3(0, 1, 0)) * 4 * glm::pi<double>() - 1) < 1e-9);
    }

    /// A floor has the irradiance of the picture's sum over its texels, with little noise; a wall that hides the disc
    /// leaves the rest.
    void a_floor_under_a_small_disc_has_its_irradiance() {
        SceneAsset a;
        a.materials.push_back(diffuse(0.5, 0, true));
        add_quad(a, 0, {-200, 0, 200}, {400, 0, 0}, {0, 0, -400});
        Scene scene;
        scene.asset = finished(std::move(a));
        const Setup setup = pictured(0.03);
        const View down = view_from({0, 2, 0}, {0, 0, -0.01f}, 8, 8);
        const double disc = 2 * glm::pi<double>() * (1 - std::cos(0.015)) * 8999 * 0.6 / std::sqrt(0.7),
                     wanted = (disc + glm::pi<double>()) * 0.5 / glm::pi<double>();
        Options o;
        o.layer = Layer::indirect;
        const Picture found = traced(scene, setup, down, o, 64);
        QVERIFY2(std::abs(mean(found) / wanted - 1) < 0.01, qPrintable(QString::number(mean(found) / wanted)));
        QVERIFY2(found.relative_error() < 0.15, qPrintable(QString::number(found.relative_error())));
        o.shadows = false; // there the lobes alone find it
        QVERIFY(traced(scene, setup, down, o, 4096).relative_error() > 3 * found.relative_error()); // of 64
        // Counted as light that comes straight to what is seen.
        o = {.layer = Layer::indirect, .bounces = 0};
        QVERIFY(std::abs(mean(traced(scene, setup, down, o, 64)) / wanted - 1) < 0.01);
        // A wall between the place and the disc, black: only the even sky over it is left.
        SceneAsset hidden;
        hidden.materials = {diffuse(0.5, 0, true), diffuse(0, 0, true)};
        add_quad(hidden, 0, {-200, 0, 200}, {400, 0, 0}, {0, 0, -400});
        add_quad(hidden, 1, {-50, 0, -0.5f}, {100, 0, 0}, {0, 50, 0});
        scene.asset = finished(std::move(hidden));
        View narrow = down; // one place before the wall
        narrow.camera.fovY = 0.01f;
        const double behind = mean(traced(scene, setup, narrow, o, 64)), halved = 0.5 * 0.5;
        QVERIFY2(std::abs(behind / halved - 1) < 0.03, qPrintable(QString::number(behind)));
    }

    /// A mirror-like metal shows the disc itself, whichever way finds it.
    void sharp_lobes_see_it_too() {
        SceneAsset a;
        Material m = diffuse(1, 0, true);
        m.metallic = 1;
        m.roughness = 0.15f;
        a.materials.push_back(m);
        add_quad(a, 0, {-200, 0, 200}, {400, 0, 0}, {0, 0, -400});
        Scene scene;
        scene.asset = finished(std::move(a));
        Setup setup = pictured(0.1);
        QVERIFY(setup.set_text("shading.model", "ggx").has_value());
        const View view = view_from({-1.5f, 3, 2.5f}, {0, 0, 0}, 24, 24); // the disc's mirror image is in view
        Options o;
        o.layer = Layer::indirect;
        const Picture both = traced(scene, setup, view, o, 128);
        o.shadows = false;
        const Picture lobes = traced(scene, setup, view, o, 2048);
        QVERIFY2(std::abs(mean(both) / mean(lobes) - 1) < 0.02, qPrintable(QString::number(mean(both) / mean(lobes))));
    }

    /// Glowing walls all around: each bounce that is allowed adds albedo times the one before, and no other.
    void bounces_are_counted() {
        const double albedo = 0.6;
        SceneAsset a;
        a.materials.push_back(diffuse(albedo, 1, true));
        add_box(a, 0, {-2, -1, -3}, {4, 3, 5});
        Scene scene;
        scene.asset = finished(std::move(a));
        Setup setup;
        QVERIFY(setup.set_text("shading.model", "lambert").has_value());
        double wanted = 1, part = 1;
        for (int bounces = 0; bounces < 3; ++bounces) {
            part *= albedo;
            wanted += part;
            Options o;
            o.bounces = bounces;
            const double is = mean(traced(scene, setup, view_from({0, 0, 0}, {1, 0.3f, 1}, 12, 8), o, 400));
            QVERIFY2(std::abs(is / wanted - 1) < 0.005, qPrintable(QString("%1: %2").arg(bounces).arg(is / wanted)));
        }
    }
};

MIROLUX_TEST(truth_surroundings_test)
#include "truth_surroundings_test.moc"
