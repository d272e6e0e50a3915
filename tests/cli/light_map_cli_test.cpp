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

    /// Probes in the middles of objects, in place of a grid.
    void probes_are_placed_by_hand() {
        const QStringList words = {"bake",      store(), "--what", "probes",           "--spacing", "4",
                                   "--samples", "4",     "--set",  "grid.at=crate 0*", "--json",    "-"};
        const Ran made = run_cli(words);
        QVERIFY2(made.code == 0, made.err.c_str());
        const json a = json::parse(made.out);
        QVERIFY(a["placed"] == true && a["probes"] >= 1 && a["probes"] <= 256 && a["count"][1] == 1);
        const Ran held = run_cli({"audit", "probes", store(), "--places", "20", "--samples", "2", "--json", "-"});
        QVERIFY2(held.code == 0, held.err.c_str());
        bool found = false;
        const json rows = json::parse(held.out)["rows"];
        for (const json& row : rows)
            found = found || (row["placed"] == true && row["probes"] == a["probes"]);
        QVERIFY(found);
    }

    /// Masks, occlusion by texel and by vertex, and patches: stopped and gone on with like the others; frames read
    /// them.
    void masks_occlusion_and_patches_are_baked_and_read() {
        for (const auto& [what, places, more] :
             {std::tuple(QStringList{"shadowmask", "--samples", "4"}, "texels", QStringList{}),
              {QStringList{"occlusion", "--samples", "4"}, "texels", QStringList{}},
              {QStringList{"occlusion", "--samples", "4"}, "vertices",
               QStringList{"--set", "occlusion.baked=vertices"}},
              {QStringList{"patches", "--samples", "64"}, "patches", QStringList{"--set", "patches.rest=20"}}}) {
            const QStringList words =
                QStringList{"bake", store(), "--density", "1", "--json", "-", "--what"} + what + more;
            const Ran first = run_cli(words + QStringList{"--for", "0.02"});
            QVERIFY2(first.code == 0, first.err.c_str());
            const json a = json::parse(first.out);
            const Ran second = run_cli(words);
            QVERIFY2(second.code == 0, second.err.c_str());
            const json b = json::parse(second.out);
            QVERIFY2(b["complete"] == true && b[places] > 500, second.out.c_str());
            QVERIFY2(what[0] == "patches" ||
                         b["found"].get<std::size_t>() + a["done"].get<std::size_t>() == b["done"].get<std::size_t>(),
                     second.out.c_str());
            QVERIFY(QFile::exists(QString::fromStdString(b["file"].get<std::string>())));
            if (what[0] == "shadowmask")
                QVERIFY(b["lamps"].size() > 50 && b["sheets"] >= 1 && b["withoutChannel"] == 0);
            if (what[0] == "patches") QVERIFY(b["shots"] > 10 && b["unshot"] <= 0.2);
        }
        const auto passes = [&](const QStringList& set) {
            const Ran r = run_cli(QStringList{"plan", store(), "--json", "-"} + set);
            if (r.code != 0) qFatal("%s", r.err.c_str());
            return json::parse(r.out);
        };
        const auto resource = [](const json& plan, const std::string& name) {
            return plan.dump().find("\"" + name + "\"") != std::string::npos;
        };
        const json plain = passes({}), read = passes({"--set", "shadow.baked=on", "--set", "occlusion.baked=texture"});
        QVERIFY(!resource(plain, "baked masks") && !resource(plain, "baked occlusion"));
        QVERIFY(resource(read, "baked masks") && resource(read, "baked occlusion"));
        QVERIFY(resource(passes({"--set", "occlusion.baked=vertices"}), "vertex occlusion"));
        QVERIFY(resource(passes({"--set", "indirect.kind=lightmap", "--set", "lightmap.source=patches"}), "light map"));
    }

    /// Every way of keeping a map, against the best: bytes fall, highlights are kept by directions alone.
    void ways_of_keeping_are_audited() {
        const QStringList words = {"audit", "lightmap", store(), "--size", "96x54", "--json", "-"};
        QVERIFY(run_cli({"bake", store(), "--what", "lightmap", "--density", "0.5", "--samples", "1", "--bounces", "0"})
                    .code == 0);
        const Ran r = run_cli(words + QStringList{"--reference", "4", "--set", "lightmap.bounces=0"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json all = json::parse(r.out), rows = all["rows"];
        QVERIFY(all["reference"] == 4 && all["referenceNoise"].is_number());
        QVERIFY(rows.size() >= 12);
        for (const json& row : rows) {
            QVERIFY(row["bytes"] > 0);
            const bool held = row["bounces"] == 0; // the reference has as many as the settings
            QCOMPARE(row.contains("live"), held);
            if (held) {
                const double mean = row["live"]["mean"], coarse = row["live"]["coarse"], bias = row["live"]["bias"];
                QVERIFY(mean >= coarse && coarse >= std::abs(bias) && mean > 0 && mean < 1);
            }
            if (row["store"] == "half" && row["density"] == rows[0]["density"])
                QVERIFY(row["kind"] == "plain" ? row["highlightKept"] < rows[0]["highlightKept"]
                                               : row["highlightKept"] > 0);
        }
    }

    void bad_input_is_told() {
        for (const auto& [words, named] :
             {std::pair(QStringList{"bake", store(), "--what", "lightmap", "--density", "0"}, "--density"),
              {QStringList{"bake", store(), "--what", "lightmap", "--density", "900"}, "16384"},
              {QStringList{"bake", store(), "--what", "lightmap", "--samples", "0"}, "--samples"},
              {QStringList{"bake", store(), "--what", "shadowmask", "--density", "900"}, "16384"},
              {QStringList{"bake", store(), "--what", "probes", "--set", "grid.within=a box that is not there"},
               "grid.within"},
              {QStringList{"bake", store(), "--what", "probes", "--set", "grid.at=a ball that is not there"},
               "grid.at"}}) {
            const Ran r = run_cli(words);
            QVERIFY2(r.code == 2 && r.err.find(named) != std::string::npos, r.err.c_str());
        }
    }
};

MIROLUX_TEST(light_map_cli_test)
#include "light_map_cli_test.moc"
