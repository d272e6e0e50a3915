#include "support/command_line.h"
#include "support/test_main.h"
#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace mirolux::test;
using nlohmann::json;

/// Light maps from the command line.
class light_map_cli_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString store() const { return folder_.filePath("cold-store.mirolux"); }

private slots:
    void initTestCase() {
        const QDir demo = QFileInfo(MIROLUX_DEMO).dir();
        for (const char* name : {"cold-store.mirolux", "cold-store.glb"})
            QVERIFY(QFile::copy(demo.filePath(name), folder_.filePath(name)));
    }

    void a_map_is_baked_stopped_and_gone_on_with() {
        const QStringList words = {"bake",      store(), "--what",    "lightmap", "--density", "1",
                                   "--samples", "2",     "--bounces", "1",        "--json",    "-"};
        const Ran first = run_cli(words + QStringList{"--for", "0.05"});
        QVERIFY2(first.code == 0, first.err.c_str());
        const json a = json::parse(first.out);
        QCOMPARE(a["schema"].get<std::string>(), std::string("mirolux.bake"));
        QVERIFY(a["complete"] == false && a["done"] > 0 && a["done"] < a["texels"]);
        QVERIFY(a["surfaces"] > 300 && a["filled"] > 0.2 && a["stretch"] < 2.01);
        const Ran second = run_cli(words);
        QVERIFY2(second.code == 0, second.err.c_str());
        const json b = json::parse(second.out);
        QVERIFY(b["complete"] == true && b["done"] == b["texels"]);
        QCOMPARE(b["found"].get<std::size_t>(), b["texels"].get<std::size_t>() - a["done"].get<std::size_t>());
        for (const json& file : b["files"])
            QVERIFY(QFile::exists(QString::fromStdString(file.get<std::string>())));
    }

    /// Probes are computed, stopped and gone on with, and held against paths; without any, that is told.
    void probes_are_computed_and_audited() {
        const QStringList audit = {"audit",     "probes", store(),  "--set", "grid.bounces=0", "--places", "50",
                                   "--samples", "4",      "--json", "-"};
        const Ran none = run_cli(audit);
        QVERIFY2(none.code == 2 && none.err.find("No probes in space") != std::string::npos, none.err.c_str());
        const Ran made = run_cli({"bake", store(), "--what", "probes", "--spacing", "8", "--samples", "16", "--bounces",
                                  "0", "--json", "-"});
        QVERIFY2(made.code == 0, made.err.c_str());
        const json a = json::parse(made.out);
        QVERIFY(a["complete"] == true && a["done"] == a["probes"] && a["probes"] > 50);
        const Ran held = run_cli(audit);
        QVERIFY2(held.code == 0, held.err.c_str());
        const json rows = json::parse(held.out)["rows"];
        QCOMPARE(rows.size(), std::size_t(2)); // both orders
        QVERIFY(rows[0]["with"]["places"] > 20 && rows[0]["bytes"] > rows[1]["bytes"]);
    }

    void bad_input_is_told() {
        for (const auto& [words, named] :
             {std::pair(QStringList{"bake", store(), "--what", "lightmap", "--density", "0"}, "--density"),
              {QStringList{"bake", store(), "--what", "lightmap", "--density", "900"}, "16384"},
              {QStringList{"bake", store(), "--what", "lightmap", "--samples", "0"}, "--samples"}}) {
            const Ran r = run_cli(words);
            QVERIFY2(r.code == 2 && r.err.find(named) != std::string::npos, r.err.c_str());
        }
    }
};

MIROLUX_TEST(light_map_cli_test)
#include "light_map_cli_test.moc"
