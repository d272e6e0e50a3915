#include "core/finish/histogram.h"
#include "core/light/tone.h"
#include "support/test_main.h"
#include <QtTest>
#include <cmath>
#include <numeric>

using namespace mirolux;

class histogram_test : public QObject {
    Q_OBJECT
    using H = LuminanceHistogram;
    static FloatImage grey(const std::vector<float>& exposed, const Setup& setup) {
        FloatImage image{static_cast<int>(exposed.size()), 1, 4, {}};
        for (const float v : exposed)
            for (int c = 0; c < 4; ++c)
                image.data.push_back(v / static_cast<float>(tone::exposure_scale(setup.number("exposure.ev100"))));
        return image;
    }

private slots:
    /// One pixel in the middle of each step: each bin holds one, whatever the exposure.
    void each_step_of_a_stop_has_its_bin() {
        for (const double ev : {-3.0, 0.0, 7.5}) {
            Setup setup;
            QVERIFY(setup.set("exposure.ev100", ev).has_value());
            std::vector<float> values;
            const std::size_t bins = H().bins.size();
            for (std::size_t i = 0; i < bins; ++i)
                values.push_back(static_cast<float>(std::exp2(H::low + (double(i) + 0.5) / H::stepsAStop)));
            values.push_back(0);                                            // black
            values.push_back(static_cast<float>(std::exp2(H::high + 1.0))); // beyond the plot
            const H h = luminance_histogram(grey(values, setup), setup);
            QCOMPARE(h.pixels, static_cast<std::uint32_t>(values.size()));
            QVERIFY(std::all_of(h.bins.begin(), h.bins.end(), [](std::uint32_t n) { return n == 1; }));
            QCOMPARE(h.below, 1u);
            QCOMPARE(h.above, 1u);
        }
    }

    /// Clipped and crushed against the curve itself, pixel by pixel.
    void clipped_and_crushed_are_what_the_curve_makes_of_each_pixel() {
        for (const char* curve : {"none", "clamp", "reinhard", "filmic"}) {
            Setup setup;
            QVERIFY(setup.set("tone.curve", std::string(curve)).has_value());
            std::vector<float> values;
            for (int i = 0; i < 2000; ++i)
                values.push_back(static_cast<float>(std::exp2(-20.0 + 30.0 * (i + 0.37) / 2000)));
            std::uint32_t clipped = 0, crushed = 0;
            for (const float v : values) {
                clipped += displayed(v, setup) >= 254.5 / 255;
                crushed += displayed(v, setup) < 0.5 / 255;
            }
            const H h = luminance_histogram(grey(values, setup), setup);
            QVERIFY(std::abs(int(h.clipped) - int(clipped)) <= 1 && std::abs(int(h.crushed) - int(crushed)) <= 1);
            QVERIFY(clipped > 0 && crushed > 0);
        }
    }

    /// Bent together, a strong colour is at its most where a grey of its largest channel would not be, and the reverse.
    void colours_bent_together_clip_as_they_are_shown() {
        for (const char* by : {"channel", "luminance"})
            for (const char* curve : {"reinhard", "filmic", "neutral"}) {
                Setup setup;
                QVERIFY(setup.set("tone.curve", std::string(curve)).has_value());
                QVERIFY(setup.set("tone.by", std::string(by)).has_value());
                FloatImage image{3000, 1, 4, {}};
                std::uint32_t clipped = 0;
                for (int i = 0; i < 3000; ++i) {
                    const glm::dvec3 c = std::exp2(-4 + 12.0 * i / 3000) * glm::dvec3(1, 0.3, 0.05);
                    const glm::dvec3 shown = displayed_color(c, setup);
                    clipped += std::max({shown.r, shown.g, shown.b}) >= 254.5 / 255;
                    for (int k = 0; k < 3; ++k)
                        image.data.push_back(static_cast<float>(c[k] / tone::exposure_scale(0)));
                    image.data.push_back(1);
                }
                const H h = luminance_histogram(image, setup);
                QVERIFY2(std::abs(int(h.clipped) - int(clipped)) <= 1, curve);
                if (curve != std::string("neutral")) QVERIFY(clipped > 100); // neutral never reaches white
            }
    }

    void what_is_displayed_rises_and_stays_within_its_range() {
        for (const char* curve : {"none", "clamp", "reinhard", "filmic", "neutral", "own"}) {
            Setup setup;
            QVERIFY(setup.set("tone.curve", std::string(curve)).has_value());
            QVERIFY(setup.set("tone.whiteBalance", 4000.0).has_value());
            double last = -1;
            for (int i = 0; i <= 400; ++i) {
                const double v = displayed(std::exp2(-16 + 24.0 * i / 400), setup);
                QVERIFY(v >= last && v >= 0 && v <= 1);
                last = v;
            }
        }
        QCOMPARE(displayed(0, Setup()), 0.0);
        QCOMPARE(displayed(-1, Setup()), 0.0);
    }
};

MIROLUX_TEST(histogram_test)
#include "histogram_test.moc"
