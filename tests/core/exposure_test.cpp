#include "core/cost/walk.h"
#include "core/finish/exposure.h"
#include "core/finish/histogram.h"
#include "core/light/tone.h"
#include "support/scenes.h"
#include "support/setups.h"
#include "support/test_main.h"
#include <QtTest>
#include <algorithm>
#include <numbers>

using namespace mirolux;
using namespace mirolux::test;

class exposure_test : public QObject {
    Q_OBJECT
    static constexpr const char* meterWords[] = {"whole", "centre", "histogram", "spot"};
    static FloatImage picture(int width, int height, const std::function<float(int, int)>& luminance) {
        FloatImage image{width, height, 4, {}};
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                for (int c = 0; c < 4; ++c)
                    image.data.push_back(c < 3 ? luminance(x, y) : 1);
        return image;
    }
    static Setup metered(std::vector<std::pair<std::string, std::string>> more = {}) {
        more.insert(more.begin(), {"exposure.kind", "metered"});
        return setup_with(more);
    }

private slots:
    void even_pictures_stand_at_0_18_whatever_meters_them() {
        for (const char* meter : meterWords)
            for (double l = 0.01; l < 10001; l *= 10) {
                const Setup s = metered({{"exposure.meter", meter}});
                const double found =
                    metered_luminance(picture(40, 30, [&](int, int) { return static_cast<float>(l); }), s);
                QVERIFY(std::abs(found / l - 1) < 1e-6);
                QVERIFY(std::abs(found * tone::exposure_scale(ev100_for(found, s)) - 0.18) < 1e-9);
            }
    }

    void no_number_and_no_light_count_as_the_least_light() {
        const float nan = std::numeric_limits<float>::quiet_NaN(), big = std::numeric_limits<float>::infinity();
        const Setup s = metered();
        QVERIFY(std::abs(metered_luminance(picture(8, 8, [&](int, int) { return nan; }), s) - 1e-4) < 1e-9);
        QVERIFY(std::abs(metered_luminance(picture(8, 8, [](int, int) { return 0.0f; }), s) - 1e-4) < 1e-9);
        QVERIFY(std::isfinite(metered_luminance(picture(8, 8, [&](int x, int) { return x ? 1.0f : big; }), s)));
    }

    /// A picture of two halves: the weight of each by the formula alone, summed here.
    void the_centre_is_weighed_by_its_bell() {
        const int w = 64, h = 36;
        for (const double size : {0.2, 0.5, 1.3}) {
            const Setup s = metered({{"exposure.meter", "centre"}, {"exposure.centre", std::to_string(size)}});
            const int edge = 24;
            double left = 0, right = 0;
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x) {
                    const double dx = (x + 0.5 - w / 2.0) / (h / 2.0), dy = (y + 0.5 - h / 2.0) / (h / 2.0);
                    (x < edge ? left : right) += std::exp(-(dx * dx + dy * dy) / (2 * size * size));
                }
            const double wanted = std::exp((left * std::log(0.5) + right * std::log(32.0)) / (left + right));
            const double found =
                metered_luminance(picture(w, h, [&](int x, int) { return x < edge ? 0.5f : 32.0f; }), s);
            QVERIFY(std::abs(found / wanted - 1) < 1e-6);
        }
    }

    void a_spot_meters_its_disc_alone() {
        const Setup s = metered({{"exposure.meter", "spot"},
                                 {"exposure.spotX", "0.75"},
                                 {"exposure.spotY", "0.25"},
                                 {"exposure.spotSize", "0.2"}});
        const auto lit = [](int x, int y) { // 0.2 of 50 rows round the column 150, row 25: all inside
            return std::hypot(x + 0.5 - 150, y + 0.5 - 25) <= 10.5 ? 7.0f : 9999.0f;
        };
        QVERIFY(std::abs(metered_luminance(picture(200, 100, lit), s) - 7) < 1e-5);
        // A spot smaller than a pixel still has one.
        const Setup tiny = metered({{"exposure.meter", "spot"}, {"exposure.spotSize", "0.01"}});
        QVERIFY(std::abs(metered_luminance(picture(15, 9, [](int, int) { return 3.0f; }), tiny) - 3) < 1e-5);
    }

    void percentiles_leave_out_the_darkest_and_the_brightest() {
        std::mt19937 random(5);
        std::vector<double> values;
        for (int i = 0; i < 1000; ++i)
            values.push_back(std::exp2(-6 + 0.012 * (random() % 1000)));
        const FloatImage image =
            picture(50, 20, [&](int x, int y) { return static_cast<float>(values[std::size_t(y * 50 + x)]); });
        std::vector<double> sorted = values;
        std::sort(sorted.begin(), sorted.end());
        for (const auto& [low, high] : {std::pair(10, 90), {0, 100}, {50, 95}, {80, 20}}) {
            const Setup s = metered({{"exposure.meter", "histogram"},
                                     {"exposure.low", std::to_string(low)},
                                     {"exposure.high", std::to_string(high)}});
            double sum = 0;
            const int from = 10 * low, to = std::max(10 * high, from + 1);
            for (int i = from; i < to; ++i)
                sum += std::log(sorted[std::size_t(i)]);
            QVERIFY(std::abs(metered_luminance(image, s) / std::exp(sum / (to - from)) - 1) < 1e-5);
        }
    }

    void compensation_follows_its_curve_and_limits_hold() {
        const Setup s = metered({{"exposure.compensation", "0.5"},
                                 {"exposure.inDark", "-3"},
                                 {"exposure.inLight", "1"},
                                 {"exposure.least", "-3"},
                                 {"exposure.most", "12"}});
        const auto stops = [&](double ev) { return compensation_at(ev, s); };
        QCOMPARE(stops(-4), -2.5);
        QCOMPARE(stops(-9), -2.5);
        QCOMPARE(stops(0.5), -1.0); // half way to 5
        QCOMPARE(stops(5), 0.5);
        QCOMPARE(stops(9.5), 1.0);
        QCOMPARE(stops(20), 1.5);
        QVERIFY(std::abs(ev100_for(0.216 * std::exp2(5), s) - 4.5) < 1e-12);
        QCOMPARE(ev100_for(1e-4, s), -3.0);
        QCOMPARE(ev100_for(1e6, s), 12.0);
    }

    void an_eye_follows_its_exponential() {
        const Setup s = metered({{"exposure.up", "3"}, {"exposure.down", "0.7"}});
        for (const double step : {0.01, 0.033, 0.1})
            for (const double wanted : {4.0, -4.0}) {
                double ev = 0, gone = 0;
                for (; gone < 1.5; gone += step)
                    ev = wanted + (ev - wanted) * left_to_go(ev, wanted, s, step);
                const double speed = wanted > 0 ? 3 : 0.7;
                QVERIFY(std::abs(ev - wanted * (1 - std::exp(-speed * gone))) < 1e-9);
            }
        QCOMPARE(left_to_go(0, 4, s, std::numeric_limits<double>::infinity()), 0.0);
        QCOMPARE(left_to_go(0, 4, metered({{"exposure.lock", "on"}}), 100), 1.0);
    }

    void a_camera_s_numbers_stand_for_an_ev() {
        const Setup s = setup_with({{"exposure.by", "camera"},
                                    {"exposure.aperture", "4"},
                                    {"exposure.shutter", "64"},
                                    {"exposure.iso", "200"}});
        QVERIFY(std::abs(hand_ev100(s) - 9) < 1e-12); // 16 * 64 / 2
        QCOMPARE(hand_ev100(setup_with({{"exposure.ev100", "3.5"}})), 3.5);
    }

    void a_walk_tells_what_an_eye_has_come_to() {
        std::vector<WalkPoint> points(4);
        const double asked[] = {2, 6, 6, -1}, at[] = {0, 0.5, 2, 2};
        for (int i = 0; i < 4; ++i) {
            points[std::size_t(i)].seconds = at[i];
            points[std::size_t(i)].meteredEv100 = asked[i];
        }
        const Setup s = metered({{"exposure.up", "1"}, {"exposure.down", "2"}});
        adapt_along(points, s);
        QCOMPARE(*points[0].ev100, 2.0);
        QVERIFY(std::abs(*points[1].ev100 - (6 - 4 * std::exp(-0.5))) < 1e-12);
        QVERIFY(std::abs(*points[2].ev100 - (6 - 4 * std::exp(-2.0))) < 1e-12);
        QCOMPARE(*points[3].ev100, *points[2].ev100); // turned on the spot: no time has gone
        std::vector<WalkPoint> byHand(2);
        adapt_along(byHand, Setup());
        QVERIFY(!byHand[0].ev100 && !byHand[1].ev100);
    }

    /// What a picture of its own is shown as: the same as one exposed by hand at what its meter says.
    void a_picture_of_its_own_is_shown_by_its_own_meter() {
        const FloatImage image = picture(32, 18, [](int x, int y) { return 0.02f * static_cast<float>(1 + x * y); });
        const Setup s = metered();
        const Setup hand = exposed_by(s, ev100_for(metered_luminance(image, s), s));
        QCOMPARE(hand.choice("exposure.kind"), std::string("manual"));
        QVERIFY(displayed_picture(image, s).rgba == displayed_picture(image, hand).rgba);
        const LuminanceHistogram a = luminance_histogram(image, s), b = luminance_histogram(image, hand);
        QVERIFY(a.bins == b.bins);
        QVERIFY(a.black < -8 && a.white > 1 && a.black == b.black);
    }

    void percentiles_of_the_histogram_are_those_of_the_pixels() {
        const FloatImage image =
            picture(1000, 1, [](int x, int) { return static_cast<float>(1.2 * std::exp2(-10 + 0.01 * x)); });
        const LuminanceHistogram h = luminance_histogram(image, Setup());
        for (const double share : {0.1, 0.5, 0.9})
            QVERIFY(std::abs(h.percentile(share) - (-10 + 10 * share)) < 0.02);
        QCOMPARE(h.percentile(0), double(LuminanceHistogram::low));
    }

    void plans_meter_only_where_they_can() {
        const Scene scene = random_scene(1, 3);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 320, 180);
        QVERIFY(!plan_frame(scene, Setup(), view).resource(exposure_resource));
        QVERIFY(plan_frame(scene, metered(), view).pass("adapt exposure"));
        const FramePlan coded = plan_frame(scene, metered({{"output.space", "gamma"}}), view);
        QVERIFY(!coded.resource(exposure_resource));
        QVERIFY(std::any_of(coded.notes.begin(), coded.notes.end(),
                            [](const std::string& n) { return n.find("exposed by hand") != std::string::npos; }));
    }
};

MIROLUX_TEST(exposure_test)
#include "exposure_test.moc"
