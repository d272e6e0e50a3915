#include "core/image/image_io.h"
#include "support/command_line.h"
#include "support/test_main.h"
#include <QDir>
#include <QFileInfo>
#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

using nlohmann::json;
using namespace mirolux::test;

/// Blocks stages by the command line, as scripts ask for them.
class blocks_cli_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    static Ran run(const QStringList& words) { return run_cli(words); }
    static QString islet() { return QFileInfo(MIROLUX_DEMO).dir().filePath("light-islet.mirolux"); }

private slots:
    void info_counts_cells() {
        const Ran r = run({"info", islet(), "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QCOMPARE(j["stage"].get<std::string>(), std::string("blocks"));
        QVERIFY(j["cells"].get<std::uint64_t>() >= 4000000);
        QVERIFY(j["solid"].get<std::uint64_t>() > 500000 && j["solid"] < j["cells"]);
        QCOMPARE(j["chunks"].get<int>(), 6 * 4 * 6);
        QVERIFY(j["bytes"].get<std::uint64_t>() > 1000000);
        QVERIFY(j["palette"].size() > 20 && j["props"].size() == 1);
        QVERIFY(run({"info", QFileInfo(islet()).dir().filePath("light-islet.blocks")}).out.find("(Blocks)") !=
                std::string::npos);
    }

    /// Levels after edits against a fresh flood, and as a file of the documented form.
    void floods_are_audited_and_written() {
        const QString levels = folder_.filePath("levels");
        const Ran r = run({"audit", "flood", islet(), "--edits", "300", "--dump", levels, "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QCOMPARE(j["wrong"].get<int>(), 0);
        QCOMPARE(j["inconsistent"].get<int>(), 0);
        QVERIFY(j["editMs"].get<double>() > 0);
        QFile f(levels);
        QVERIFY(f.open(QIODevice::ReadOnly));
        const QByteArray bytes = f.readAll();
        QVERIFY(bytes.startsWith("MRXLVL1\n"));
        QCOMPARE(int(std::uint8_t(bytes[8])), 192);
        QCOMPARE(bytes.size(), qsizetype(8 + 12 + 4 * j["cells"].get<qint64>()));
        const Ran origin = run({"audit", "flood", islet(), "--set", "blocks.light=flood-origin", "--json", "-"});
        QVERIFY2(origin.code == 0, origin.out.c_str());
        QVERIFY(json::parse(origin.out)["bytes"] > j["bytes"]);
        QVERIFY(run({"audit", "flood", MIROLUX_DEMO}).err.find("Blocks stage only") != std::string::npos);
    }

    void every_way_is_rendered_measured_and_accounted() {
        for (const char* way : {"faces", "cast", "flood", "flood-origin"}) {
            const QString picture = folder_.filePath(QString(way) + ".png");
            const Ran r = run({"render", islet(), "--size", "160x90", "--set", QString("blocks.light=%1").arg(way),
                               "--set", "blocks.draw=rays", "-o", picture});
            QVERIFY2(r.code == 0 && QFileInfo(picture).size() > 3000, r.err.c_str());
        }
        const Ran m = run({"measure", islet(), "--size", "160x90", "--rounds", "3", "--json", "-"});
        QVERIFY2(m.code == 0, m.err.c_str());
        const json passes = json::parse(m.out)["passes"];
        QStringList names;
        for (const json& p : passes)
            names << QString::fromStdString(p["name"].get<std::string>());
        QVERIFY2(names.contains("blocks") && names.contains("block light") && names.contains("clear blocks"),
                 qPrintable(names.join(' ')));
        const Ran p = run(
            {"pixel", islet(), "80", "40", "--size", "160x90", "--set", "blocks.light=flood-origin", "--json", "-"});
        QVERIFY2(p.code == 0, p.err.c_str());
        const json cell = json::parse(p.out)["cell"];
        QVERIFY(cell["levels"].size() == 4 && !cell["material"].get<std::string>().empty());
    }

    void casting_is_audited() {
        const Ran r = run({"audit", "cast", islet(), "--headings", "8", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QVERIFY(j["asked"].get<int>() > 2000 && j["headings"] == 8 && j["headingsBytes"].get<int>() > 10000);
        QVERIFY(j["worldFrameApart"].get<double>() > j["headingsApart"].get<double>());
        QVERIFY(run({"audit", "cast", MIROLUX_DEMO}).err.find("Blocks stage only") != std::string::npos);
    }

    /// A Solid scene in cells, and a folder of slices: what is written is a scene like any other.
    void blocks_are_made() {
        const QString file = folder_.filePath("quay.blocks");
        const Ran r = run({"blocks", MIROLUX_DEMO, "-o", file, "--edge", "0.5", "--json", "-"});
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QVERIFY(j["solid"].get<int>() > 20000 && j["lamps"].get<int>() > 50 && j["materials"].get<int>() > 40);
        const json info = json::parse(run({"info", file, "--json", "-"}).out);
        QCOMPARE(info["solid"], j["solid"]);
        QVERIFY(!info["cameras"].empty());
        QCOMPARE(run({"audit", "flood", file, "--edits", "20"}).code, 0);
        const QString picture = folder_.filePath("quay.png");
        QVERIFY2(run({"render", file, "--size", "160x90", "--starter", "-o", picture}).code == 0, "render");
        QVERIFY(QFileInfo(picture).size() > 3000);
        QVERIFY(QDir(folder_.path()).mkdir("slices"));
        for (int i = 0; i < 5; ++i) {
            mirolux::ByteImage slice{8, 6, {}};
            for (int n = 0; n < 48; ++n)
                slice.rgba.insert(slice.rgba.end(), {std::uint8_t(40 * i), 90, std::uint8_t(200 - 30 * i), 255});
            const QString name = folder_.filePath(QString("slices/%1.png").arg(i));
            QVERIFY(mirolux::write_png(name.toStdString(), slice).has_value());
        }
        const QString stack = folder_.filePath("stack.blocks");
        QVERIFY(run({"blocks", folder_.filePath("slices"), "-o", stack}).code == 0);
        QCOMPARE(json::parse(run({"info", stack, "--json", "-"}).out)["solid"].get<int>(), 8 * 6 * 5);
    }

    /// The frame against light traced through its drawn faces; directions against every lamp.
    void ways_are_held_against_truth() {
        const auto apart = [&](const char* way) {
            const Ran r = run({"audit", "truth", islet(), "--samples", "6", "--size", "64x36", "--camera", "market",
                               "--forget", "--set", QString("blocks.light=%1").arg(way), "--json", "-"});
            return r.code == 0 ? json::parse(r.out)["mean"].get<double>() : -1.0;
        };
        const double faces = apart("faces"), flood = apart("flood");
        QVERIFY2(faces > 0 && flood > 0, qPrintable(QString("%1 %2").arg(faces).arg(flood)));
        QVERIFY(run({"audit", "truth", islet(), "--layer", "direct"}).err.find("it has final") != std::string::npos);
        const QString picture = folder_.filePath("directions.png");
        const Ran one = run({"audit", "origin", islet(), "--size", "96x54", "--camera", "market", "-o", picture,
                             "--json", "-"}),
                  two = run({"audit", "origin", islet(), "--size", "96x54", "--set", "flood.mix=on", "--json", "-",
                             "--camera", "market"});
        QVERIFY2(one.code == 0 && two.code == 0, one.err.c_str());
        const json a = json::parse(one.out), b = json::parse(two.out);
        QVERIFY(a["cells"].get<int>() > 1000 && a["lamps"].get<int>() > 20);
        QVERIFY(b["meanAngle"].get<double>() < a["meanAngle"].get<double>());
        const auto shown = mirolux::read_png(picture.toStdString());
        QVERIFY(shown.has_value() && shown->width == 3 * 96 && shown->height == 54);
    }

    void what_is_not_there_is_told() {
        QVERIFY(run({"audit", "origin", MIROLUX_DEMO}).err.find("Blocks stage only") != std::string::npos);
        QVERIFY(run({"blocks", islet(), "-o", folder_.filePath("b.blocks")}).err.find("of Blocks") !=
                std::string::npos);
        QVERIFY(run({"blocks", MIROLUX_DEMO, "-o", folder_.filePath("b.png")}).err.find("in .blocks") !=
                std::string::npos);
        const Ran fine = run({"blocks", MIROLUX_DEMO, "-o", folder_.filePath("b.blocks"), "--edge", "0.02"});
        QVERIFY2(fine.code == 2 && fine.err.find("Take cells of") != std::string::npos, fine.err.c_str());
        QVERIFY(run({"audit", "shadows", islet()}).err.find("of Blocks") != std::string::npos);
        QFile cut(folder_.filePath("cut.blocks")), whole(QFileInfo(islet()).dir().filePath("light-islet.blocks"));
        QVERIFY(whole.open(QIODevice::ReadOnly) && cut.open(QIODevice::WriteOnly));
        cut.write(whole.readAll().left(whole.size() - 3000));
        cut.close();
        const Ran r = run({"info", cut.fileName()});
        QCOMPARE(r.code, 2);
        QVERIFY2(r.err.find("beyond the file's end") != std::string::npos, r.err.c_str());
    }
};

MIROLUX_TEST(blocks_cli_test)
#include "blocks_cli_test.moc"
