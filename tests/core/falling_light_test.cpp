#include "support/test_main.h"
#include "support/traced.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;
using namespace mirolux::truth;

namespace {

SurfacePoint facing(const glm::vec3& at, const glm::vec3& normal) {
    SurfacePoint s;
    s.position = at;
    s.normal = s.side = glm::normalize(normal);
    return s;
}

/// Mean of samples, lux per channel, with the error of its green one.
std::pair<glm::dvec3, double> fallen(const Scene& scene, Layer layer, const SurfacePoint& point, std::uint32_t samples,
                                     const Setup& setup = lambert(), bool skyAround = false) {
    Options o;
    o.layer = layer;
    o.skyAround = skyAround;
    const PathTracer tracer(scene, setup, view_from({0, 0, 0}, {1, 0, 0}, 4, 4), o, std::make_shared<RayScene>(scene));
    glm::dvec3 sum(0.0);
    double squares = 0;
    std::uint64_t rays = 0;
    for (std::uint32_t n = 0; n < samples; ++n) {
        const glm::dvec3 e = tracer.falling(point, 7, n, rays);
        sum += e;
        squares += e.y * e.y;
    }
    const double mean = sum.y / samples;
    return {sum / double(samples), std::sqrt(std::max(0.0, squares / samples - mean * mean) / samples)};
}

} // namespace

/// The light that falls on a point of a surface, against closed forms.
class falling_light_test : public QObject {
    Q_OBJECT
private slots:
    /// I cos / d^2 of lamps in the open, and nothing on the far side of a wall.
    void lamps_give_their_intensity_over_the_square() {
        Scene scene;
        scene.asset = white_plane();
        scene.lights = {lamp({1, 2, 0}, 300), lamp({-2, 1.5f, 1}, 120)};
        scene.lights[1].id = scene.lights[0].id + 1;
        for (const glm::vec3 at : {glm::vec3(0, 0, 0), glm::vec3(1, 0, 0), glm::vec3(-3, 0, 2)})
            for (const glm::vec3 n : {glm::vec3(0, 1, 0), glm::normalize(glm::vec3(1, 2, 0))}) {
                double wanted = 0;
                for (const Light& l : scene.lights) {
                    const glm::dvec3 to = glm::dvec3(l.position) - glm::dvec3(at);
                    const double d = glm::length(to);
                    wanted += double(l.intensity) * std::max(0.0, glm::dot(glm::dvec3(n), to)) / (d * d * d);
                }
                const auto [is, error] = fallen(scene, Layer::direct, facing(at, n), 4000);
                QVERIFY2(std::abs(is.y / wanted - 1) < 0.002 + 4 * error / wanted,
                         qPrintable(QString("%1 of %2").arg(is.y).arg(wanted)));
            }
        QVERIFY(fallen(scene, Layer::direct, facing({0, -0.01f, 0}, {0, -1, 0}), 64).first.y == 0);
    }

    /// Pi times the radiance that is everywhere: of a closed glowing box whose walls reflect, 1 / (1 - albedo).
    void a_glowing_box_gives_pi_times_its_radiance() {
        for (const double albedo : {0.2, 0.7}) {
            SceneAsset a;
            a.materials.push_back(diffuse(albedo, 1, true));
            add_box(a, 0, {-2, -1, -3}, {4, 3, 5});
            Scene scene;
            scene.asset = finished(std::move(a));
            const double wanted = M_PI / (1 - albedo);
            for (const auto& [at, n] : {std::pair(glm::vec3(0, -1, 0), glm::vec3(0, 1, 0)),
                                        {glm::vec3(-2, 0.5f, 1), glm::vec3(1, 0, 0)},
                                        {glm::vec3(0.3f, 0.2f, 0.1f), glm::normalize(glm::vec3(1, -2, 3))}}) {
                const auto [is, error] = fallen(scene, Layer::indirect, facing(at, n), 20000);
                QVERIFY2(std::abs(is.y / wanted - 1) < 0.004 + 4 * error / wanted,
                         qPrintable(QString("albedo %1: %2 of %3").arg(albedo).arg(is.y).arg(wanted)));
            }
        }
    }

    /// The sky over an open plane: pi times its radiance; half of that on a wall that stands in it.
    void an_even_sky_gives_pi_times_its_radiance() {
        Scene scene;
        SceneAsset a;
        a.materials.push_back(diffuse(0, 0, true));
        add_quad(a, 0, {-500, 0, 500}, {1000, 0, 0}, {0, 0, -1000});
        scene.asset = finished(std::move(a));
        scene.sky = {glm::vec3(3), glm::vec3(3)};
        const auto up = fallen(scene, Layer::indirect, facing({0, 0, 0}, {0, 1, 0}), 4000, lambert(), true),
                   aside = fallen(scene, Layer::indirect, facing({0, 1, 0}, {1, 0, 0}), 20000, lambert(), true);
        QVERIFY2(std::abs(up.first.y / (3 * M_PI) - 1) < 0.003 + 4 * up.second / 9,
                 qPrintable(QString::number(up.first.y)));
        QVERIFY2(std::abs(aside.first.y / (1.5 * M_PI) - 1) < 0.004 + 4 * aside.second / 4,
                 qPrintable(QString::number(aside.first.y)));
    }

    void a_place_and_a_number_give_the_same_bits() {
        Scene scene = random_scene(3, 6);
        Options o;
        const PathTracer tracer(scene, lambert(), view_from({0, 2, 0}, {1, 1, 0}, 4, 4), o,
                                std::make_shared<RayScene>(scene));
        const SurfacePoint point = facing({0, 0.5f, 0}, {0, 1, 0});
        std::uint64_t rays = 0, again = 0;
        bool differs = false;
        for (std::uint32_t n = 0; n < 50; ++n) {
            const glm::dvec3 e = tracer.falling(point, 11, n, rays);
            QVERIFY(e == tracer.falling(point, 11, n, again));
            differs = differs || e != tracer.falling(point, 12, n, again);
        }
        QVERIFY(differs && rays > 50);
    }
};

MIROLUX_TEST(falling_light_test)
#include "falling_light_test.moc"
