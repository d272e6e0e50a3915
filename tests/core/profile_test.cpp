#include "core/cost/nnls.h"
#include "core/cost/noise.h"
#include "core/cost/profile_check.h"
#include "core/cost/target_table.h"
#include "core/io/file.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// Pays for each term as a profile says, with noise; its work depends on the picture's size alone.
class PricedSession final : public RenderSession {
public:
    explicit PricedSession(DeviceProfile truth, double noise = 0) : truth_(std::move(truth)), noise_(noise) {}
    Result<FrameRecord> render(const Scene& scene, const Setup& setup, const View& view,
                               const RenderOptions& o) override {
        FrameRecord r;
        r.width = view.width;
        r.height = view.height;
        r.clock = "fenced";
        const FramePlan plan = plan_frame(scene, setup, view);
        for (const PlannedPass& p : plan.passes) {
            PassRecord one{p.name, p.family, {}, p.expected, o.count};
            const std::uint64_t fragments = static_cast<std::uint64_t>(view.width) * view.height;
            for (const auto& [name, value] :
                 std::initializer_list<std::pair<const char*, std::uint64_t>>{{"fragments", fragments},
                                                                              {"lightEvaluations", fragments * 7},
                                                                              {"lightsReached", fragments * 3},
                                                                              {"cellTests", 4000},
                                                                              {"sideTests", 4000},
                                                                              {"cells", 300}})
                one.work.set(name, value);
            for (int s = 0; s < o.fencedSamples; ++s)
                one.ms.push_back(truth_.fitted_ms(price_pass(plan, p, one.work)) *
                                 (1 + noise_ * random_in(random_, -1, 1)));
            r.passes.push_back(one);
        }
        r.wholeMs.assign(static_cast<std::size_t>(std::max(0, o.wholeSamples)), 1.0);
        return r;
    }
    Result<DeviceInfo> device() override { return DeviceInfo{}; }

private:
    DeviceProfile truth_;
    double noise_;
    std::mt19937 random_{3};
};

Scene small_scene() {
    Scene s = random_scene(2, 6);
    return s;
}

} // namespace

class profile_test : public QObject {
    Q_OBJECT
private slots:
    /// Against the definition of the optimum (Karush, Kuhn and Tucker): gradient 0 where x > 0, and pointing out where
    /// x = 0.
    void non_negative_least_squares_meets_its_optimality_conditions() {
        std::mt19937 random(4);
        int atBound = 0;
        for (int trial = 0; trial < 60; ++trial) {
            const std::size_t m = 6 + random() % 30, n = 2 + random() % 9;
            std::vector<std::vector<double>> A(m, std::vector<double>(n));
            std::vector<double> b(m);
            for (std::size_t r = 0; r < m; ++r) {
                for (double& v : A[r])
                    v = random_in(random, -1, 2) * std::pow(10.0, static_cast<double>(random() % 3));
                b[r] = random_in(random, -3, 5);
            }
            const std::vector<double> x = non_negative_least_squares(A, b);
            QCOMPARE(x.size(), n);
            std::vector<double> rest = b;
            for (std::size_t r = 0; r < m; ++r)
                for (std::size_t c = 0; c < n; ++c)
                    rest[r] -= A[r][c] * x[c];
            for (std::size_t c = 0; c < n; ++c) {
                double gradient = 0, size = 0;
                for (std::size_t r = 0; r < m; ++r) {
                    gradient += A[r][c] * rest[r];
                    size += std::abs(A[r][c] * b[r]);
                }
                QVERIFY(x[c] >= 0);
                if (x[c] > 0)
                    QVERIFY2(std::abs(gradient) < 1e-7 * std::max(size, 1.0), qPrintable(QString::number(gradient)));
                else {
                    QVERIFY2(gradient < 1e-7 * std::max(size, 1.0), qPrintable(QString::number(gradient)));
                    ++atBound;
                }
            }
        }
        QVERIFY(atBound > 30); // the bound was in play
    }

    void a_fit_finds_the_rates_that_made_the_times() {
        std::mt19937 random(8);
        DeviceProfile truth;
        for (const CostTerm& term : all_terms())
            truth.ns[term.name] = random() % 4 == 0 ? 0.0 : std::pow(10.0, random_in(random, -1, 3));
        std::vector<Workload> workloads;
        for (int i = 0; i < 240; ++i) {
            Workload w{"w", 0, {}};
            for (const CostTerm& term : all_terms())
                if (random() % 5 == 0) w.terms[term.name] = std::pow(10.0, random_in(random, 2, 5));
            w.ms = truth.fitted_ms(w.terms);
            if (w.ms > 0) workloads.push_back(w);
        }
        const DeviceProfile found = fit_profile(workloads, "found", "made");
        QVERIFY2(found.typicalError < 1e-6, qPrintable(QString::number(found.typicalError)));
        for (const auto& [term, ns] : truth.ns)
            QVERIFY2(std::abs(found.ns.at(term) - ns) < 1e-4 * (1 + ns),
                     qPrintable(QString("%1: %2 for %3").arg(term.c_str()).arg(found.ns.at(term)).arg(ns)));
    }

    void a_profile_comes_back_from_its_file_and_bad_ones_are_refused_with_the_place() {
        QTemporaryDir folder;
        const std::string path = folder.filePath("p.json").toStdString();
        DeviceProfile p = shipped_profiles().front();
        p.madeUp = false;
        p.workloads = {{"one", 2.5, {}}};
        p.workloads[0].terms["draw"] = 12;
        QVERIFY(write_file_atomically(path, to_json(p).dump()).has_value());
        const auto again = find_profile(path);
        QVERIFY(again.has_value());
        QCOMPARE(again->ns, p.ns);
        QVERIFY(again->workloads.size() == 1 && again->workloads[0].terms.at("draw") == 12 && again->name == p.name);
        for (const auto& [broken, place] :
             {std::pair{"{}", "#/"},
              {R"({"schema":"mirolux.profile","name":"x","nanoseconds":{"teapots":1}})", "/nanoseconds"},
              {R"({"schema":"mirolux.profile","name":"x","nanoseconds":{"draw":-1}})", "/nanoseconds/draw"},
              {"nonsense", "p.json"}}) {
            QVERIFY(write_file_atomically(path, broken).has_value());
            const auto refused = find_profile(path);
            QVERIFY(!refused.has_value());
            QVERIFY2(refused.error().where.find(place) != std::string::npos, refused.error().where.c_str());
        }
        QVERIFY(find_profile("no such thing").error().remedy.find("handheld") != std::string::npos);
        QCOMPARE(shipped_profiles().size(), std::size_t(3));
        for (const DeviceProfile& shipped : shipped_profiles())
            QVERIFY(shipped.madeUp);
    }

    void a_true_profile_predicts_the_session_that_it_prices() {
        DeviceProfile truth = shipped_profiles().back();
        truth.largeError = 0.1;
        PricedSession session(truth, 0.05);
        View view;
        const auto check = check_profile(session, truth, small_scene(), Setup(), view, {}, 24, 1, 3, {});
        QVERIFY(check.has_value());
        QCOMPARE(check->setups.size(), std::size_t(24));
        QVERIFY(check->medianError < 0.03);
        QVERIFY(check->withinBar > 0.99);
        // A profile twice too dear is found out.
        DeviceProfile wrong = truth;
        for (auto& [term, ns] : wrong.ns)
            ns *= 2;
        const auto bad = check_profile(session, wrong, small_scene(), Setup(), view, {}, 24, 1, 3, {});
        QVERIFY(bad->medianError > 0.9 && bad->withinBar < 0.1);
        QVERIFY(check_svg(*check, truth).find("<circle") != std::string::npos);
        const auto stopped = check_profile(session, truth, small_scene(), Setup(), view, {}, 24, 1, 3,
                                           [](int done) { return done < 10; });
        QCOMPARE(stopped->setups.size(), std::size_t(10));
    }

    void targets_are_judged_by_their_p95_or_by_the_whole_error_bar() {
        Target t = plain_target("Desk", 64, 36, 10);
        Measurement m;
        m.frame = {8, 7.9, 8.1};
        m.p95 = 9.9;
        QCOMPARE(verdict_of(t, m).standing, TargetStanding::inside);
        m.p95 = 10.1;
        QCOMPARE(verdict_of(t, m).standing, TargetStanding::over);
        t.lightingShare = 0.5; // half of the frame: budget 5 ms
        QVERIFY(std::abs(verdict_of(t, m).headroomMs() + 5.1) < 1e-9);
        Prediction p;
        const auto standing = [&](double low, double ms, double high) {
            p.lowMs = low, p.frameMs = ms, p.highMs = high;
            return verdict_of(t, p).standing;
        };
        QCOMPARE(standing(3, 4, 4.9), TargetStanding::inside);
        QCOMPARE(standing(3, 4, 5.1), TargetStanding::unsure);
        QCOMPARE(standing(5.1, 6, 7), TargetStanding::over);
    }

    void every_target_is_judged_at_its_own_size_and_eyes_measured_or_predicted() {
        PricedSession session(shipped_profiles().back());
        std::vector<Target> targets = standard_targets();
        MeasureOptions o;
        o.rounds = 5;
        const auto cases = [&] {
            std::vector<TargetCase> out;
            for (const Target& t : targets)
                out.push_back({t, small_scene(), Setup()});
            return out;
        };
        const auto verdicts = judge_targets(session, cases(), View(), o);
        QVERIFY(verdicts.has_value());
        QCOMPARE(verdicts->size(), targets.size());
        QVERIFY(!(*verdicts)[0].predicted && (*verdicts)[0].p95 > 0 && (*verdicts)[0].rounds == 5);
        QVERIFY((*verdicts)[1].predicted && (*verdicts)[1].madeUp && (*verdicts)[1].profile == "handheld" &&
                (*verdicts)[1].p95 == 0);
        QVERIFY((*verdicts)[2].predicted && (*verdicts)[2].ms > 0 && (*verdicts)[2].highMs > (*verdicts)[2].ms);
        targets[1].profile = "no such profile";
        QVERIFY(!judge_targets(session, cases(), View(), o).has_value());
        QCOMPARE(measured_budget_ms(targets[2]), 0.0);
    }

    /// Drifting noise: frames one after the other see the drift as a difference, paired rounds do not.
    void paired_rounds_survive_a_drift_that_fools_frames_one_after_the_other() {
        std::mt19937 random(12);
        std::vector<double> frames;
        for (int i = 0; i < 6000; ++i)
            frames.push_back(20 * (1 + 0.06 * std::sin(i / 55.0)) * (1 + 0.02 * random_in(random, -1, 1)));
        const NoiseStudy s = study_noise(frames, 30, 500, 1);
        QCOMPARE(s.ways.size(), std::size_t(3));
        QVERIFY2(s.ways[0].share() > 0.5, qPrintable(QString::number(s.ways[0].share())));
        QVERIFY2(s.ways[2].share() < 0.08, qPrintable(QString::number(s.ways[2].share())));
        QVERIFY(noise_markdown(s, "a device", "a subject").find("| ours") != std::string::npos);
    }
};

MIROLUX_TEST(profile_test)
#include "profile_test.moc"
