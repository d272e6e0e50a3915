#include "core/image/image_io.h"
#include "core/plan/frame_plan.h"
#include "core/sky/sky_model.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QTemporaryDir>
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// Black but for one texel in the middle of each of six directions, each of its own colour.
FloatImage marked() {
    FloatImage image;
    image.width = 64;
    image.height = 32;
    image.channels = 4;
    image.data.assign(64 * 32 * 4, 0.0f);
    const auto mark = [&](int x, int y, glm::vec3 c) {
        for (int k = 0; k < 4; ++k)
            for (int channel = 0; channel < 3; ++channel)
                image.data[std::size_t(4 * ((y + k / 2) * 64 + (x + k % 2) % 64) + channel)] = c[channel];
    };
    mark(31, 15, {1, 0, 0}); // middle: -Z
    mark(15, 15, {0, 1, 0}); // left quarter: -X
    mark(47, 15, {0, 0, 1}); // +X
    mark(63, 15, {1, 1, 0}); // the seam: +Z
    for (int x = 0; x < 64; ++x)
        image.data[std::size_t(4 * x + 1)] = image.data[std::size_t(4 * x + 2)] = 1; // up
    return image;
}

Scene beside(const QTemporaryDir& folder) {
    Scene s = random_scene(1, 2);
    auto asset = std::make_shared<SceneAsset>(*s.asset);
    asset->path = folder.filePath("scene.glb").toStdString();
    s.asset = asset;
    return s;
}

Setup of_file(const char* name) {
    Setup s;
    (void)s.set_text("sky.kind", "file");
    (void)s.set_text("sky.file", name);
    return s;
}

std::string written(const QTemporaryDir& folder, const char* name, const FloatImage& image) {
    const std::string path = folder.filePath(name).toStdString();
    const auto done = QString(name).endsWith(".exr") ? write_exr(path, image) : write_hdr(path, image);
    if (!done) qFatal("%s", to_text(done.error()).c_str());
    return path;
}

const View view = view_from({0, 1, 5}, {0, 1, 0}, 64, 36);

} // namespace

class sky_picture_test : public QObject {
    Q_OBJECT
private slots:
    void its_middle_is_north_and_its_left_quarter_west() {
        QTemporaryDir folder;
        for (const char* name : {"sky.hdr", "sky.exr"}) {
            (void)written(folder, name, marked());
            const SkySettings s = sky_settings(beside(folder), of_file(name), view);
            QVERIFY2(s.kind == SkyKind::file, s.trouble.c_str());
            const SkyModel sky(s);
            QVERIFY(glm::length(sky.radiance({0, 0, -1}) - glm::dvec3(1, 0, 0)) < 0.01);
            QVERIFY(glm::length(sky.radiance({-1, 0, 0}) - glm::dvec3(0, 1, 0)) < 0.01);
            QVERIFY(glm::length(sky.radiance({1, 0, 0}) - glm::dvec3(0, 0, 1)) < 0.01);
            QVERIFY(glm::length(sky.radiance({0, 0, 1}) - glm::dvec3(1, 1, 0)) < 0.01);
            QVERIFY(glm::length(sky.radiance({0, 1, 0}) - glm::dvec3(0, 1, 1)) < 0.01);
            QVERIFY(sky.radiance({0, -1, 0}) == glm::dvec3(0));
        }
    }

    /// To the right as seen: what stood ahead stands to the right of it, at +X.
    void a_turn_moves_it_to_the_right() {
        QTemporaryDir folder;
        (void)written(folder, "sky.exr", marked());
        Setup setup = of_file("sky.exr");
        QVERIFY(setup.set("sky.turn", 90.0).has_value() && setup.set("sky.strength", 5.0).has_value());
        const SkyModel sky(sky_settings(beside(folder), setup, view));
        QVERIFY(glm::length(sky.radiance({1, 0, 0}) - glm::dvec3(5, 0, 0)) < 0.05);
        QVERIFY(glm::length(sky.radiance({0, 0, -1}) - glm::dvec3(0, 5, 0)) < 0.05);
    }

    /// An even sky of 3 cd/m2 gives level ground 3 pi lux, and every normal the radiance 3; a small sun is not missed.
    void every_texel_lights() {
        QTemporaryDir folder;
        FloatImage even = marked();
        std::fill(even.data.begin(), even.data.end(), 3.0f);
        (void)written(folder, "even.exr", even);
        const SkyModel sky(sky_settings(beside(folder), of_file("even.exr"), view));
        QVERIFY(std::abs(sky.irradiance().x - 3 * 3.14159265) < 0.02);
        for (const glm::dvec3& n : {glm::dvec3(0, 1, 0), {0.6, 0, 0.8}, {0, -1, 0}})
            QVERIFY(std::abs(harmonic_radiance(sky.harmonics(), n).x - 3) < 0.02);
        FloatImage sun = even;
        std::fill(sun.data.begin(), sun.data.end(), 0.0f);
        sun.data[std::size_t(4 * (8 * 64 + 20))] = 1000; // 45 degrees up
        (void)written(folder, "sun.exr", sun);
        const SkyModel lit(sky_settings(beside(folder), of_file("sun.exr"), view));
        const double top = 3.14159265 * 8 / 32, bottom = 3.14159265 * 9 / 32,
                     solid = (std::cos(top) - std::cos(bottom)) * 2 * 3.14159265 / 64;
        QVERIFY(std::abs(lit.irradiance().x - 1000 * solid * std::cos(0.5 * (top + bottom))) < 0.01);
    }

    /// What cannot be read leaves two colours and the reason; a file that is mended is read anew.
    void bad_files_are_told_and_replaced() {
        QTemporaryDir folder;
        const Scene scene = beside(folder);
        const auto trouble = [&](const char* name) {
            const SkySettings s = sky_settings(scene, of_file(name), view);
            return s.kind == SkyKind::colors ? QString::fromStdString(s.trouble) : QString("read");
        };
        QVERIFY(trouble("").contains("sky.file"));
        QVERIFY(trouble("gone.hdr").contains("gone.hdr") && trouble("gone.hdr").contains("cannot be read"));
        FloatImage square = marked();
        square.height = 16;
        square.data.resize(64 * 16 * 4);
        (void)written(folder, "wide.hdr", square);
        QVERIFY(trouble("wide.hdr").contains("twice as wide"));
        QFile broken(folder.filePath("broken.hdr"));
        QVERIFY(broken.open(QIODevice::WriteOnly));
        broken.write("#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 32 +X 64\n\x02\x02\x00");
        broken.close();
        QVERIFY(trouble("broken.hdr") != "read");
        QVERIFY(trouble("scene.png").contains("scene.png"));
        (void)written(folder, "broken.hdr", marked());
        QCOMPARE(trouble("broken.hdr"), QString("read"));
        const FramePlan plan = plan_frame(scene, of_file("gone.hdr"), view);
        QVERIFY(std::any_of(plan.notes.begin(), plan.notes.end(),
                            [](const std::string& n) { return n.find("gone.hdr") != std::string::npos; }));
        FloatImage odd = marked();
        odd.data[0] = std::numeric_limits<float>::infinity();
        odd.data[5] = -4;
        odd.data[10] = std::numeric_limits<float>::quiet_NaN();
        (void)written(folder, "odd.exr", odd);
        const SkyModel sky(sky_settings(scene, of_file("odd.exr"), view));
        const glm::dvec3 up = sky.radiance({0, 1, 0});
        QVERIFY(std::isfinite(up.x + up.y + up.z) && up.y >= 0);
    }
};

MIROLUX_TEST(sky_picture_test)
#include "sky_picture_test.moc"
