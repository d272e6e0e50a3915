#include "core/cost/foresight_check.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QTemporaryDir>
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// A device whose cost is known: it pays exactly the profile's rates, times a factor for each pass.
class PricedDevice final : public RenderSession {
public:
    PricedDevice(DeviceProfile profile, double factor) : profile_(std::move(profile)), factor_(factor) {}
    Result<FrameRecord> render(const Scene& scene, const Setup& setup, const View& view,
                               const RenderOptions& options) override {
        const FramePlan plan = plan_frame(scene, setup, view);
        FrameRecord r;
        for (const PlannedPass& p : plan.passes) {
            Work w = p.expected;
            w.set("fragments", static_cast<std::uint64_t>(plan.pixels()));
            w.set("lightEvaluations", w.at("fragments") * (setup.choice("path.kind") == "additive" ? 40 : 8));
            const double ms = factor_ * profile_.fitted_ms(price_pass(plan, p, w));
            r.passes.push_back(
                {p.name, p.family, std::vector<double>(std::size_t(options.fencedSamples), ms), w, true});
        }
        return r;
    }
    Result<DeviceInfo> device() override { return DeviceInfo{"priced", "nobody", "1", "", {}}; }

private:
    DeviceProfile profile_;
    double factor_;
};

} // namespace

/// Foresight: measured now times predicted next over predicted now.
class foresight_test : public QObject {
    Q_OBJECT
    const Scene scene_ = random_scene(4, 20);
    const View view_ = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
    static Setup on_path(const char* path) {
        Setup s;
        (void)s.set_text("path.kind", path);
        return s;
    }
    CountedFrame counted(RenderSession& device, const Setup& setup) const {
        RenderOptions o;
        o.fencedSamples = 0;
        return counted_frame(plan_frame(scene_, setup, view_), *device.render(scene_, setup, view_, o));
    }
    PassTimes timed(RenderSession& device, const Setup& setup) const {
        PassTimes out;
        const auto record = device.render(scene_, setup, view_, {});
        for (const PassRecord& p : record->passes)
            out[p.name] = p.ms.front();
        return out;
    }
    static double sum(const PassTimes& t) {
        double all = 0;
        for (const auto& [name, ms] : t)
            all += ms;
        return all;
    }

private slots:
    /// A device that is slower than its profile by one factor is foreseen exactly.
    void a_device_that_is_off_by_a_factor_is_foreseen_exactly() {
        const DeviceProfile profile = *find_profile("handheld");
        PricedDevice device(profile, 1.7);
        const Setup now = on_path("forward");
        for (const char* path : {"additive", "deferred", "tiled-deferred", "clustered-forward", "forward"}) {
            const auto f = foresee(profile, counted(device, now), timed(device, now), counted(device, on_path(path)));
            QVERIFY(f.has_value());
            const double is = sum(timed(device, on_path(path)));
            QVERIFY2(std::abs(f->ms - is) < 1e-9 * is, path);
            QVERIFY(f->lowMs <= f->ms && f->ms <= f->highMs);
            QVERIFY(foresight_miss(*f, timed(device, on_path(path))).empty());
        }
    }

    /// What does the same work keeps its measured time, however wrong the profile is about it.
    void a_pass_that_stays_alike_keeps_its_time() {
        const DeviceProfile profile = *find_profile("handheld");
        PricedDevice device(profile, 1.0);
        const Setup now = on_path("deferred");
        PassTimes measured = timed(device, now);
        measured["sky"] *= 50; // nothing of the profile says so
        const auto f = foresee(profile, counted(device, now), measured, counted(device, on_path("tiled-deferred")));
        QVERIFY(f.has_value());
        for (const ForeseenPass& p : f->passes) {
            if (p.name == "sky" || p.name == "g-buffer") {
                QVERIFY(!p.changed);
                QCOMPARE(p.ms, measured.at(p.name));
            }
            if (p.name == "culling") QVERIFY(p.changed && p.wasMs == 0);
        }
        const auto same = foresee(profile, counted(device, now), measured, counted(device, now));
        QVERIFY(same && !same->shown());
        QVERIFY(std::abs(same->ms - sum(measured)) < 1e-9 * sum(measured));
        QVERIFY(foresight_words(*same).find("no difference") != std::string::npos);
    }

    void a_miss_names_the_pass_and_its_terms() {
        const DeviceProfile profile = *find_profile("handheld");
        PricedDevice device(profile, 1.0);
        const Setup now = on_path("forward"), next = on_path("deferred");
        const auto f = foresee(profile, counted(device, now), timed(device, now), counted(device, next));
        QVERIFY(f.has_value());
        PassTimes measured = timed(device, next);
        measured["shading"] = measured["shading"] * 3 + 100;
        const std::string said = foresight_miss(*f, measured);
        QVERIFY2(said.find("shading") != std::string::npos, said.c_str());
        for (const ForeseenPass& p : f->passes)
            if (p.name == "shading")
                for (const std::string& term : p.dearest)
                    QVERIFY2(find_term(term) && said.find(term) != std::string::npos, said.c_str());
    }

    void what_cannot_be_foreseen_is_said() {
        DeviceProfile profile = *find_profile("handheld");
        PricedDevice device(profile, 1.0);
        const Setup now = on_path("forward");
        QVERIFY(!foresee(profile, counted(device, now), {}, counted(device, now)));
        profile.ns.erase("fragment");
        const auto f = foresee(profile, counted(device, now), timed(device, now), counted(device, now));
        QVERIFY(!f && f.error().what.find("fragment") != std::string::npos);
    }

    void the_check_finds_every_sign_on_a_device_that_pays_as_priced() {
        DeviceProfile profile = *find_profile("handheld");
        PricedDevice device(profile, 0.6);
        int told = 0;
        const auto c = check_foresight(device, profile, scene_, Setup(), view_, {}, 24, 3, [&](int) {
            ++told;
            return true;
        });
        QVERIFY(c.has_value());
        QCOMPARE(c->changes.size(), std::size_t(24));
        QCOMPARE(told, 24);
        QVERIFY2(c->shown > 12 && c->right == c->shown, qPrintable(QString("%1 %2").arg(c->shown).arg(c->right)));
        QVERIFY(c->medianError < 1e-9 && c->within == 1.0);
        const std::string page = foresight_markdown(*c, profile);
        for (const CheckedChange& x : c->changes)
            QVERIFY(page.find(x.change) != std::string::npos);
        const auto again = check_foresight(device, profile, scene_, Setup(), view_, {}, 24, 3, {});
        for (std::size_t i = 0; i < 24; ++i)
            QCOMPARE(again->changes[i].change, c->changes[i].change); // seeded
        const auto stopped =
            check_foresight(device, profile, scene_, Setup(), view_, {}, 24, 3, [](int i) { return i < 2; });
        QCOMPARE(stopped->changes.size(), std::size_t(2));
    }

    void a_devices_own_profile_is_kept_and_found_by_its_names() {
        QTemporaryDir folder;
        qputenv("XDG_DATA_HOME", folder.path().toUtf8());
        const DeviceInfo one{"a", "b", "c", "", {}}, other{"a", "b", "d", "", {}};
        QVERIFY(!own_profile(one));
        QVERIFY(own_profile(one).error().remedy.find("calibrate") != std::string::npos);
        QVERIFY(keep_own_profile(one, *find_profile("desktop")).has_value());
        QCOMPARE(own_profile(one)->ns, find_profile("desktop")->ns);
        QVERIFY(!own_profile(other));
        qunsetenv("XDG_DATA_HOME");
    }
};

MIROLUX_TEST(foresight_test)
#include "foresight_test.moc"
