#include "support/test_main.h"
#include <QFileInfo>
#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

using nlohmann::json;

/// Blocks stages by the command line, as scripts ask for them.
class blocks_cli_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    struct Ran {
        int code;
        std::string out, err;
    };
    static Ran run(const QStringList& words) {
        QProcess p;
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli", words);
        if (!p.waitForFinished(200000)) return {-1, "", "did not finish"};
        return {p.exitCode(), p.readAllStandardOutput().toStdString(), p.readAllStandardError().toStdString()};
    }
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

    void what_is_not_there_is_told() {
        QVERIFY(run({"truth", islet(), "-o", folder_.filePath("t.exr")}).err.find("no truth yet") != std::string::npos);
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
