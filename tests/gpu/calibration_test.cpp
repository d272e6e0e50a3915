#include "core/cost/profile_check.h"
#include "core/cost/selftest.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

class calibration_test : public QObject {
    Q_OBJECT
private slots:
    void calibration_prices_every_term_and_predicts_the_demo_it_never_saw() {
        auto workloads = session().calibrate(2);
        QVERIFY2(workloads.has_value(), workloads ? "" : to_text(workloads.error()).c_str());
        QVERIFY(workloads->size() > 150);
        CostTerms seen;
        for (const Workload& w : *workloads) {
            QVERIFY2(w.ms > 0, w.name.c_str());
            for (const auto& [term, amount] : w.terms.amounts)
                seen[term] += amount;
        }
        for (const CostTerm& term : all_terms())
            QVERIFY2(seen.at(term.name) > 0, term.name.c_str());
        const DeviceProfile p = fit_profile(*workloads, "here", "this device");
        QVERIFY2(p.typicalError < 0.4, qPrintable(QString::number(p.typicalError)));
        // A few setups of the demo; docs/measured/profile.md holds forty. The machine's speed may have changed since
        // the calibration, which moves all predictions by one factor: what is left after that factor is the model's own
        // error.
        const Demo d = demo();
        const auto check = check_profile(session(), p, d.scene, Setup(), d.view, d.cameras, 8, 3, 1, {});
        QVERIFY(check.has_value());
        std::vector<double> logs, spread;
        for (const CheckedSetup& s : check->setups)
            logs.push_back(std::log(s.predictedMs / s.measuredMs));
        for (const double l : logs)
            spread.push_back(std::abs(l - median(logs)));
        QVERIFY2(median(spread) < 0.45 && std::abs(median(logs)) < std::log(3.0),
                 qPrintable(QString("spread %1, factor %2").arg(median(spread)).arg(std::exp(median(logs)))));
    }

    void work_counters_price_a_frame_the_same_on_every_run() {
        const Demo d = demo(160, 90);
        const Setup setup = setup_with({{"path.kind", "clustered-forward"}});
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.count = true;
        std::vector<Work> before;
        for (int run = 0; run < 2; ++run) {
            const auto r = session().render(d.scene, setup, d.view, o);
            QVERIFY(r.has_value());
            std::vector<Work> now;
            for (const PassRecord& p : r->passes)
                now.push_back(p.work);
            if (run) QVERIFY(now == before);
            before = now;
        }
        std::uint64_t reached = 0, reads = 0, entries = 0;
        for (const Work& w : before) {
            QVERIFY(w.at("lightsReached") <= w.at("lightEvaluations"));
            reached += w.at("lightsReached");
            reads += w.at("textureReads");
            entries += w.at("listEntries");
        }
        QVERIFY(reached > 0 && reads > 0 && entries > 0);
        // Entries counted are those that the lists hold.
        RenderOptions lists;
        lists.picture = false;
        lists.lightLists = true;
        const auto r = session().render(d.scene, setup, d.view, lists);
        QCOMPARE(entries, static_cast<std::uint64_t>(r->lightGrid.indices.size() + r->transparentGrid.indices.size()));
    }

    void the_clock_in_whole_frames_is_measured_in_paired_rounds() {
        const Demo d = demo(160, 90);
        const auto overhead =
            clock_overhead(session(), d.scene, setup_with({{"path.kind", "tiled-deferred"}}), d.view, 24, 1);
        QVERIFY(overhead.has_value());
        QCOMPARE(overhead->rounds, 24);
        QVERIFY(overhead->low < overhead->high && overhead->low <= overhead->ratio &&
                overhead->ratio <= overhead->high);
        QVERIFY2(overhead->low < 1.05 && overhead->high > 0.95, // no cost of the clock is shown, and no gain

                 qPrintable(QString("%1 (%2 to %3)").arg(overhead->ratio).arg(overhead->low).arg(overhead->high)));
    }
};

MIROLUX_TEST(calibration_test)
#include "calibration_test.moc"
