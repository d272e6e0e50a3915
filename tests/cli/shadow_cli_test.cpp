#include "core/base/error.h"
#include "support/test_main.h"
#include <QtTest>
#include <nlohmann/json.hpp>

using nlohmann::json;
using namespace mirolux;

/// audit shadows, bias and what else scripts ask of shadows.
class shadow_cli_test : public QObject {
    Q_OBJECT
    struct Ran {
        int code;
        std::string out, err;
    };
    static Ran run(const QStringList& arguments) {
        QProcess p;
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli", arguments);
        if (!p.waitForFinished(200000)) return {-1, "", "did not finish"};
        return {p.exitCode(), p.readAllStandardOutput().toStdString(), p.readAllStandardError().toStdString()};
    }
    static Ran with_demo(QStringList command, const QStringList& more) {
        return run(command << MIROLUX_DEMO << "--size"
                           << "160x90"
                           << "--set"
                           << "shadow.maps=on"
                           << "--json"
                           << "-" << more);
    }

private slots:
    /// The fixed fields, of all and of each light; lights without a map are told and not judged.
    void audits_tell_missed_false_and_edge() {
        const Ran r = with_demo({"audit", "shadows"}, {"--set", "shadow.casters=3", "--every", "2"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QCOMPARE(j["schema"].get<std::string>(), std::string("mirolux.auditShadows"));
        QCOMPARE(j["lights"].size(), std::size_t(3));
        QVERIFY(j["unmapped"].size() > 50);
        double pairs = 0, missed = 0;
        std::uint64_t edge = 0;
        for (const json& l : j["lights"]) {
            QVERIFY(l["name"].is_string() && l["false"].get<double>() >= 0 && l["penumbraError"].get<double>() >= 0);
            pairs += l["pairs"].get<double>();
            missed += l["missed"].get<double>() * l["pairs"].get<double>();
            edge += l["edge"].get<std::uint64_t>();
        }
        QVERIFY(pairs > 1000 && std::abs(missed / pairs - j["missed"].get<double>()) < 1e-9);
        QCOMPARE(edge, j["edge"].get<std::uint64_t>());
        QVERIFY(j["missed"].get<double>() < 0.03 && j["false"].get<double>() < 0.02);
        // Without any bias much is shadowed falsely.
        const Ran bare =
            with_demo({"audit", "shadows"}, {"--set", "shadow.casters=3", "--every", "2", "--set", "shadow.bias=0",
                                             "--set", "shadow.slopeBias=0", "--set", "shadow.normalOffset=0"});
        QVERIFY(json::parse(bare.out)["false"].get<double>() > 4 * j["false"].get<double>());
    }

    void the_bias_of_one_light_is_found() {
        const Ran r = with_demo({"bias"}, {"--light", "moon", "--false", "0.01", "--set", "shadow.casters=1"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QVERIFY(j["under"].get<bool>() && j["false"].get<double>() <= 0.01);
        QVERIFY(j["missed"].get<double>() <= j["before"]["missed"].get<double>() + 1e-9);
        QVERIFY(j["front"].size() > 1 && j["tried"].get<int>() > 10);
    }

    /// A lamp of the yard as two spots: six maps become two, and the difference is told both ways.
    void a_point_is_tried_as_spots() {
        const Ran r = run({"spots", MIROLUX_DEMO, "--camera", "container yard", "--light", "yard hanging lamp 05",
                           "--count", "2", "--rounds", "3", "--size", "160x90", "--set", "shadow.maps=on", "--set",
                           "shadow.casters=24", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json t = json::parse(r.out)["trials"].at(0);
        QVERIFY(t["mapsBefore"] == 6 && t["mapsAfter"] == 2 && t["spots"].size() == 2 && t["casters"] == 25);
        QVERIFY(t["covered"].get<double>() > 0.5 && t["doubled"].get<double>() < 0.05);
        QVERIFY(t["differ"].get<double>() > 0 && t["differ"].get<double>() < 0.5);
        QVERIFY(t["frame"]["ratio"].get<double>() > 0 && t["maps"]["ratio"].get<double>() > 0);
        const Ran sun = run({"spots", MIROLUX_DEMO, "--light", "moon", "--set", "shadow.maps=on"});
        QVERIFY2(sun.code == 2 && sun.err.find("point light") != std::string::npos, sun.err.c_str());
    }

    void bad_input_is_named() {
        const Ran off = run({"audit", "shadows", MIROLUX_DEMO, "--set", "shadow.maps=off"});
        QVERIFY(off.code == 2 && off.err.find("shadow.maps=on") != std::string::npos);
        const Ran nobody = with_demo({"bias"}, {"--light", "no such lamp", "--set", "shadow.casters=1"});
        QVERIFY(nobody.code == 2 && nobody.err.find("no such lamp") != std::string::npos);
        QVERIFY(run({"plan", MIROLUX_DEMO, "--set", "shadow.filter=fuzzy"}).code == 2);
    }

    /// The pixel's account names what stands between.
    void accounts_name_what_stands_between() {
        std::size_t named = 0;
        for (const char* x : {"300", "330", "360", "200"}) {
            const Ran r = run({"pixel", MIROLUX_DEMO, x, "300", "--size", "640x360", "--camera", "container yard",
                               "--set", "shadow.maps=on", "--json", "-"});
            QVERIFY2(r.code == 0, r.err.c_str());
            const json j = json::parse(r.out);
            QVERIFY(j["difference"].get<double>() < 0.02);
            for (const json& s : j["surfaces"])
                for (const json& l : s["lights"])
                    named += !l["occluder"].get<std::string>().empty() && l["factors"]["shadow"][0].get<double>() < 1;
        }
        QVERIFY(named > 2);
    }
};

MIROLUX_TEST(shadow_cli_test)
#include "shadow_cli_test.moc"
