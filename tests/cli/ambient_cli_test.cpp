#include "core/image/image_io.h"
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
    static Ran with_demo(QStringList command, const QStringList& more) { return run(command << MIROLUX_DEMO << more); }
    static Ran run(const QStringList& command) {
        QProcess p;
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli", command);
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

    /// What the device entered comes through the worker: somewhere the screen darkens, and answers or says why not.
    void a_pixel_says_what_the_screen_answered() {
        bool darkened = false, answered = false;
        for (const char* pixel : {"100 60", "60 70", "130 75", "30 60"}) {
            const Ran r = with_demo({"pixel"}, QString(pixel).split(' ') + QStringList{"--size", "160x90", "--setup",
                                                                                       "wet quay", "--json", "-"});
            QVERIFY2(r.code == 0, r.err.c_str());
            const json j = json::parse(r.out);
            QVERIFY(!j["surfaces"].empty());
            for (const json& s : j["surfaces"]) {
                darkened = darkened || s["screenOcclusion"].get<double>() < 1;
                answered = answered || s["screenAnswer"].is_string();
            }
        }
        QVERIFY(darkened && answered);
    }

    /// A wing of the figurehead: its lamp shines through it, and light is spread beneath it.
    void a_pixel_says_what_shines_through_wax() {
        const Ran r = with_demo({"pixel"}, {"161", "82", "--size", "480x270", "--camera", "figurehead", "--setup",
                                            "waxen figurehead", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        const json& wing = j["surfaces"].back();
        QCOMPARE(wing["object"].get<std::string>(), std::string("figurehead"));
        QCOMPARE(wing["thickness"].get<float>(), 0.02f);
        bool found = false;
        for (const json& l : wing["lights"])
            if (l["name"] == "figurehead lamp") {
                found = true;
                QVERIFY(l["through"].get<double>() > 0.002 && l["through"].get<double>() < 0.03);
                QVERIFY(l["passed"][0].get<double>() > l["passed"][2].get<double>());
            }
        QVERIFY(found && j["spread"][0].get<double>() != 0 && j["difference"].get<double>() < 0.01);
    }

    void probes_are_listed_captured_and_name_themselves() {
        QTemporaryDir folder;
        QProcess demo;
        demo.start(QString(MIROLUX_BIN) + "/mirolux-make-demo", {folder.path()});
        QVERIFY(demo.waitForFinished(120000) && demo.exitCode() == 0);
        const QString project = folder.filePath("kestrel-quay.mirolux");
        const QStringList small = {"--setup", "hall by probes", "--set", "probe.size=16", "--json", "-"};
        const auto listed = [&] { return json::parse(run(QStringList{"probes", "list", project} + small).out); };
        json list = listed();
        QCOMPARE(list["schema"].get<std::string>(), std::string("mirolux.probes"));
        QCOMPARE(list["probes"].size(), std::size_t(6));
        for (const json& p : list["probes"])
            QVERIFY(p["standing"] == "not captured" && p["insideWall"] == false);
        const Ran unknown = run(QStringList{"probes", "capture", project, "--probe", "attic"} + small);
        QVERIFY(unknown.code == 2 && unknown.err.find("workshop room 2") != std::string::npos);
        const Ran r = run(QStringList{"probes", "capture", project, "--probe", "workshop room 2"} + small);
        QVERIFY2(r.code == 0, r.err.c_str());
        const json taken = json::parse(r.out)["probes"][0];
        QVERIFY(taken["ms"].get<double>() > 0 && taken["meanLuminance"].get<double>() > 0);
        list = listed();
        QCOMPARE(list["probes"][3]["standing"].get<std::string>(), std::string("captured"));
        QCOMPARE(list["probes"][0]["standing"].get<std::string>(), std::string("not captured"));
        // Each face is a render from there, to the bit.
        const auto faces = mirolux::read_exr(taken["file"].get<std::string>());
        QVERIFY(faces && faces->width == 16 && faces->height == 96);
        const json at = list["probes"][3]["position"];
        const char* ways[] = {"1,0,0", "-1,0,0", "0,1,0", "0,-1,0", "0,0,1", "0,0,-1"};
        for (int face : {1, 2, 4}) {
            QStringList eye, aim;
            for (int c = 0; c < 3; ++c) {
                eye << QString::number(at[static_cast<std::size_t>(c)].get<double>(), 'g', 9);
                aim << QString::number(at[static_cast<std::size_t>(c)].get<double>() +
                                           QString(ways[face]).split(',')[c].toDouble(),
                                       'g', 9);
            }
            const QString file = folder.filePath("face.exr");
            const Ran picture =
                run({"render", project, "--setup", "hall by probes", "--set", "probe.kind=none", "--eye", eye.join(','),
                     "--aim", aim.join(','), "--fov", "90", "--size", "16x16", "-o", file});
            QVERIFY2(picture.code == 0, picture.err.c_str());
            const auto seen = mirolux::read_exr(file.toStdString());
            QVERIFY(seen && seen->width == 16);
            for (int y = 0; y < 16; ++y)
                for (int x = 0; x < 16; ++x)
                    for (int c = 0; c < 3; ++c)
                        QCOMPARE(seen->pixel(x, y)[c], faces->pixel(x, 16 * face + y)[c]);
        }
        // What a surface in that room takes is named.
        const Ran pixel = run({"pixel", project, "80", "60", "--size", "160x90", "--setup", "hall by probes", "--set",
                               "probe.size=16", "--eye", "-9.5,1.6,-30", "--aim", "-9.5,0.8,-34", "--json", "-"});
        QVERIFY2(pixel.code == 0, pixel.err.c_str());
        const json j = json::parse(pixel.out);
        QVERIFY2(j["surfaces"][0]["probes"][0]["name"] == "workshop room 2", pixel.out.substr(0, 2000).c_str());
        QVERIFY(j["surfaces"][0]["ofProbes"][1].get<double>() > 0);
    }
};

MIROLUX_TEST(ambient_cli_test)
#include "ambient_cli_test.moc"
