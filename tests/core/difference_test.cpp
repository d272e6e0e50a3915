#include "core/image/difference.h"
#include "core/image/perceptual.h"
#include "support/test_main.h"
#include <QtTest>
#include <cmath>
#include <numeric>

using namespace mirolux;

static ByteImage plain(int w, int h, std::uint8_t r, std::uint8_t g, std::uint8_t b) {
    ByteImage i{w, h, {}};
    for (int k = 0; k < w * h; ++k)
        i.rgba.insert(i.rgba.end(), {r, g, b, 255});
    return i;
}

class difference_test : public QObject {
    Q_OBJECT
private slots:
    void figures_of_a_known_difference() {
        FloatImage a{4, 2, 3, std::vector<float>(24, 1.0f)}, b = a;
        b.data[3 * 5 + 1] = 0.5f; // pixel 1, 1, green
        const PictureDifference d = picture_difference(a, b, 1e-3, 0.1);
        QCOMPARE(d.largest, 0.5);
        QCOMPARE(d.worstRelative, 0.5);
        QVERIFY(std::abs(d.mean - 0.5 / 24) < 1e-12 && std::abs(d.meanRelative - 0.5 / 24) < 1e-12);
        QCOMPARE(d.shareOver, 0.125);
        QCOMPARE(d.worstX, 1);
        QCOMPARE(d.worstY, 1);
        QVERIFY(std::abs(d.psnr - 10 * std::log10(1 / (0.25 / 24))) < 1e-9);
        QCOMPARE(picture_difference(a, a, 1e-3, 0.1).psnr, 999.0);
    }

    /// Plain fields are not changed by blurring, so the metric is CIELAB's difference: white against black is 100 in
    /// lightness.
    void plain_fields_have_cielab_differences() {
        const auto white = perceptual_difference(plain(40, 30, 255, 255, 255), plain(40, 30, 0, 0, 0));
        QVERIFY2(std::abs(white[600] - 100) < 0.2, qPrintable(QString::number(white[600])));
        // sRGB red: L 53.24, a 80.09, b 67.20 (CIE, D65); against black its distance from the origin.
        const auto red = perceptual_difference(plain(40, 30, 255, 0, 0), plain(40, 30, 0, 0, 0));
        QVERIFY2(std::abs(red[600] - std::sqrt(53.24 * 53.24 + 80.09 * 80.09 + 67.20 * 67.20)) < 1,
                 qPrintable(QString::number(red[600])));
    }

    void fine_grain_counts_less_than_a_patch_of_the_same_size() {
        ByteImage base = plain(160, 120, 120, 120, 120), grain = base, patch = base;
        for (int y = 0; y < 120; ++y)
            for (int x = 0; x < 160; ++x)
                for (int c = 0; c < 3; ++c) {
                    grain.rgba[4 * (y * 160 + x) + c] = (x + y) % 2 ? 140 : 100;
                    if (x > 40 && x < 120 && y > 30 && y < 90) patch.rgba[4 * (y * 160 + x) + c] = 140;
                }
        const auto mean = [](const std::vector<float>& v) {
            return std::accumulate(v.begin(), v.end(), 0.0) / static_cast<double>(v.size());
        };
        const double ofGrain = mean(perceptual_difference(base, grain, 60)),
                     ofPatch = mean(perceptual_difference(base, patch, 60));
        QVERIFY2(ofGrain * 3 < ofPatch, qPrintable(QString("%1 against %2").arg(ofGrain).arg(ofPatch)));
        QCOMPARE(mean(perceptual_difference(grain, grain, 60)), 0.0);
    }
};

MIROLUX_TEST(difference_test)
#include "difference_test.moc"
