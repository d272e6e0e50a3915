#include "core/base/error.h"
#include "support/test_main.h"
#include <QFileInfo>
#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

using nlohmann::json;
using namespace mirolux;

/// Flat stages by the command line, as scripts ask for them.
class flat_cli_test : public QObject {
    Q_OBJECT
    struct Ran {
        int code;
        std::string out, err;
        json document() const { return json::parse(out); }
    };
    static Ran run(const QString& command, const QString& scene, const QStringList& more,
                   const QStringList& size = {"--size", "160x90"}) {
        QProcess p;
        const QString file = QFileInfo(MIROLUX_DEMO).dir().filePath(scene);
        QStringList words;
        words << command;
        if (command == "audit") words << "truth";
        words << file;
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli", words + size + more);
        if (!p.waitForFinished(200000)) return {-1, "", "did not finish"};
        return {p.exitCode(), p.readAllStandardOutput().toStdString(), p.readAllStandardError().toStdString()};
    }

private slots:
    void info_tells_what_the_stage_holds() {
        const Ran r = run("info", "tide-gate.mirolux", {"--json", "-"}, {});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = r.document();
        QCOMPARE(j["stage"].get<std::string>(), std::string("flat"));
        QCOMPARE(j["seen"].get<std::string>(), std::string("side"));
        QVERIFY(j["layers"].size() == 6 && j["sprites"].size() > 15 && j["walls"].size() >= 8);
        QVERIFY(j["lights"].size() == 10 && j["warnings"].empty());
        const Ran text = run("info", "net-loft.json", {}, {});
        QVERIFY(text.out.find("(Flat)") != std::string::npos && text.out.find("\"WAY OUT\"") != std::string::npos);
    }

    void ways_are_rendered_measured_and_walked() {
        QTemporaryDir folder;
        for (const char* kind : {"cut", "mask", "compute", "grade", "cascades"}) {
            const QString picture = folder.filePath(QString(kind) + ".png");
            const Ran r =
                run("render", "net-loft.mirolux", {"-o", picture, "--set", QString("flat.kind=%1").arg(kind)});
            QVERIFY2(r.code == 0 && QFileInfo(picture).size() > 2000, r.err.c_str());
        }
        const Ran layers =
            run("render", "tide-gate.mirolux", {"--layers", folder.filePath("layers"), "--light", "lamp 2"});
        QVERIFY2(layers.code == 0, layers.err.c_str());
        for (const char* layer : {"final", "unlit", "glow", "lightmask", "lamplight"})
            QVERIFY2(QFileInfo::exists(folder.filePath(QString("layers/%1.png").arg(layer))), layer);
        const json m = run("measure", "net-loft.mirolux", {"--rounds", "5", "--json", "-", "--against", "mask.scale=4"})
                           .document();
        QStringList names;
        for (const json& p : m["passes"])
            names << QString::fromStdString(p["name"].get<std::string>());
        QCOMPARE(names, QStringList({"sprites", "lights", "multiply", "finish"}));
        QVERIFY(m["passes"][1]["work"]["lightEvaluations"].get<int>() > 10000);
        QVERIFY(m["comparison"]["ratio"].get<double>() > 0);
        const json w = run("walk", "tide-gate.mirolux",
                           {"--walk", "across the stage", "--every", "60", "--sweeps", "1", "--json", "-"})
                           .document();
        QVERIFY(w.dump().find("p95") != std::string::npos);
        const json plan = run("plan", "net-loft.mirolux", {"--set", "flat.kind=compute", "--json", "-"}).document();
        QVERIFY(plan.dump().find("compute lights") != std::string::npos);
    }

    void a_pixel_and_the_ledger_name_lights_and_walls() {
        int walls = 0;
        for (const auto& [x, y] : {std::pair("34", "36"), {"95", "52"}, {"30", "33"}, {"120", "60"}}) {
            const Ran r = run("pixel", "net-loft.mirolux", {x, y, "--json", "-"});
            QVERIFY2(r.code == 0, r.err.c_str());
            const json j = r.document();
            QVERIFY2(j["difference"].get<double>() < 0.02, j.dump().c_str());
            for (const json& l : j["surfaces"][0]["lights"])
                walls += !l["occluder"].get<std::string>().empty();
        }
        QVERIFY(walls > 0);
        const json ledger = run("ledger", "tide-gate.mirolux", {"--rounds", "1", "--json", "-"}).document();
        double share = 0;
        for (const json& l : ledger["lights"])
            share += l["costShare"].get<double>();
        QVERIFY(ledger["lights"].size() == 10 && std::abs(share - 1) < 1e-3);
    }

    /// Every way against the path tracer in the plane: light that travels is nearest to it.
    void truth_is_traced_and_every_way_is_held_against_it() {
        QTemporaryDir folder;
        const QString picture = folder.filePath("truth.exr");
        const Ran traced =
            run("truth", "net-loft.mirolux",
                {"-o", picture, "--samples", "16", "--layer", "light", "--fresh", "--forget", "--json", "-"},
                {"--size", "96x54"});
        QVERIFY2(traced.code == 0 && QFileInfo(picture).size() > 5000, traced.err.c_str());
        QVERIFY(traced.document()["samples"] == 16 && traced.document()["rays"].get<double>() > 1e5);
        std::map<std::string, double> means;
        for (const char* kind : {"cut", "mask", "grade", "cascades"}) {
            const Ran r = run("audit", "net-loft.mirolux",
                              {"--samples", "64", "--set", QString("flat.kind=%1").arg(kind), "--set",
                               "cascades2d.scale=1", "--set", "cascades2d.bounces=2", "--json", "-"},
                              {"--size", "96x54"});
            QVERIFY2(r.code == 0, r.err.c_str());
            means[kind] = r.document()["mean"].get<double>();
        }
        QVERIFY2(means["cascades"] < 0.2 && means["cascades"] < 0.5 * means["mask"] &&
                     means["cascades"] < 0.5 * means["cut"] && means["cascades"] < 0.5 * means["grade"],
                 qPrintable(QString("cascades %1, mask %2, cut %3, grade %4")
                                .arg(means["cascades"])
                                .arg(means["mask"])
                                .arg(means["cut"])
                                .arg(means["grade"])));
        const Ran gate = run("audit", "net-loft.mirolux", {"--samples", "8", "--gate", "0.01"}, {"--size", "48x27"});
        QCOMPARE(gate.code, 3);
        const Ran no = run("truth", "net-loft.mirolux", {"-o", picture, "--layer", "mirror"});
        QVERIFY(no.code == 2 && no.err.find("light") != std::string::npos);
        const Ran clamped = run("truth", "net-loft.mirolux", {"-o", picture, "--clamp", "3"});
        QVERIFY(clamped.code == 2 && clamped.err.find("--clamp") != std::string::npos);
    }

    void a_pixel_of_light_that_travels_names_lamps_and_walls() {
        int walls = 0, thrown = 0;
        for (const auto& [x, y] : {std::pair("34", "36"), {"95", "52"}, {"120", "30"}}) {
            const Ran r = run("pixel", "net-loft.mirolux",
                              {x, y, "--set", "flat.kind=cascades", "--set", "cascades2d.scale=1", "--json", "-"});
            QVERIFY2(r.code == 0, r.err.c_str());
            const json j = r.document();
            QVERIFY2(j["difference"].get<double>() < 0.3, j.dump().c_str());
            for (const json& l : j["surfaces"][0]["lights"])
                walls += !l["occluder"].get<std::string>().empty();
            thrown += j["surfaces"][0].dump().find("what walls send and throw back") != std::string::npos;
        }
        QVERIFY(walls > 0 && thrown == 3);
        const json ledger =
            run("ledger", "net-loft.mirolux", {"--rounds", "1", "--set", "flat.kind=cascades", "--json", "-"})
                .document();
        double share = 0;
        for (const json& l : ledger["lights"])
            share += l["contributionShare"].get<double>();
        QVERIFY2(share > 0.5 && share < 3, qPrintable(QString::number(share))); // before it is held to 1
    }

    void what_is_wrong_is_told_with_its_place() {
        QTemporaryDir folder;
        QFile file(folder.filePath("broken.json"));
        QVERIFY(file.open(QFile::WriteOnly));
        file.write(R"({"stage": "flat", "version": 1, "sheets": [{"name": "a", "file": "gone.png"}]})");
        file.close();
        const Ran r = run("info", folder.filePath("broken.json"), {}, {});
        QCOMPARE(r.code, 2);
        QVERIFY(r.err.find("#/sheets/0/file") != std::string::npos && r.err.find("gone.png") != std::string::npos);
        for (const char* command : {"sky", "bias", "audit"}) { // of Solid scenes only
            QProcess p;
            QStringList all{command};
            if (command == std::string("audit")) all << "lists";
            p.start(QString(MIROLUX_BIN) + "/mirolux-cli",
                    all + QStringList{QFileInfo(MIROLUX_DEMO).dir().filePath("net-loft.mirolux")});
            QVERIFY(p.waitForFinished(60000));
            QCOMPARE(p.exitCode(), 2);
            QVERIFY2(p.readAllStandardError().contains("Solid scenes only"), command);
        }
        const Ran wrong = run("render", "net-loft.mirolux", {"-o", "x.png", "--set", "mask.scale=3"});
        QVERIFY(wrong.code == 2 && wrong.err.find("16") != std::string::npos);
    }
};

MIROLUX_TEST(flat_cli_test)
#include "flat_cli_test.moc"
