#include "core/account/pixel_account.h"
#include "core/air/air.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

static Setup low_fog(const char* path) {
    return setup_with({{"path.kind", path},
                       {"path.targetFormat", "rgba32f"},
                       {"gbuffer.packing", "full"},
                       {"path.maxLights", "64"},
                       {"air.kind", "height"},
                       {"air.extinction", "0.08"},
                       {"air.height", "4"},
                       {"air.base", "0.5"}});
}

class height_fog_test : public QObject {
    Q_OBJECT
private slots:
    /// Every pixel's layer against the closed integral to the surface that the picture shows, within 1 %.
    void the_layer_holds_the_closed_integral() {
        const Demo d = demo(96, 54);
        const Setup s = low_fog("tiled-deferred");
        const FloatImage t = hdr(d.scene, s, d.view, "transmittance"), depth = hdr(d.scene, s, d.view, "depth");
        const AirMedium fog = medium(s);
        const double ty = std::tan(0.5 * d.view.camera.fovY), tx = ty * d.view.width / d.view.height;
        const glm::dmat3 toWorld = glm::transpose(glm::dmat3(view_matrix(d.view.camera)));
        const glm::dvec3 eye(d.view.camera.eye);
        int held = 0;
        for (int y = 0; y < 54; ++y)
            for (int x = 0; x < 96; ++x) {
                const double along = depth.pixel(x, y)[0];
                if (along <= 0) continue;
                const glm::dvec3 point =
                    eye +
                    toWorld * glm::dvec3((2 * (x + 0.5) / 96 - 1) * tx, (1 - 2 * (y + 0.5) / 54) * ty, -1) * along;
                const double wanted = transmittance(fog, eye, point);
                QVERIFY2(std::abs(t.pixel(x, y)[0] - wanted) < 0.01 * wanted + 1e-5,
                         qPrintable(QString("%1, %2: %3 against %4").arg(x).arg(y).arg(t.pixel(x, y)[0]).arg(wanted)));
                ++held;
            }
        QVERIFY(held > 2000);
    }

    /// The sky is seen through it: by how far one looks up.
    void the_sky_thins_out_upward() {
        const Scene scene{finished(SceneAsset{}), {}, {}, {{9, 9, 9}, {9, 9, 9}}};
        const Setup s = low_fog("forward");
        const View view = view_from({0, 1.5f, 0}, {0, 2.5f, -1}, 8, 48);
        const AirMedium fog = medium(s);
        const FloatImage got = hdr(scene, s, view);
        const double ty = std::tan(0.5 * view.camera.fovY), tx = ty * view.width / view.height;
        const glm::dmat3 toWorld = glm::transpose(glm::dmat3(view_matrix(view.camera)));
        for (int y = 0; y < 48; ++y) {
            const glm::dvec3 d =
                glm::normalize(toWorld * glm::dvec3((2 * 3.5 / 8 - 1) * tx, (1 - 2 * (y + 0.5) / 48) * ty, -1));
            const double through = transmittance_of_ray(fog, glm::dvec3(view.camera.eye), d);
            const double wanted = 9 * through + fog_radiance(s, ambient_light(s)).x * (1 - through);
            QVERIFY2(std::abs(got.pixel(3, y)[0] - wanted) < 1e-3 * wanted, qPrintable(QString::number(y)));
        }
        QVERIFY(got.pixel(3, 0)[0] > got.pixel(3, 47)[0] + 1.5f);
    }

    void all_paths_give_one_picture_and_the_account_holds() {
        const Scene scene = random_scene(6, 40);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        const FloatImage wanted = hdr(scene, low_fog("additive"), view);
        for (const char* path : paths)
            QVERIFY2(largest_relative_difference(wanted, hdr(scene, low_fog(path), view), 1e-3) < 2e-3, path);
        for (const glm::ivec2 pixel : {glm::ivec2(48, 30), {20, 44}, {50, 2}}) {
            const Setup s = low_fog("tiled-forward");
            const PixelAccount a = account_at(scene, s, view, pixel);
            QVERIFY2(a.difference < 1e-3,
                     qPrintable(QString("%1, %2: %3").arg(pixel.x).arg(pixel.y).arg(a.difference)));
        }
    }
};

MIROLUX_TEST(height_fog_test)
#include "height_fog_test.moc"
