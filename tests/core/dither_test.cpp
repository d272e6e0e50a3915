#include "core/finish/bands.h"
#include "core/finish/dither.h"
#include "core/finish/histogram.h"
#include "support/scenes.h"
#include "support/setups.h"
#include "support/test_main.h"
#include <QtTest>
#include <algorithm>
#include <complex>
#include <numbers>
#include <set>

using namespace mirolux;
using namespace mirolux::test;

class dither_test : public QObject {
    Q_OBJECT
    /// Power of a tile in each ring of frequencies, averaged over the ring; index: cycles a tile.
    static std::vector<double> spectrum(const std::vector<float>& tile) {
        constexpr int n = blue_noise_size;
        // Along the rows, then along the columns.
        std::vector<std::complex<double>> turns(n), rows(n * n);
        for (int k = 0; k < n; ++k)
            turns[std::size_t(k)] = std::polar(1.0, -2 * std::numbers::pi * k / n);
        for (int y = 0; y < n; ++y)
            for (int u = 0; u < n; ++u)
                for (int x = 0; x < n; ++x)
                    rows[std::size_t(y * n + u)] +=
                        double(tile[std::size_t(y * n + x)]) * turns[std::size_t(u * x % n)];
        std::vector<double> power(n / 2 + 1), count(n / 2 + 1);
        for (int v = 0; v < n; ++v)
            for (int u = 0; u < n; ++u) {
                std::complex<double> sum = 0;
                for (int y = 0; y < n; ++y)
                    sum += rows[std::size_t(y * n + u)] * turns[std::size_t(v * y % n)];
                const int ring = static_cast<int>(std::lround(std::hypot(std::min(u, n - u), std::min(v, n - v))));
                if (ring > n / 2) continue;
                power[std::size_t(ring)] += std::norm(sum) / (n * n);
                count[std::size_t(ring)] += 1;
            }
        for (std::size_t i = 0; i < power.size(); ++i)
            power[i] /= count[i];
        return power;
    }

private slots:
    /// The mean of an even field is the value itself, as near as the pattern's own steps.
    void means_of_even_fields_are_the_values() {
        const std::vector<std::pair<Setup, double>> kinds = {
            {setup_with({{"output.dither", "ordered"}, {"output.tile", "4x4"}}), 1.0 / 32},
            {setup_with({{"output.dither", "ordered"}, {"output.tile", "8x8"}}), 1.0 / 128},
            {setup_with({{"output.dither", "blue"}}), 0.01},
            {setup_with({{"output.dither", "triangular"}}), 0.01}};
        for (const auto& [setup, allowed] : kinds)
            for (double code = 2; code <= 253; code += 4.37) {
                double sum = 0;
                for (int y = 0; y < 256; ++y)
                    for (int x = 0; x < 256; ++x)
                        sum += 255 * coded_value(code / 255, dither_at(setup, x, y), 255);
                QVERIFY2(std::abs(sum / 65536 - code) <= allowed + 1e-9,
                         qPrintable(QString::number(sum / 65536 - code)));
            }
    }

    void blue_noise_has_no_low_frequencies() {
        const std::vector<float>& tile = blue_noise();
        std::vector<float> sorted = tile;
        std::sort(sorted.begin(), sorted.end());
        for (std::size_t i = 0; i < sorted.size(); ++i) // each rank once
            QVERIFY(std::abs(sorted[i] - ((float(i) + 0.5f) / 4096 - 0.5f)) < 1e-6f);
        std::vector<float> white = tile;
        std::shuffle(white.begin(), white.end(), std::mt19937(3));
        const std::vector<double> blue = spectrum(tile), even = spectrum(white);
        double low = 0, lowWhite = 0;
        for (int ring = 1; ring <= 8; ++ring) { // of 32
            low += blue[std::size_t(ring)];
            lowWhite += even[std::size_t(ring)];
        }
        QVERIFY2(low * 10 < lowWhite, qPrintable(QString("%1 against %2").arg(low).arg(lowWhite)));
    }

    void a_triangle_s_noise_has_the_same_grain_on_every_value() {
        const Setup s = setup_with({{"output.dither", "triangular"}}), even = setup_with({{"output.dither", "blue"}});
        const auto variance = [](const Setup& setup, double code) {
            double sum = 0;
            for (int y = 0; y < 64; ++y)
                for (int x = 0; x < 64; ++x) {
                    const double e = 255 * coded_value(code / 255, dither_at(setup, x, y), 255) - code;
                    sum += e * e;
                }
            return sum / 4096;
        };
        for (const double code : {100.0, 100.25, 100.5, 100.83})
            QVERIFY(std::abs(variance(s, code) - 0.25) < 0.01); // a quarter of a code squared
        QVERIFY(variance(even, 100) < 0.01 && variance(even, 100.5) > 0.24);
        QCOMPARE(triangular(0), 0.0);
        QVERIFY(triangular(-0.49999) < -0.99 && triangular(0.49999) > 0.99);
    }

    void fewer_bits_make_wider_bands_and_dither_breaks_them() {
        const auto ramp = [](const Setup& s) {
            ByteImage out{512, 24, {}};
            for (int y = 0; y < 24; ++y)
                for (int x = 0; x < 512; ++x) {
                    const auto v = static_cast<std::uint8_t>(
                        std::lround(255 * coded_value(0.1 + 0.2 * x / 512, dither_at(s, x, y), code_steps(s))));
                    for (int c = 0; c < 4; ++c)
                        out.rgba.push_back(v);
                }
            return out;
        };
        const auto marked = [&](const Setup& s, int width) {
            const auto edges = band_edges(ramp(s), width);
            return std::count(edges.begin(), edges.end(), 1);
        };
        const Setup plain = setup_with({{"output.dither", "none"}});
        QCOMPARE(marked(plain, 6), 24 * 50L); // a code each 10.04 pixels, from 26 to 76
        QCOMPARE(marked(plain, 12), 0L);
        QVERIFY(marked(setup_with({{"output.dither", "blue"}}), 6) < 120); // by chance, of 1,200
        QCOMPARE(code_steps(setup_with({{"output.bits", "5"}})), 31);
        const ByteImage coarse = ramp(setup_with({{"output.dither", "none"}, {"output.bits", "5"}}));
        std::set<int> codes;
        for (int x = 0; x < 512; ++x)
            codes.insert(grey_code(coarse, x, 0));
        QVERIFY(codes.size() <= 8 && codes.size() >= 6);
    }

    void an_edge_of_things_is_no_band() {
        ByteImage image{40, 4, std::vector<std::uint8_t>(40 * 4 * 4, 50)};
        for (int y = 0; y < 4; ++y)
            for (int x = 20; x < 40; ++x)
                for (int c = 0; c < 3; ++c)
                    image.rgba[std::size_t(4 * (y * 40 + x) + c)] = 90;
        const auto edges = band_edges(image, 6);
        QCOMPARE(std::count(edges.begin(), edges.end(), 1), 0L);
    }

    /// Projects saved when dither was a switch.
    void an_older_switch_is_read() {
        Setup s;
        QVERIFY(s.set_json("output.dither", false).has_value());
        QCOMPARE(s.choice("output.dither"), std::string("none"));
        QVERIFY(s.set_json("output.dither", true).has_value());
        QCOMPARE(s.choice("output.dither"), std::string("ordered"));
        QVERIFY(s.set_text("output.dither", "off").has_value());
        QCOMPARE(s.choice("output.dither"), std::string("none"));
        QVERIFY(!s.set_json("tone.curve", true).has_value());
    }
};

MIROLUX_TEST(dither_test)
#include "dither_test.moc"
