#include "core/cost/selftest.h"
#include "core/cost/walk.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// Frames whose cost is known: 10 ms and, near x = 20, more; B (depth pre-pass) costs 1.3 times as much. Noise and
/// drift as asked.
class KnownCost final : public RenderSession {
public:
    double noise = 0.0, driftPerFrame = 0.0;
    bool outliers = false, bimodal = false;
    std::mt19937 random{1};
    int frames = 0;

    Result<FrameRecord> render(const Scene&, const Setup& setup, const View& view, const RenderOptions& o) override {
        FrameRecord r;
        r.clock = "fenced";
        r.width = view.width;
        r.height = view.height;
        const double d = view.camera.eye.x - 20.0, forward = view.camera.aim.x - view.camera.eye.x;
        double ms = 10 + 15 * std::exp(-d * d / 8) + (forward < 0 ? 3 : 0);
        if (setup.flag("path.depthPrepass")) ms *= 1.3;
        ms *= 1 + driftPerFrame * ++frames;
        const auto sample = [&](double v) {
            double sum = 0;
            for (int k = 0; k < 12; ++k)
                sum += random01(random);
            v *= std::exp(noise * (sum - 6));
            if (outliers && random() % 12 == 0) v *= 3;
            if (bimodal && random() % 2) v *= 1.4;
            return v;
        };
        if (o.fencedSamples > 0)
            r.passes = {{"opaque", "opaque", {sample(ms * 0.7)}, {}, false},
                        {"finish", "finish", {sample(ms * 0.3)}, {}, false}};
        else
            r.passes = {{"opaque", "opaque", {}, {}, false}, {"finish", "finish", {}, {}, false}};
        if (o.injectedWork > 0)
            r.passes.push_back({injected_pass, "injected", {sample(0.001 * o.injectedWork)}, {}, false});
        for (int i = 0; i < o.wholeSamples; ++i)
            r.wholeMs.push_back(sample(ms));
        return r;
    }
    Result<DeviceInfo> device() override { return DeviceInfo{}; }
};

Walk straight() {
    Walk w;
    w.name = "along x";
    for (int i = 0; i <= 8; ++i)
        w.keys.push_back({double(i), {5.0f * static_cast<float>(i), 2, 0}, {5.0f * static_cast<float>(i) + 4, 2, 0}});
    return w;
}

} // namespace

class walk_test : public QObject {
    Q_OBJECT
    Scene scene_;
    View view_;
private slots:
    void places_are_evenly_apart() {
        const auto points = walk_points(straight(), 2);
        QCOMPARE(points.size(), std::size_t(21)); // 40 m
        for (std::size_t i = 0; i < points.size(); ++i) {
            QVERIFY(std::abs(points[i].metres - 2.0 * static_cast<double>(i)) < 1e-6);
            QVERIFY(std::abs(points[i].camera.eye.x - points[i].metres) < 0.05);
        }
        QCOMPARE(walk_points(straight(), 2, 8).size(), std::size_t(168));
        QVERIFY(walk_points(Walk{}, 2).empty());
        Walk still = straight();
        still.keys.resize(1);
        QCOMPARE(walk_points(still, 2).size(), std::size_t(1));
    }

    void the_worst_place_and_the_percentiles_are_found_through_noise() {
        KnownCost session;
        session.noise = 0.05;
        session.driftPerFrame = 0.001;
        WalkOptions o;
        o.everyMetres = 1;
        o.sweeps = 5;
        const auto m = measure_walk(session, scene_, {Setup()}, view_, straight(), o);
        QVERIFY(m.has_value());
        const WalkMeasurement& w = m->front();
        QVERIFY2(std::abs(w.points[w.worstPoint].metres - 20) <= 1,
                 qPrintable(QString::number(w.points[w.worstPoint].metres)));
        QVERIFY(w.p50 < w.p95 && w.p95 <= w.p99 && w.p99 <= w.worst);
        QVERIFY(w.over(18) > 2 && w.over(18) < 8);
        QCOMPARE(w.sweeps, 5);
        for (const WalkPoint& p : w.points)
            QVERIFY(std::abs(p.passMs[0] + p.passMs[1] - p.ms) < 0.1 * p.ms);
    }

    void looking_around_finds_the_dearest_direction() {
        KnownCost session;
        WalkOptions o;
        o.everyMetres = 5;
        o.sweeps = 1;
        o.headings = 4;
        const auto m = measure_walk(session, scene_, {Setup()}, view_, straight(), o);
        QVERIFY(m.has_value());
        const WalkPoint& worst = m->front().points[m->front().worstPoint];
        QVERIFY(std::abs(worst.heading - 3.14159265) < 1e-6 && std::abs(worst.metres - 20) < 0.1);
    }

    void two_setups_are_measured_at_the_same_places() {
        KnownCost session;
        session.noise = 0.02;
        Setup b;
        QVERIFY(b.set("path.depthPrepass", true).has_value());
        WalkOptions o;
        o.everyMetres = 4;
        const auto m = measure_walk(session, scene_, {Setup(), b}, view_, straight(), o);
        QVERIFY(m.has_value() && m->size() == 2);
        QCOMPARE((*m)[0].points.size(), (*m)[1].points.size());
        QVERIFY(std::abs((*m)[1].p50 / (*m)[0].p50 - 1.3) < 0.08);
    }

    void stopping_keeps_whole_sweeps_only() {
        KnownCost session;
        WalkOptions o;
        o.everyMetres = 4;
        o.sweeps = 10;
        o.progress = [](int done, int) { return done < 27; }; // 11 places: two sweeps and a half
        const auto m = measure_walk(session, scene_, {Setup()}, view_, straight(), o);
        QVERIFY(m.has_value());
        QCOMPARE(m->front().sweeps, 2);
        QVERIFY(m->front().stopped);
        o.progress = [](int done, int) { return done < 5; };
        QVERIFY(!measure_walk(session, scene_, {Setup()}, view_, straight(), o).has_value());
        const QString csv = QString::fromStdString(walk_csv(m->front()));
        QCOMPARE(csv.count('\n'), 12);
    }

    // The statistics under noise of several kinds

    void false_alarms_stay_nominal_under_drift_outliers_and_bimodal_noise() {
        const struct {
            const char* name;
            double noise, drift;
            bool outliers, bimodal;
        } kinds[] = {{"noise", 0.05, 0, false, false},
                     {"drift", 0.05, 0.003, false, false},
                     {"outliers", 0.05, 0, true, false},
                     {"bimodal", 0.02, 0, false, true}};
        for (const auto& k : kinds)
            for (const bool early : {false, true}) {
                int alarms = 0, passAlarms = 0;
                const int runs = 100;
                for (int i = 0; i < runs; ++i) {
                    KnownCost session;
                    session.random.seed(static_cast<std::uint32_t>(i) * 7919u + 11u);
                    session.noise = k.noise;
                    session.driftPerFrame = k.drift;
                    session.outliers = k.outliers;
                    session.bimodal = k.bimodal;
                    MeasureOptions o;
                    o.rounds = 20;
                    o.untilClear = early;
                    o.seed = static_cast<std::uint32_t>(i + 1);
                    const auto m = measure_paired(session, scene_, Setup(), Setup(), view_, o);
                    QVERIFY(m.has_value());
                    alarms += m->frame.verdict != Verdict::notShown;
                    for (const PassComparison& p : m->passes)
                        passAlarms += p.comparison.verdict != Verdict::notShown;
                }
                qInfo("%s%s: %d false alarms of the frame, %d of passes, in %d runs", k.name,
                      early ? ", stopping early" : "", alarms, passAlarms, runs);
                QVERIFY(alarms <= binomial_bound(runs, early ? 0.06 : 0.05, 0.99)); // early looks cost a little
                QVERIFY(passAlarms <= binomial_bound(runs, 0.06, 0.99));
            }
    }

    void early_stopping_saves_rounds_where_the_difference_is_clear() {
        KnownCost session;
        session.noise = 0.03;
        Setup b;
        QVERIFY(b.set("path.depthPrepass", true).has_value());
        MeasureOptions o;
        o.rounds = 100;
        o.untilClear = true;
        const auto clear = measure_paired(session, scene_, Setup(), b, view_, o);
        QVERIFY(clear.has_value());
        QVERIFY(clear->a.rounds < 20 && clear->frame.verdict == Verdict::slower);
        o.untilClear = false;
        o.precision = 0.02;
        const auto precise = measure_paired(session, scene_, Setup(), Setup(), view_, o);
        QVERIFY(precise.has_value());
        QVERIFY(precise->a.rounds < 100 && precise->frame.smallestShown <= 0.025);
        QCOMPARE(precise->frame.verdict, Verdict::notShown);
    }

    void holm_and_the_sign_test_match_worked_examples() {
        // Conover's tables: 15 signs alike, 2 * 2^-15; 12 of 15, 2 * 576 / 32768.
        QVERIFY(std::abs(sign_test(std::vector<double>(15, 1.0)) - 2.0 / 32768) < 1e-12);
        std::vector<double> v(15, 1.0);
        v[0] = v[1] = v[2] = -1;
        QVERIFY(std::abs(sign_test(v) - 2.0 * 576 / 32768) < 1e-12);
        QCOMPARE(sign_test({}), 1.0);
        QCOMPARE(sign_test({1.0, -1.0}), 1.0);
        QCOMPARE(holm({0.01, 0.04, 0.03, 0.005}),
                 (std::vector<bool>{true, false, false, true})); // 0.005 < 0.0125, 0.01 < 0.0167, 0.03 > 0.025
        QCOMPARE(holm({}), std::vector<bool>{});
        QCOMPARE(binomial_bound(200, 0.05, 0.99), 18);
    }

    void the_selftest_trusts_a_good_device_and_not_a_wild_one() {
        KnownCost good;
        good.noise = 0.01;
        SelftestOptions o;
        const auto trusted = selftest(good, scene_, Setup(), view_, o);
        QVERIFY(trusted.has_value());
        QVERIFY2(trusted->trusted() && trusted->smallestFound < 0.07,
                 qPrintable(QString::number(trusted->smallestFound)));
        KnownCost wild;
        wild.noise = 0.6;
        wild.bimodal = true;
        const auto not_trusted = selftest(wild, scene_, Setup(), view_, o);
        QVERIFY(not_trusted.has_value());
        QVERIFY(!(not_trusted->smallestFound > 0 && not_trusted->smallestFound < 0.07));
    }

    void a_regression_against_an_earlier_record_is_shown() {
        std::mt19937 r(3);
        std::vector<double> before, same, slower;
        for (int i = 0; i < 15; ++i) {
            before.push_back(10 + random01(r));
            same.push_back(10 + random01(r));
            slower.push_back(11.8 + random01(r));
        }
        QCOMPARE(compare_apart(before, same, 1).verdict, Verdict::notShown);
        const Comparison c = compare_apart(before, slower, 1);
        QCOMPARE(c.verdict, Verdict::slower);
        QVERIFY(c.low > 1.10 && c.ratio < 1.25);
    }

    void a_look_around_keeps_the_dearest_direction_of_each_place() {
        KnownCost session; // looking back (against x) costs 3 ms more
        WalkOptions o;
        o.everyMetres = 5;
        o.headings = 4;
        const auto all = measure_walk(session, scene_, {Setup()}, View(), straight(), o);
        QVERIFY(all.has_value());
        const WalkMeasurement worst = worst_directions(all->front());
        QCOMPARE(worst.points.size() * 4, all->front().points.size());
        for (const WalkPoint& p : worst.points) {
            QVERIFY(p.camera.aim.x - p.camera.eye.x < 0);
            for (const WalkPoint& other : all->front().points)
                if (other.metres == p.metres) QVERIFY(other.ms <= p.ms);
        }
        QCOMPARE(worst.worst, all->front().worst);
        QVERIFY(worst.p50 >= all->front().p50);
        QCOMPARE(worst.points[worst.worstPoint].ms, worst.worst);
    }
};

MIROLUX_TEST(walk_test)
#include "walk_test.moc"
