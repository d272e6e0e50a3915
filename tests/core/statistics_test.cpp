#include "core/cost/frame_history.h"
#include "core/cost/measure.h"
#include "core/cost/statistics.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// A device whose times are known: base ms times a factor for prepass, with seeded noise and drift.
class FakeSession final : public RenderSession {
public:
    explicit FakeSession(std::uint32_t seed, double factor) : random_(seed), factor_(factor) {}
    Result<FrameRecord> render(const Scene&, const Setup& setup, const View& view,
                               const RenderOptions& options) override {
        ++calls;
        if (failAfter && calls > failAfter) return fail("the device was lost");
        FrameRecord r;
        r.width = view.width;
        r.height = view.height;
        r.clock = "fenced";
        drift_ *= 1.0 + 0.004 * (unit() - 0.5);
        const double ms = 10.0 * drift_ * (setup.flag("path.depthPrepass") ? factor_ : 1.0);
        PassRecord p{"opaque", "opaque", {}, Work::drawing(1, 2), options.count};
        for (int i = 0; i < options.fencedSamples; ++i)
            p.ms.push_back(ms * (1 + 0.06 * unit() * unit() + (unit() < 0.03 ? 1.5 : 0)));
        r.passes = {p};
        for (int i = 0; i < options.wholeSamples; ++i)
            r.wholeMs.push_back(ms);
        return r;
    }
    Result<DeviceInfo> device() override { return DeviceInfo{}; }
    int calls = 0, failAfter = 0;

private:
    double unit() { return (random_() >> 8) / 16777216.0; }
    std::mt19937 random_;
    double factor_, drift_ = 1;
};

} // namespace

class statistics_test : public QObject {
    Q_OBJECT
    Scene scene_{white_plane(), {}, {}, {}};
    View view_ = view_from({0, 2, 5}, {0, 0, 0}, 64, 36);

private slots:
    void median_and_quantiles_of_known_lists() {
        QCOMPARE(median({3, 1, 2}), 2.0);
        QCOMPARE(median({4, 1, 2, 3}), 2.5);
        QCOMPARE(quantile({0, 10}, 0.25), 2.5);
        QCOMPARE(median({}), 0.0);
    }

    /// The interval's promise, by simulation: the true median lies inside it in about 95 of 100 experiments.
    void bootstrap_interval_covers_the_true_median() {
        std::mt19937 r(1);
        int inside = 0;
        const int experiments = 400;
        for (int e = 0; e < experiments; ++e) {
            std::vector<double> v;
            for (int i = 0; i < 25; ++i) {
                double sum = 0;
                for (int k = 0; k < 12; ++k)
                    sum += (r() >> 8) / 16777216.0;
                v.push_back(std::exp(0.2 * (sum - 6))); // log-normal of median 1
            }
            const Interval i = bootstrap_median(v, 7, 400);
            inside += i.low <= 1.0 && i.high >= 1.0;
        }
        QVERIFY2(inside >= experiments * 0.90 && inside <= experiments * 0.99, qPrintable(QString::number(inside)));
    }

    void a_against_a_is_not_shown_at_the_nominal_rate() {
        int alarms = 0;
        const int runs = 200;
        for (int i = 0; i < runs; ++i) {
            FakeSession session(static_cast<std::uint32_t>(i + 1), 1.0);
            MeasureOptions o;
            o.rounds = 15;
            o.seed = static_cast<std::uint32_t>(i + 1);
            const auto m = measure_paired(session, scene_, Setup(), Setup(), view_, o);
            QVERIFY(m.has_value());
            alarms += m->frame.verdict != Verdict::notShown;
        }
        qInfo("%d false alarms in %d", alarms, runs);
        QVERIFY(alarms <= 18); // upper 1 % bound of a binomial with 5 %
    }

    void a_slowdown_is_found_and_its_size_told() {
        Setup slow;
        QVERIFY(slow.set("path.depthPrepass", true).has_value());
        int found = 0;
        for (int i = 0; i < 40; ++i) {
            FakeSession session(static_cast<std::uint32_t>(i + 100), 1.10);
            MeasureOptions o;
            o.rounds = 15;
            o.seed = static_cast<std::uint32_t>(i);
            const auto m = measure_paired(session, scene_, Setup(), slow, view_, o);
            QVERIFY(m.has_value());
            found += m->frame.verdict == Verdict::slower && m->frame.ratio > 1.05 && m->frame.ratio < 1.15;
        }
        QVERIFY2(found >= 38, qPrintable(QString::number(found)));
    }

    void stopping_keeps_what_was_measured() {
        FakeSession session(1, 1);
        MeasureOptions o;
        o.rounds = 50;
        o.progress = [](const MeasureProgress& p) { return p.round <= 4; };
        const auto m = measure(session, scene_, Setup(), view_, o);
        QVERIFY(m.has_value());
        QCOMPARE(m->rounds, 4);
        QVERIFY(m->stopped);
        o.progress = [](const MeasureProgress&) { return false; };
        QVERIFY(!measure(session, scene_, Setup(), view_, o).has_value());
    }

    void a_lost_device_is_one_error() {
        FakeSession session(1, 1);
        session.failAfter = 12;
        const auto m = measure(session, scene_, Setup(), view_, {});
        QVERIFY(!m.has_value());
        QCOMPARE(m.error().what, std::string("the device was lost"));
    }

    void history_keeps_the_last_frames_and_forgets_on_a_new_plan() {
        FrameHistory h(5);
        FrameRecord r;
        for (int i = 1; i <= 9; ++i) {
            r.passes = {{"opaque", "opaque", {double(i)}, {}, false}};
            h.add(r);
        }
        QCOMPARE(h.frames(), std::size_t(5));
        QCOMPARE(h.frame().median, 7.0); // of 5..9
        r.passes = {{"depth", "depth", {1.0}, {}, false}, {"opaque", "opaque", {2.0}, {}, false}};
        h.add(r);
        QCOMPARE(h.frames(), std::size_t(1));
        QCOMPARE(h.frame().median, 3.0);
    }
};

MIROLUX_TEST(statistics_test)
#include "statistics_test.moc"
