#include "core/image/image_io.h"
#include "support/test_main.h"
#include <QtTest>
#include <nlohmann/json.hpp>
#include <set>

using nlohmann::json;
using namespace mirolux;

/// truth and audit truth as scripts run them; what is kept lies in a folder of the test's own.
class truth_cli_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    struct Ran {
        int code;
        std::string out, err;
    };
    QProcessEnvironment environment() const {
        QProcessEnvironment e = QProcessEnvironment::systemEnvironment();
        e.insert("XDG_CACHE_HOME", folder_.filePath("cache"));
        return e;
    }
    Ran run(const QStringList& arguments) {
        QProcess p;
        p.setProcessEnvironment(environment());
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli", arguments);
        if (!p.waitForFinished(200000)) return {-1, "", "did not finish"};
        return {p.exitCode(), p.readAllStandardOutput().toStdString(), p.readAllStandardError().toStdString()};
    }
    QString file(const char* name) const { return folder_.filePath(name); }
    QStringList truth(const QString& output, const QStringList& more = {}) const {
        return QStringList{"truth", MIROLUX_DEMO, "-o", output, "--size", "96x54", "--json", "-"} + more;
    }
    static std::vector<float> pixels(const QString& path) {
        auto image = read_exr(path.toStdString());
        if (!image) qFatal("%s", to_text(image.error()).c_str());
        return image->data;
    }
    QStringList kept() const {
        return QDir(folder_.filePath("cache/mirolux/truth")).entryList({"*.truth", "*.damaged"}, QDir::Files);
    }

private slots:
    void a_picture_of_truth_is_written_and_told() {
        const Ran r = run(truth(file("a.exr"), {"--samples", "4", "--camera", "quay"}));
        QVERIFY2(r.code == 0, r.err.c_str());
        const json j = json::parse(r.out);
        QCOMPARE(j["schema"].get<std::string>(), std::string("mirolux.truth"));
        QCOMPARE(j["samples"].get<int>(), 4);
        QVERIFY2(j["warnings"].empty(), j["warnings"].dump().c_str()); // the demo is sound
        QVERIFY(j["rays"].get<double>() > 96 * 54 * 4 && j["raysPerSecond"].get<double>() > 0);
        const auto image = read_exr(file("a.exr").toStdString());
        QVERIFY(image.has_value() && image->width == 96 && image->height == 54);
        for (const float v : image->data)
            QVERIFY(std::isfinite(v) && v >= 0);
    }

    /// Shares are plain, distances are metres; as pictures, both are grey.
    void shares_and_distances_are_layers_too() {
        for (const auto& [layer, more] : {std::pair<const char*, QStringList>("visibility", {"--light", "moon"}),
                                          {"occlusion", {"--radius", "3"}},
                                          {"mirror", {}}}) {
            QStringList arguments{"--samples", "4", "--layer", layer};
            QVERIFY2(run(truth(file("l.exr"), arguments + more)).code == 0, layer);
            float most = 0;
            for (const float v : pixels(file("l.exr"))) {
                QVERIFY2(v >= 0, layer);
                most = std::max(most, v);
            }
            QVERIFY2(std::string(layer) == "mirror" ? most > 2 : most == 1, layer);
            QVERIFY2(run(truth(file("l.png"), arguments + more)).code == 0, layer);
            const auto png = read_png(file("l.png").toStdString());
            std::set<int> values;
            for (std::size_t i = 0; i < png->rgba.size(); i += 4) {
                QVERIFY(png->rgba[i] == png->rgba[i + 1] && png->rgba[i] == png->rgba[i + 2]);
                values.insert(png->rgba[i]);
            }
            QVERIFY2(values.size() > 2 && *values.begin() == 0, layer);
        }
    }

    void a_png_is_as_the_finish_shows_it() {
        QVERIFY(run(truth(file("p.png"), {"--samples", "4"})).code == 0);
        QVERIFY(run(truth(file("p.exr"), {"--samples", "4"})).code == 0);
        const auto png = read_png(file("p.png").toStdString());
        QVERIFY(png.has_value() && png->width == 96 && png->height == 54);
        const auto linear = read_exr(file("p.exr").toStdString());
        std::vector<std::pair<float, int>> reds;
        for (int i = 0; i < 96 * 54; ++i)
            reds.emplace_back(linear->pixel(i % 96, i / 96)[0], png->rgba[std::size_t(4 * i)]);
        std::sort(reds.begin(), reds.end());
        for (std::size_t i = 1; i < reds.size(); ++i) // brighter light is never darker in the picture
            QVERIFY(reds[i - 1].second <= reds[i].second);
        QVERIFY(reds.front().second < 60 && reds.back().second > 200);
    }

    /// The same question again costs nothing; on another number of threads it is the same to the bit.
    void what_is_kept_is_gone_on_with() {
        const QStringList what = {"--samples", "24", "--seed", "5"};
        QVERIFY(run(truth(file("one.exr"), what + QStringList{"--threads", "1", "--forget"})).code == 0);
        QVERIFY(run(truth(file("two.exr"), what + QStringList{"--threads", "2", "--forget"})).code == 0);
        QVERIFY(pixels(file("one.exr")) == pixels(file("two.exr")));
        QVERIFY(run(truth(file("part.exr"), {"--samples", "8", "--seed", "5"})).code == 0);
        const Ran on = run(truth(file("on.exr"), what));
        QVERIFY(pixels(file("on.exr")) == pixels(file("one.exr")));
        const Ran again = run(truth(file("again.exr"), what));
        QCOMPARE(json::parse(again.out)["seconds"].get<double>(), json::parse(on.out)["seconds"].get<double>());
    }

    /// Asked to stop it keeps what it has; killed it loses seconds. Either way the picture is the same in the end.
    void a_stopped_one_goes_on_to_the_same_picture_data() {
        QTest::addColumn<bool>("killed");
        QTest::newRow("stopped") << false;
        QTest::newRow("killed") << true;
    }
    void a_stopped_one_goes_on_to_the_same_picture() {
        QFETCH(bool, killed);
        const QStringList what = {"--samples", "200", "--seed", killed ? "10" : "9"};
        QProcess p;
        p.setProcessEnvironment(environment());
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli", truth(file("s.exr"), what));
        QTest::qWait(2500);
        killed ? p.kill() : p.terminate();
        QVERIFY(p.waitForFinished(60000));
        if (!killed) {
            const json stopped = json::parse(p.readAllStandardOutput().toStdString());
            QVERIFY(stopped["stopped"].get<bool>() && stopped["samples"].get<int>() < 200);
        }
        QVERIFY(run(truth(file("s.exr"), what)).code == 0);
        QVERIFY(run(truth(file("w.exr"), what + QStringList{"--forget", "--fresh"})).code == 0);
        QVERIFY(pixels(file("s.exr")) == pixels(file("w.exr")));
    }

    /// A kept file that is damaged is named, set aside, and the picture is traced anew.
    void a_damaged_one_is_set_aside() {
        const QStringList what = {"--samples", "3", "--seed", "77"};
        const QStringList before = kept();
        QVERIFY(run(truth(file("d.exr"), what)).code == 0);
        QString mine;
        for (const QString& name : kept())
            if (!before.contains(name)) mine = name;
        QVERIFY(!mine.isEmpty());
        QFile bytes(folder_.filePath("cache/mirolux/truth/" + mine));
        QVERIFY(bytes.open(QIODevice::ReadWrite) && bytes.seek(bytes.size() / 2) && bytes.write("xyz") == 3);
        bytes.close();
        const Ran r = run(truth(file("d2.exr"), what));
        QVERIFY(r.code == 0 && r.err.find("damaged") != std::string::npos &&
                r.err.find(mine.toStdString()) != std::string::npos);
        QVERIFY(kept().contains(mine + ".damaged"));
        QVERIFY(pixels(file("d.exr")) == pixels(file("d2.exr")));
    }

    void the_frame_is_held_against_its_truth() {
        const QStringList common = {"audit",
                                    "truth",
                                    MIROLUX_DEMO,
                                    "--size",
                                    "96x54",
                                    "--samples",
                                    "64",
                                    "--json",
                                    "-",
                                    "--set",
                                    "path.kind=clustered-deferred"}; // that drops no light
        const Ran plain = run(common + QStringList{"--layer", "direct", "--no-shadows"});
        QVERIFY2(plain.code == 0, plain.err.c_str());
        const json a = json::parse(plain.out);
        for (const char* key : {"mean", "rms", "p95", "bias"})
            QVERIFY2(a.contains(key), key);
        QVERIFY(std::abs(a["bias"].get<double>()) < 0.1);
        // A frame without shadows is too bright, and a gate says so.
        const Ran gated = run(common + QStringList{"--layer", "direct", "--gate", "0.05"});
        QCOMPARE(gated.code, 3);
        QVERIFY(json::parse(gated.out)["bias"].get<double>() > a["bias"].get<double>());
        QCOMPARE(run(common + QStringList{"--layer", "occlusion"}).code, 2);  // the frame has none yet
        QCOMPARE(run(common + QStringList{"--layer", "scattering"}).code, 2); // nor air, with this setup
        const Ran air = run(common + QStringList{"--layer", "scattering", "--set", "air.kind=uniform"});
        QCOMPARE(air.code, 0);
        QVERIFY(json::parse(air.out)["mean"].get<double>() > 0);
        // The shadow of one light, where it shines.
        const QStringList one = common + QStringList{"--layer", "visibility", "--light", "ferry ramp flood 01"};
        QVERIFY(run(one + QStringList{"--set", "shadow.maps=off"}).err.find("shadow.maps to on") != std::string::npos);
        const Ran shadow = run(one + QStringList{"--set", "shadow.maps=on"});
        QVERIFY2(shadow.code == 0, shadow.err.c_str());
        QVERIFY2(json::parse(shadow.out)["mean"].get<double>() < 0.25, shadow.out.c_str());
        QVERIFY(json::parse(shadow.out)["mean"].get<double>() > 0);
        const QStringList nowhere = one + QStringList{"--camera", "workshop"};
        QVERIFY(run(nowhere).err.find("falls on nothing") != std::string::npos);
        for (const char* lobe : {"diffuse", "specular"}) {
            const Ran r = run(common + QStringList{"--layer", lobe, "--no-shadows"});
            QVERIFY2(r.code == 0, lobe);
            QVERIFY2(std::abs(json::parse(r.out)["bias"].get<double>()) < 0.15, r.out.c_str());
        }
    }

    void bad_use_is_told() {
        const auto refused = [&](const QStringList& arguments, const char* words) {
            const Ran r = run(arguments);
            return r.code == 2 && r.err.find(words) != std::string::npos;
        };
        QVERIFY(refused({"truth", MIROLUX_DEMO, "-o", file("a.jpg")}, ".exr, .hdr or .png"));
        QVERIFY(refused(truth(file("a.exr"), {"--layer", "nothing"}), "occlusion"));
        QVERIFY(refused(truth(file("a.exr"), {"--layer", "visibility"}), "--light"));
        QVERIFY(refused(truth(file("a.exr"), {"--layer", "visibility", "--light", "no such"}), "info lists them"));
        QVERIFY(refused(truth("/no/such/folder/a.exr"), "/no/such/folder"));
        QCOMPARE(run(truth(file("a.exr"), {"--samples", "0"})).code, 2);
        QCOMPARE(run(truth(file("a.exr"), {"--error", "7"})).code, 2);
        QVERIFY(refused({"truth", MIROLUX_DEMO, "--time-rays", "--layer", "mirror"}, "layers of light"));
    }
};

MIROLUX_TEST(truth_cli_test)
#include "truth_cli_test.moc"
