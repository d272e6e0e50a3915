#include "core/motion/scene_at.h"
#include "core/scene/project.h"
#include "support/command_line.h"
#include "support/test_main.h"
#include <QFileInfo>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

using nlohmann::json;
using namespace mirolux::test;
using namespace mirolux;

/// What moves, and what is written anew, by the command line.
class motion_cli_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    static Ran run(const QStringList& words) { return run_cli(words); }

private slots:
    void info_tells_where_nodes_stand_at_a_time() {
        const auto open = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY(open.has_value());
        json first;
        for (const double t : {0.0, 2.5, 17.0}) {
            const Ran r = run({"info", MIROLUX_DEMO, "--time", QString::number(t), "--json", "-"});
            QVERIFY2(r.code == 0, r.err.c_str());
            const json j = json::parse(r.out);
            QCOMPARE(j["animations"].size(), open->asset->rig->clips.size());
            for (const json& a : j["animations"])
                QVERIFY(a["name"].is_string() && a["seconds"].get<double>() > 1 && a["channels"].get<int>() > 0);
            const auto pose = make_pose(*open->asset->rig, usual_clips(*open->asset->rig), t);
            QCOMPARE(j["nodes"].size(), pose->world.size());
            for (std::size_t n = 0; n < pose->world.size(); ++n) {
                QCOMPARE(j["nodes"][n]["name"].get<std::string>(), open->asset->rig->nodes[n].name);
                QCOMPARE(j["nodes"][n]["matrix"].size(), std::size_t(16));
                for (int k = 0; k < 16; ++k)
                    QVERIFY(std::abs(j["nodes"][n]["matrix"][std::size_t(k)].get<double>() -
                                     pose->world[n][k / 4][k % 4]) < 1e-9);
            }
            if (t == 0)
                first = j["nodes"];
            else
                QVERIFY(first != j["nodes"]);
        }
    }

    void clips_are_chosen_by_name() {
        const Ran r = run({"info", MIROLUX_DEMO, "--clip", "gulls", "--clip", "crane=0.5", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        int on = 0;
        const json told = json::parse(r.out);
        for (const json& a : told["animations"]) {
            on += a["plays"].get<bool>();
            if (a["plays"].get<bool>()) QVERIFY(a["name"] == "gulls" || a["name"] == "crane");
        }
        QCOMPARE(on, 2);
        const Ran odd = run({"info", MIROLUX_DEMO, "--clip", "waltz"});
        QCOMPARE(odd.code, 2);
        QVERIFY2(odd.err.find("waltz") != std::string::npos && odd.err.find("dockhand") != std::string::npos,
                 odd.err.c_str());
        QCOMPARE(run({"info", MIROLUX_DEMO, "--variant", "old"}).code, 2);
    }

    void the_plan_bends_first_or_not_at_all() {
        const auto passes = [&](const QString& way) {
            const Ran r = run({"plan", MIROLUX_DEMO, "--set", "geometry.skinning=" + way, "--json", "-"});
            return r.code == 0 ? json::parse(r.out)["passes"] : json::array();
        };
        QCOMPARE(passes("compute")[0]["name"].get<std::string>(), std::string("skinning"));
        for (const json& p : passes("vertex"))
            QVERIFY(p["name"] != "skinning");
        QVERIFY(passes("vertex").size() + 1 == passes("compute").size());
    }

    void what_an_object_costs_is_measured_without_it() {
        const Ran r = run({"measure", MIROLUX_DEMO, "--size", "96x54", "--rounds", "3", "--without", "container*",
                           "--camera", "container yard", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QVERIFY(j["without"]["objects"].get<int>() > 20);
        QVERIFY(j["without"]["shareOver"].get<double>() > 0.1 && j["without"]["meanRelative"].get<double>() > 0.01);
        QVERIFY(j["comparison"]["ratio"].get<double>() > 0);
        QCOMPARE(run({"measure", MIROLUX_DEMO, "--without", "unicorn"}).code, 2);
    }

    void a_scene_is_exported_and_opens_again() {
        const QString file = folder_.filePath("quay.glb");
        const Ran r =
            run({"export", MIROLUX_DEMO, "-o", file, "--move", "figurehead=0,1,0", "--hide", "buoy", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QCOMPARE(j["bytes"].get<qint64>(), QFileInfo(file).size());
        QVERIFY(r.err.find("hidden") != std::string::npos && !j["warnings"].empty());
        const Ran again = run({"info", file, "--json", "-"});
        QVERIFY2(again.code == 0, again.err.c_str());
        const json was = json::parse(run({"info", MIROLUX_DEMO, "--json", "-"}).out), is = json::parse(again.out);
        QVERIFY(is["objects"].size() < was["objects"].size());
        QCOMPARE(is["lights"].size(), was["lights"].size());
        QCOMPARE(is["cameras"].size(), was["cameras"].size());
        QCOMPARE(is["animations"].size(), was["animations"].size());
        // Refusals, each with its remedy.
        QCOMPARE(run({"export", MIROLUX_DEMO, "-o", folder_.filePath("quay.obj")}).code, 2);
        QCOMPARE(run({"export", MIROLUX_DEMO, "-o", "/no/such/folder/x.glb"}).code, 2);
        const Ran flat = run(
            {"export", QFileInfo(MIROLUX_DEMO).dir().filePath("tide-gate.mirolux"), "-o", folder_.filePath("f.glb")});
        QCOMPARE(flat.code, 2);
    }
};

MIROLUX_TEST(motion_cli_test)
#include "motion_cli_test.moc"
