#include "core/image/image_io.h"
#include "core/plan/camera_motion.h"
#include "core/sky/sky_model.h"
#include "session_fixture.h"
#include <QTemporaryDir>

using namespace mirolux;
using namespace mirolux::test;

/// A sky from a file on the device, against core.
class sky_picture_test : public QObject {
    Q_OBJECT
private slots:
    void every_direction_shows_what_core_reads() {
        QTemporaryDir folder;
        FloatImage image;
        image.width = 128;
        image.height = 64;
        image.channels = 4;
        for (int y = 0; y < 64; ++y)
            for (int x = 0; x < 128; ++x)
                for (const float v :
                     {1.5f + std::sin(0.049087385f * float(x)), 0.02f * float(y + 1), 1.0f / float(1 + x % 7), 1.0f})
                    image.data.push_back(v);
        const std::string path = folder.filePath("sky.exr").toStdString();
        QVERIFY(write_exr(path, image).has_value());
        SceneAsset nothing;
        nothing.materials.push_back(plain_material(glm::vec3(1), 0, 1));
        add_quad(nothing, 0, {-1, -5, -3}, {2, 0, 0}, {0, 0, -2});
        Scene scene;
        scene.asset = finished(std::move(nothing));
        const glm::vec3 aims[] = {{0, 0, -1}, {1, 0.4f, 0.3f}, {-0.3f, 0.9f, 1}, {-1, -0.6f, 0.1f}};
        for (const glm::vec3& aim : aims) {
            const View view = view_from({0, 0, 0}, aim, 96, 64);
            Setup s = setup_with({{"sky.kind", "file"},
                                  {"sky.file", path},
                                  {"sky.turn", "37"},
                                  {"sky.strength", "2.5"},
                                  {"path.targetFormat", "rgba32f"}});
            const FloatImage got = hdr(scene, s, view), layer = hdr(scene, s, view, "sky");
            const SkyModel sky(sky_settings(scene, s, view));
            double off = 0, whole = 0;
            for (int y = 0; y < 64; ++y)
                for (int x = 0; x < 96; ++x) {
                    const glm::dvec3 d =
                        glm::normalize(glm::dvec3(ray_through(view, float(x) + 0.5f, float(y) + 0.5f).direction));
                    if (d.y < -0.5) continue; // a surface may lie there
                    const glm::dvec3 wanted = sky.radiance(d);
                    for (int c = 0; c < 3; ++c) {
                        off += std::abs(got.pixel(x, y)[c] - wanted[c]);
                        QVERIFY(std::abs(layer.pixel(x, y)[c] - got.pixel(x, y)[c]) < 0.01 + 0.002 * wanted[c]);
                    }
                    whole += wanted.x + wanted.y + wanted.z;
                }
            QVERIFY2(whole > 1000 && off < 0.003 * whole, qPrintable(QString::number(off / whole)));
        }
        // Its light falls on surfaces: an upward white quad shows the harmonics of its normal.
        const Setup lit = setup_with({{"sky.kind", "file"},
                                      {"sky.file", path},
                                      {"ambient.kind", "environment"},
                                      {"path.targetFormat", "rgba32f"}});
        const View down = view_from({0, 0, -4}, {0.01f, -5, -4}, 32, 32);
        const SkyModel sky(sky_settings(scene, lit, down));
        const glm::dvec3 wanted = harmonic_radiance(sky.harmonics(), {0, 1, 0});
        const float* got = hdr(scene, lit, down).pixel(16, 16);
        for (int c = 0; c < 3; ++c)
            QVERIFY2(std::abs(got[c] - wanted[c]) < 0.06 * wanted[c],
                     qPrintable(QString("%1 against %2").arg(got[c]).arg(wanted[c])));
        const Setup gone = setup_with({{"sky.kind", "file"}, {"sky.file", "/nowhere/sky.hdr"}});
        QVERIFY(hdr(scene, gone, view_from({0, 0, 0}, {0, 1, -1}, 32, 32)).data ==
                hdr(scene, setup_with({}), view_from({0, 0, 0}, {0, 1, -1}, 32, 32)).data);
    }

    void the_account_holds() {
        QTemporaryDir folder;
        FloatImage image;
        image.width = 32;
        image.height = 16;
        image.channels = 4;
        for (int i = 0; i < 32 * 16 * 4; ++i)
            image.data.push_back(0.2f + 0.01f * float(i % 37));
        const std::string path = folder.filePath("sky.hdr").toStdString();
        QVERIFY(write_hdr(path, image).has_value());
        const Scene scene = random_scene(6, 12);
        const Setup s = setup_with({{"sky.kind", "file"},
                                    {"sky.file", path},
                                    {"ambient.kind", "environment"},
                                    {"path.targetFormat", "rgba32f"}});
        const View view = view_from({9, 5, 13}, {0, 3, 0}, 96, 54);
        for (const glm::ivec2 pixel : {glm::ivec2(48, 2), {20, 44}, {90, 6}})
            QVERIFY(account_at(scene, s, view, pixel).difference < 0.02);
    }
};

MIROLUX_TEST(sky_picture_test)
#include "sky_picture_test.moc"
