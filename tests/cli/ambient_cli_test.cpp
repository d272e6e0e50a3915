#include "support/test_main.h"
#include <QtTest>
#include <nlohmann/json.hpp>

using nlohmann::json;

/// audit occlusion and audit reflections, and what pixel says of both.
class ambient_cli_test : public QObject {
    Q_OBJECT
    struct Ran {
        int code;
        std::string out, err;
    };
    static Ran with_demo(QStringList command, const QStringList& more) {
        QProcess p;
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli", command << MIROLUX_DEMO << more);
        if (!p.waitForFinished(200000)) return {-1, "", "did not finish"};
        return {p.exitCode(), p.readAllStandardOutput().toStdString(), p.readAllStandardError().toStdString()};
    }

private slots:
    void occlusion_is_held_against_rays() {
        const QStringList small = {"--size", "160x90", "--every", "4", "--rays", "32", "--json", "-"};
        const Ran r = with_demo({"audit", "occlusion"}, small + QStringList{"--set", "occlusion.kind=horizon"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QCOMPARE(j["schema"].get<std::string>(), std::string("mirolux.auditOcclusion"));
        QVERIFY(j["pixels"].get<int>() > 300 && j["mean"].get<double>() < 0.15);
        QVERIFY(j["p95"].get<double>() <= j["worst"].get<double>() && j["tracedOpen"].get<double>() < 1);
        const Ran none = with_demo({"audit", "occlusion"}, small);
        QCOMPARE(none.code, 2);
        QVERIFY(none.err.find("occlusion.kind") != std::string::npos);
    }

    void reflections_are_held_against_mirrored_rays() {
        const QStringList small = {"--size", "160x90", "--every", "2", "--json", "-"};
        const Ran r = with_demo({"audit", "reflections"}, small + QStringList{"--setup", "wet quay"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QCOMPARE(j["schema"].get<std::string>(), std::string("mirolux.auditReflections"));
        const double right = j["right"].get<double>(), wrong = j["wrong"].get<double>(), none = j["none"].get<double>();
        QVERIFY(j["asked"].get<int>() > 300 && std::abs(right + wrong + none - 1) < 1e-9);
        QVERIFY(right > 0.05 && wrong < 0.15);
        QCOMPARE(with_demo({"audit", "reflections"}, small).code, 2);
    }

    void a_pixel_says_what_the_screen_answered() {
        const Ran r = with_demo({"pixel"}, {"100", "60", "--size", "160x90", "--setup", "wet quay", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        for (const json& s : j["surfaces"]) {
            QVERIFY(s["screenOcclusion"].get<double>() <= 1 && s["bakedOcclusion"].get<double>() <= 1);
            QVERIFY(s["reflected"].size() == 3 && (s["screenAnswer"].is_null() || s["screenAnswer"].is_string()));
        }
        QVERIFY(!j["surfaces"].empty());
    }
};

MIROLUX_TEST(ambient_cli_test)
#include "ambient_cli_test.moc"
