#include "core/finish/bloom.h"
#include "core/light/luminance.h"
#include "core/plan/frame_plan.h"
#include "support/scenes.h"
#include "support/setups.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

class bloom_test : public QObject {
    Q_OBJECT
    static FloatImage dark(int width, int height, float value = 0) {
        return {width, height, 4, std::vector<float>(std::size_t(4 * width * height), value)};
    }
    static void put(FloatImage& image, int x, int y, float value) {
        for (int c = 0; c < 3; ++c)
            image.data[std::size_t(4 * (y * image.width + x) + c)] = value;
    }
    static double sum(const FloatImage& image) {
        double all = 0;
        for (int y = 0; y < image.height; ++y)
            for (int x = 0; x < image.width; ++x)
                all += image.pixel(x, y)[0];
        return all;
    }

private slots:
    void the_threshold_sets_in_softly() {
        QCOMPARE(bright_share(0.4, 1, 0.5), 0.0);
        QCOMPARE(bright_share(3, 1, 0), 2.0 / 3);
        QCOMPARE(bright_share(1, 1, 0.5), 0.125);  // k / 4 over x
        for (double x = 0.5; x < 1.5; x += 0.01) { // no step in value or slope
            const double h = 1e-5, slope = ((x + h) * bright_share(x + h, 1, 0.5) - x * bright_share(x, 1, 0.5)) / h;
            QVERIFY(slope > -1e-9 && slope < 1.0001 && std::abs(slope - (x - 0.5)) < 0.01);
        }
        QCOMPARE(bright_share(0, 1, 0.5), 0.0);
    }

    /// A lamp in the dark, wherever it stands: the chain makes no light and loses none.
    void the_chain_keeps_energy() {
        for (const auto& [w, h] : {std::pair(256, 128), std::pair(250, 131)})
            for (const int at : {100, 101, 102, 103, 107}) {
                FloatImage image = dark(w, h);
                put(image, at, 60 + at % 5, 500);
                for (const char* spread : {"0.3", "0.9"}) {
                    const Setup s = setup_with({{"bloom.kind", "chain"},
                                                {"bloom.tame", "off"},
                                                {"bloom.share", "0.8"},
                                                {"bloom.radius", "6"},
                                                {"bloom.spread", spread}});
                    const FloatImage out = bloomed(image, s, 1);
                    QVERIFY2(std::abs(sum(out) / 500 - 1) < 0.01, qPrintable(QString::number(sum(out) / 500)));
                    QVERIFY(out.pixel(at + 4, 60 + at % 5)[0] > 0);
                }
            }
        // An even picture stays as it is.
        const FloatImage even =
            bloomed(dark(100, 60, 2), setup_with({{"bloom.kind", "chain"}, {"bloom.share", "1"}}), 1);
        for (int x = 0; x < 100; ++x)
            QVERIFY(std::abs(even.pixel(x, 30)[0] - 2) < 1e-5);
    }

    void the_threshold_s_glow_is_a_bell_of_its_size() {
        FloatImage image = dark(200, 200);
        put(image, 100, 100, 100);
        const Setup s = setup_with({{"bloom.kind", "threshold"},
                                    {"bloom.scale", "full"},
                                    {"bloom.radius", "9"}, // 18 pixels: a deviation of 6
                                    {"bloom.knee", "0"},
                                    {"bloom.share", "1"}});
        const FloatImage out = bloomed(image, s, 1);
        QVERIFY(std::abs(sum(out) - 199) < 0.01); // itself and the 99 over the threshold
        const double middle = out.pixel(100, 106)[0], beside = out.pixel(106, 106)[0];
        QVERIFY(std::abs(beside / middle - std::exp(-0.5)) < 1e-3);
    }

    void one_bad_pixel_spreads_nothing() {
        for (const char* kind : {"threshold", "chain"})
            for (const float bad :
                 {std::numeric_limits<float>::quiet_NaN(), std::numeric_limits<float>::infinity(), -5.0f}) {
                FloatImage image = dark(64, 64, 0.5f);
                put(image, 20, 30, bad);
                const FloatImage out = bloomed(image, setup_with({{"bloom.kind", kind}}), 1);
                for (const float v : out.data)
                    QVERIFY(v >= 0 && v < 1);
            }
    }

    void tamed_fireflies_flash_less() {
        FloatImage image = dark(128, 128, 0.1f);
        put(image, 64, 64, 5000);
        const auto at = [&](const char* tame) {
            return bloomed(image, setup_with({{"bloom.kind", "chain"}, {"bloom.tame", tame}}), 1).pixel(70, 64)[0];
        };
        QVERIFY2(at("off") > 5 * at("on"), qPrintable(QString("%1 and %2").arg(at("off")).arg(at("on"))));
    }

    void a_plan_has_what_its_kind_needs() {
        const Scene scene = random_scene(2, 3);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 640, 360);
        const FramePlan off = plan_frame(scene, Setup(), view);
        QVERIFY(!off.resource(bloom_resource) && !off.pass("bloom down"));
        const FramePlan chain = plan_frame(scene, setup_with({{"bloom.kind", "chain"}, {"bloom.radius", "9"}}), view);
        QCOMPARE(chain.resource(bloom_resource)->spec.mips, 5); // 32 pixels
        QCOMPARE(chain.resource(bloom_resource)->width, 320);
        const FramePlan cut = plan_frame(
            scene, setup_with({{"bloom.kind", "threshold"}, {"bloom.scale", "quarter"}, {"exposure.kind", "metered"}}),
            view);
        QCOMPARE(cut.resource(bright_resource)->width, 160);
        const auto& reads = cut.pass("bright parts")->reads;
        QVERIFY(std::find(reads.begin(), reads.end(), "exposure") != reads.end());
    }
};

MIROLUX_TEST(bloom_test)
#include "bloom_test.moc"
