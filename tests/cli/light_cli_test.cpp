#include "support/test_main.h"
#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

using nlohmann::json;
using namespace mirolux;

/// Cheap lights and skies from files, as scripts ask for them.
class light_cli_test : public QObject {
    Q_OBJECT
    struct Ran {
        int code;
        std::string out, err;
        json document() const { return json::parse(out); }
    };
    static Ran demo(const QString& command, const QStringList& more, const QString& size = "96x54") {
        QProcess p;
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli", QStringList{command, MIROLUX_DEMO, "--size", size} + more);
        if (!p.waitForFinished(200000)) return {-1, "", "did not finish"};
        return {p.exitCode(), p.readAllStandardOutput().toStdString(), p.readAllStandardError().toStdString()};
    }
    static inline const QStringList cheap = {"--setup", "cheap lights", "--camera",
                                             "quay",    "--set",        "path.kind=clustered-deferred"};

private slots:
    /// Each stands with its time, its pixels and its share, and the lamp that it stands for with its own.
    void the_ledger_lists_cheap_lights_beside_their_lamps() {
        const Ran r =
            demo("ledger", cheap + QStringList{"--set", "cheapLights.instead=off", "--rounds", "1", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json all = r.document()["cheapLights"];
        QCOMPARE(all.size(), std::size_t(9));
        const auto named = [&](const char* name) {
            for (const json& l : all)
                if (l["name"] == name) return l;
            return json();
        };
        const json pool = named("pool 06"), rim = named("rim");
        QVERIFY(pool["shape"] == "ball" && pool["inView"] == true && pool["fragments"].get<int>() > 50);
        QVERIFY(pool["ms"].get<double>() > 0 && pool["contributionShare"].get<double>() > 0.01);
        QVERIFY(pool["standsFor"] == json::array({"quay bollard 06"}) && pool["standsForMs"].get<double>() > 0);
        QVERIFY(rim["standsFor"].empty() && rim["standsForMs"] == 0);
        const Ran text = demo("ledger", cheap + QStringList{"--rounds", "1"});
        QVERIFY(text.out.find("pool 06 (cheap)") != std::string::npos);
        // In its lamp's place: the lamp is not in the frame.
        const json instead = demo("ledger", cheap + QStringList{"--rounds", "1", "--json", "-"}).document();
        for (const json& l : instead["lights"])
            if (l["name"] == "quay bollard 06" || l["name"] == "moon") QVERIFY(l["inView"] == false);
    }

    void a_pixel_tells_what_they_made_of_it() {
        bool told = false;
        for (const char* y : {"30", "40", "50"}) {
            const Ran r = demo("pixel", QStringList{"48", y} + cheap + QStringList{"--json", "-"});
            QVERIFY2(r.code == 0, r.err.c_str());
            const json j = r.document();
            QVERIFY(j["difference"].get<double>() < 0.02);
            for (const json& surface : j["surfaces"])
                for (const json& c : surface["cheapLights"])
                    told = told || (c["name"] == "night from above" && c["after"] != c["before"]);
        }
        QVERIFY(told);
    }

    void a_sky_from_a_file_says_which_and_what_it_gives() {
        const Ran r = demo("sky", {"--setup", "dusk by a picture", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = r.document();
        QVERIFY(j["kind"] == "file" && j["skyIrradiance"][0].get<double>() > 100 && j["light"].is_null());
        QVERIFY(demo("sky", {"--setup", "dusk by a picture"}).out.find("dusk-over-the-quay.hdr") != std::string::npos);
        const Ran gone = demo("sky", {"--set", "sky.kind=file", "--set", "sky.file=gone.hdr"});
        QVERIFY(gone.code == 0 && gone.out.find("gone.hdr") != std::string::npos);
        const Ran plan = demo("plan", {"--set", "sky.kind=file"});
        QVERIFY(plan.out.find("sky.file") != std::string::npos);
    }

    /// The layers that add up, added, are the picture.
    void compare_adds_and_takes_pictures() {
        QTemporaryDir folder;
        QStringList plus;
        const QStringList plain = {"--set", "path.targetFormat=rgba32f", "--set", "gbuffer.packing=full"};
        for (const char* layer :
             {"final", "emissive", "ambient", "diffuse", "specular", "sky", "airlight", "cheaplight"}) {
            const QString file = folder.filePath(QString(layer) + ".exr");
            QCOMPARE(demo("render", cheap + plain + QStringList{"--layer", layer, "-o", file}).code, 0);
            if (QString(layer) != "final" && QString(layer) != "emissive") plus << "--plus" << file;
        }
        const auto compared = [&](const QStringList& more) {
            QProcess p;
            p.start(QString(MIROLUX_BIN) + "/mirolux-cli", QStringList{"compare", folder.filePath("final.exr"),
                                                                       folder.filePath("emissive.exr"), "--json", "-"} +
                                                               more);
            if (!p.waitForFinished(60000)) qFatal("compare does not end");
            return json::parse(p.readAllStandardOutput().toStdString());
        };
        QVERIFY2(compared(plus)["mean"].get<double>() < 0.005, compared(plus).dump().c_str());
        QVERIFY(compared({})["mean"].get<double>() > 0.1);
        QVERIFY(compared(plus + QStringList{"--minus", folder.filePath("cheaplight.exr")})["mean"].get<double>() >
                0.005);
    }
};

MIROLUX_TEST(light_cli_test)
#include "light_cli_test.moc"
