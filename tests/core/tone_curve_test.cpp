#include "core/finish/color_table.h"
#include "core/finish/histogram.h"
#include "core/finish/tone_curve.h"
#include "core/image/image_io.h"
#include "core/light/light.h"
#include "core/light/luminance.h"
#include "support/scenes.h"
#include "support/setups.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

class tone_curve_test : public QObject {
    Q_OBJECT
    static double hue_of(const glm::dvec3& c) { return std::atan2(std::sqrt(3.0) * (c.g - c.b), 2 * c.r - c.g - c.b); }

private slots:
    /// What the specification promises: base colours come back less the 4 % that a dielectric mirrors, nothing reaches
    /// white, and the slope has no step where pressing begins.
    void neutral_keeps_colours_and_presses_highlights() {
        const glm::dvec3 red(0.7, 0.2, 0.1);
        QVERIFY(glm::length(neutral(red + 0.04) - red) < 1e-12);
        QVERIFY(neutral(glm::dvec3(0)) == glm::dvec3(0));
        double last = -1;
        for (double x = 0; x < 60; x += 0.01) {
            const double v = neutral(glm::dvec3(x)).x;
            QVERIFY(v > last - 1e-12 && v < 1);
            last = v;
        }
        const auto slope = [](double x) {
            return (neutral(glm::dvec3(x + 1e-6)).x - neutral(glm::dvec3(x - 1e-6)).x) / 2e-6;
        };
        QVERIFY(std::abs(slope(0.7999) - slope(0.8001)) < 1e-2);
        const glm::dvec3 bright = neutral({8, 2, 0.5});
        QVERIFY(bright.r > bright.g && bright.g > bright.b && bright.b > 0.3); // it goes toward white
    }

    void one_s_own_curve_goes_through_its_handles_and_rises() {
        Setup s = setup_with({{"tone.curve", "own"},
                              {"tone.own1", "0.02"},
                              {"tone.own2", "0.3"},
                              {"tone.own3", "0.25"}, // under the one before: held there
                              {"tone.own4", "0.9"},
                              {"tone.own5", "0.95"}});
        const OwnCurve c = own_curve(s);
        const double wanted[] = {0.02, 0.3, 0.3, 0.9, 0.95};
        for (std::size_t i = 0; i < 5; ++i)
            QVERIFY(std::abs(c.at(std::exp2(c.stops[i])) - wanted[i]) < 1e-12);
        double last = 0;
        for (double stops = -20; stops < 10; stops += 0.01) {
            const double v = c.at(std::exp2(stops));
            QVERIFY(v >= last - 1e-12 && v <= 0.95 + 1e-12);
            last = v;
        }
        QCOMPARE(c.at(0), 0.0);
        QVERIFY(std::abs(displayed(std::exp2(-3), s) - 0.3) < 1e-6); // as the display is sent it
    }

    void by_luminance_hues_stay_and_by_channel_they_turn() {
        const glm::dvec3 orange(6, 2, 0.4);
        for (const char* curve : {"reinhard", "filmic", "own"}) {
            const glm::dvec3 together = toned(orange, setup_with({{"tone.curve", curve}, {"tone.by", "luminance"}})),
                             each = toned(orange, setup_with({{"tone.curve", curve}}));
            QVERIFY(std::abs(hue_of(together) - hue_of(orange)) < 1e-9);
            QVERIFY(std::abs(hue_of(each) - hue_of(orange)) > 0.05);
            QVERIFY(std::max({together.r, together.g, together.b}) <= 1 + 1e-12);
            const Setup grey = setup_with({{"tone.curve", curve}, {"tone.by", "luminance"}});
            QVERIFY(std::abs(luminance(toned(glm::dvec3(0.3, 0.2, 0.25), grey)) -
                             toned(glm::dvec3(luminance(glm::dvec3(0.3, 0.2, 0.25))), grey).x) < 1e-9);
        }
    }

    void balanced_light_is_white() {
        for (const double kelvin : {2700.0, 4000.0, 12000.0}) {
            const Setup s = setup_with({{"tone.whiteBalance", std::to_string(kelvin)}});
            const glm::dvec3 plain(color_of_kelvin(6500)),
                light = glm::dvec3(color_of_kelvin(float(kelvin))) * white_balance(s);
            const glm::dvec3 ratio = light / plain;
            QVERIFY(std::abs(ratio.r / ratio.g - 1) < 1e-6 && std::abs(ratio.b / ratio.g - 1) < 1e-6);
            QVERIFY(std::abs(luminance(white_balance(s)) - 1) < 1e-9);
        }
        QVERIFY(white_balance(Setup()) == glm::dvec3(1.0));
    }

    void a_table_is_read_and_looked_up_between_its_entries() {
        std::string text = "# made up\nTITLE \"swapped\"\nLUT_3D_SIZE 3\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 1 1 1\n\n";
        for (int b = 0; b < 3; ++b)
            for (int g = 0; g < 3; ++g)
                for (int r = 0; r < 3; ++r) // green and red change places, blue halves
                    text += std::to_string(g / 2.0) + " " + std::to_string(r / 2.0) + " " + std::to_string(b / 4.0) +
                            "\r\n";
        const auto table = parse_color_table(text, "x.cube");
        QVERIFY2(table.has_value(), table ? "" : to_text(table.error()).c_str());
        QCOMPARE(table->size, 3);
        for (const glm::dvec3& c : {glm::dvec3(0), glm::dvec3(1), glm::dvec3(0.3, 0.8, 0.15), glm::dvec3(-1, 2, 0.5)}) {
            const glm::dvec3 in = glm::clamp(c, glm::dvec3(0), glm::dvec3(1));
            QVERIFY(glm::length(table->at(c) - glm::dvec3(in.g, in.r, 0.5 * in.b)) < 1e-6);
        }
    }

    void what_is_wrong_with_a_table_is_said_by_its_line() {
        const auto said = [](const std::string& text) {
            const auto table = parse_color_table(text, "x.cube");
            return table ? std::string() : to_text(table.error());
        };
        QVERIFY(said("").find("no LUT_3D_SIZE") != std::string::npos);
        QVERIFY(said("LUT_1D_SIZE 4\n").find("x.cube, line 1") != std::string::npos);
        QVERIFY(said("LUT_3D_SIZE 1000\n").find("2 to 128") != std::string::npos);
        QVERIFY(said("0 0 0\n").find("before LUT_3D_SIZE") != std::string::npos);
        QVERIFY(said("LUT_3D_SIZE 2\n0 0 0\n0 zero 0\n").find("line 3") != std::string::npos);
        QVERIFY(said("LUT_3D_SIZE 2\n0 0 0\n").find("1 of 8 rows") != std::string::npos);
        std::string many = "LUT_3D_SIZE 2\n";
        for (int i = 0; i < 9; ++i)
            many += "0 0 0\n";
        QVERIFY(said(many).find("more rows") != std::string::npos);
        QVERIFY(said("LUT_3D_SIZE 2\nDOMAIN_MIN 1 0 0\n" + many.substr(14, 48)).find("DOMAIN_MAX") !=
                std::string::npos);
        QVERIFY(!color_table("/nowhere/x.cube").has_value());
    }

    /// A colour to each stop, told apart from its neighbours; grey, black and white have their places.
    void stops_have_colours_of_their_own() {
        QVERIFY(stop_color(0) == glm::dvec3(0.5) && stop_color(0.49) == glm::dvec3(0.5));
        QVERIFY(stop_color(-9) == glm::dvec3(0) && stop_color(7) == glm::dvec3(1));
        for (double s = least_stops; s < most_stops; s += 1) {
            QVERIFY(stop_color(s) == stop_color(s + 0.4));
            QVERIFY(glm::length(stop_color(s) - stop_color(s + 1)) > 0.05);
        }
    }
};

MIROLUX_TEST(tone_curve_test)
#include "tone_curve_test.moc"
