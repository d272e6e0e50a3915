#include "support/command_line.h"
#include "support/test_main.h"
#include <QtTest>
#include <filesystem>
#include <nlohmann/json.hpp>

using namespace mirolux::test;
using nlohmann::json;

/// bake and audit visibility, doors and steps of a walk, as scripts run them.
class visibility_cli_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString store() const { return folder_.filePath("cold-store.mirolux"); }

private slots:
    void initTestCase() {
        const auto from = std::filesystem::path(MIROLUX_DEMO).parent_path();
        for (const char* name : {"cold-store.mirolux", "cold-store.glb"})
            std::filesystem::copy_file(from / name, folder_.filePath(name).toStdString());
    }

    void a_bake_is_stopped_and_goes_on() {
        const QStringList words = {"bake",   store(),
                                   "--what", "visibility",
                                   "--set",  "visibility.kind=cells",
                                   "--set",  "visibility.patch=1.5",
                                   "--set",  "visibility.aimed=64",
                                   "--json", "-"};
        const Ran some = run_cli(words + QStringList{"--for", "0.2"});
        QVERIFY2(some.code == 0, some.err.c_str());
        const json first = json::parse(some.out);
        QCOMPARE(first["schema"].get<std::string>(), std::string("mirolux.bake"));
        QVERIFY(!first["complete"].get<bool>() && first["done"] > 0 && first["done"] < first["cells"]);
        const Ran all = run_cli(words);
        QVERIFY2(all.code == 0, all.err.c_str());
        const json then = json::parse(all.out);
        QVERIFY(then["complete"].get<bool>());
        QCOMPARE(then["found"].get<int>() + first["done"].get<int>(), then["cells"].get<int>());
        QCOMPARE(then["file"], first["file"]);
        QVERIFY(then["meanSeen"].get<double>() < 0.3 * then["objects"].get<double>());
        // A damaged file is named and set aside.
        QFile file(QString::fromStdString(then["file"].get<std::string>()));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("nothing");
        file.close();
        const Ran again = run_cli(words + QStringList{"--for", "0.1"});
        QVERIFY2(again.code == 0 && again.err.find("set aside") != std::string::npos, again.err.c_str());
        QVERIFY(QFile::exists(file.fileName() + ".damaged"));
    }

    void what_is_left_out_is_audited() {
        const Ran rooms =
            run_cli({"bake", store(), "--what", "visibility", "--set", "visibility.kind=portals", "--json", "-"});
        QVERIFY2(rooms.code == 0, rooms.err.c_str());
        QCOMPARE(json::parse(rooms.out)["rooms"]["rooms"].get<int>(), 60);
        const Ran r = run_cli({"audit", "visibility", store(), "--along", "--every", "25", "--headings", "2", "--size",
                               "160x90", "--kind", "portals", "--kind", "depth", "--kind", "frustum", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QCOMPARE(j["schema"].get<std::string>(), std::string("mirolux.auditVisibility"));
        for (const char* field : {"missing", "surplus", "drawn", "objects"})
            QVERIFY2(j[field].is_number(), field);
        QCOMPARE(j["audits"].size(), std::size_t(3));
        for (const json& a : j["audits"])
            QCOMPARE(a["missing"].get<int>(), 0);
        QVERIFY(j["audits"][0]["drawn"] < j["audits"][2]["drawn"]);
        QCOMPARE(j["audits"][2]["drawn"], j["audits"][2]["inFrustum"]);
        // A closed door leaves its room alone.
        const QStringList one = {
            "audit", "visibility", store(), "--size",    "160x90", "--set", "visibility.kind=portals",
            "--eye", "3,1.7,3",    "--aim", "6,1.6,3.2", "--json", "-"};
        const Ran open = run_cli(one), closed = run_cli(one + QStringList{"--door", "*=0"});
        QVERIFY2(open.code == 0 && !closed.out.empty(), closed.err.c_str());
        QVERIFY(json::parse(closed.out)["drawn"] <= json::parse(open.out)["drawn"]);
        QVERIFY(json::parse(closed.out)["drawn"] < 20);
    }

    void steps_of_a_walk_are_told_by_the_journal() {
        for (const auto& [note, kind] : {std::pair("as it is", "frustum"), {"doors looked through", "portals"}}) {
            const Ran r = run_cli({"walk", store(), "--every", "20", "--sweeps", "1", "--size", "96x54", "--set",
                                   QString("visibility.kind=%1").arg(kind), "--log", "--note", note});
            QVERIFY2(r.code == 0, r.err.c_str());
        }
        const Ran r = run_cli({"journal", store(), "--kind", "walk", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json list = json::parse(r.out)["records"];
        QCOMPARE(list.size(), std::size_t(2));
        QCOMPARE(list[0]["step"].get<std::string>(), std::string("doors looked through")); // the newest first
        QVERIFY(list[0]["against"]["ratio"].get<double>() > 0);
        QVERIFY(!list[1].contains("against"));
        // Without a note a step is named by what was changed since the one before.
        const Ran closed = run_cli({"walk", store(), "--every", "20", "--sweeps", "1", "--size", "96x54", "--set",
                                    "visibility.kind=portals", "--set", "visibility.roomCell=0.3", "--door", "*=0",
                                    "--log", "--json", "-"});
        QVERIFY2(closed.code == 0, closed.err.c_str());
        const std::string step = json::parse(closed.out)["step"].get<std::string>();
        QVERIFY2(step.find(" doors closed; ") != std::string::npos && step.find("0.25 \u2192 0.3") != std::string::npos,
                 step.c_str());
        const Ran told = run_cli({"journal", store(), "--kind", "walk"});
        QVERIFY2(told.out.find(step + ": ") != std::string::npos, told.out.c_str());
    }

    void a_room_is_drawn_by_hand() {
        const QStringList words = {
            "audit", "visibility", store(), "--size",    "96x54",  "--set", "visibility.kind=portals",
            "--eye", "3,1.7,3",    "--aim", "6,1.6,3.2", "--json", "-"};
        const Ran r = run_cli(words + QStringList{"--room", "all of it=-1,-1,-1,100,5,100"});
        QVERIFY2(r.code == 0, r.err.c_str());
        // No rooms were found for that yet: it is said, and nothing is left out.
        const json j = json::parse(r.out);
        QVERIFY2(j["notes"].is_array() && !j["notes"].empty(), r.out.c_str());
    }

    void bad_input_is_told() {
        const std::pair<QStringList, const char*> cases[] = {
            {{"bake", store(), "--what", "nonsense"}, "nonsense"},
            {{"bake", MIROLUX_DEMO, "--what", "visibility", "--set", "visibility.kind=cells", "--set",
              "visibility.cover=box", "--set", "visibility.cell=0.5"},
             "200,000"},
            {{"audit", "visibility", store(), "--door", "garden gate=0"}, "garden gate"},
            {{"audit", "visibility", store(), "--door", "door 1=2"}, "PATTERN=SHARE"},
            {{"audit", "visibility", store(), "--room", "pantry=0,0,0,1"}, "NAME=x,y,z,x,y,z"},
            {{"audit", "visibility", store(), "--room", "pantry=0,0,0,1,0,1"}, "NAME=x,y,z,x,y,z"},
            {{"audit", "visibility", store(), "--along", "--walk", "nowhere"}, "nowhere"},
            {{"audit", "visibility", store(), "--kind", "guess"}, "guess"}};
        for (const auto& [words, named] : cases) {
            const Ran r = run_cli(words);
            QVERIFY2(r.code != 0 && r.err.find(named) != std::string::npos,
                     (words.join(' ').toStdString() + "\n" + r.err).c_str());
        }
    }
};

MIROLUX_TEST(visibility_cli_test)
#include "visibility_cli_test.moc"
