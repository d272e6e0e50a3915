#include "core/cost/foresight.h"
#include "core/image/image_io.h"
#include "core/scene/project.h"
#include "support/test_main.h"
#include <QtTest>
#include <nlohmann/json.hpp>
#include <set>

using nlohmann::json;

class cli_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    struct Ran {
        int code;
        std::string out, err;
    };
    Ran run(const QStringList& arguments, int ms = 120000) {
        QProcess p;
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli", arguments);
        if (!p.waitForFinished(ms)) return {-1, "", "did not finish"};
        return {p.exitCode(), p.readAllStandardOutput().toStdString(), p.readAllStandardError().toStdString()};
    }
    QString demo_;

private slots:
    /// The demo without its shadows: what is asked here needs none, and comes sooner.
    void initTestCase() {
        demo_ = folder_.filePath("kestrel-quay.mirolux");
        QVERIFY(
            QFile::copy(QFileInfo(MIROLUX_DEMO).path() + "/kestrel-quay.glb", folder_.filePath("kestrel-quay.glb")));
        QFile from(MIROLUX_DEMO), to(demo_);
        QVERIFY(from.open(QIODevice::ReadOnly) && to.open(QIODevice::WriteOnly));
        json project = json::parse(from.readAll().toStdString());
        QVERIFY(project["setup"].erase("shadow.maps") == 1);
        to.write(QByteArray::fromStdString(project.dump()));
    }

    void info_gives_the_fields_that_scripts_rely_on() {
        const Ran r = run({"info", demo_, "--json", "-"});
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        QVERIFY(j["triangles"].get<int>() > 60000);
        QVERIFY(j["warnings"].is_array());
        bool spot = false;
        for (const json& l : j["lights"]) {
            for (const char* key : {"name", "type", "position", "direction", "color", "intensity", "range",
                                    "innerConeAngle", "outerConeAngle"})
                QVERIFY2(l.contains(key), key);
            QCOMPARE(l["position"].size(), std::size_t(3));
            spot = spot || l["type"] == "spot";
        }
        QVERIFY(spot);
        QCOMPARE(j["schema"].get<std::string>(), std::string("mirolux.info"));
        QVERIFY(run({"info", demo_}).out.find("Kestrel Quay") != std::string::npos);
    }

    void sky_tells_what_the_air_leaves() {
        const Ran r = run({"sky", demo_, "--set", "sky.kind=atmosphere", "--set", "sun.elevation=30", "--json", "-"});
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        QCOMPARE(j["schema"].get<std::string>(), std::string("mirolux.sky"));
        const double wanted[] = {0.885, 0.754, 0.582};
        for (std::size_t c = 0; c < 3; ++c) {
            QVERIFY(std::abs(j["transmittance"][c].get<double>() - wanted[c]) < 0.02 * wanted[c]);
            QVERIFY(std::abs(j["sunIlluminance"][c].get<double>() / 128000 - wanted[c]) < 0.02 * wanted[c]);
            QVERIFY(j["skyIrradiance"][c].get<double>() > 3000 && j["skyIrradiance"][c].get<double>() < 30000);
        }
        QCOMPARE(j["light"].get<std::string>(), std::string("moon"));
        const Ran day = run({"sky",    demo_,
                             "--set",  "sky.kind=fitted",
                             "--set",  "sun.by=date",
                             "--set",  "sun.latitude=39.742476",
                             "--set",  "sun.longitude=-105.1786",
                             "--set",  "sun.year=2003",
                             "--set",  "sun.month=10",
                             "--set",  "sun.day=17",
                             "--set",  "sun.hour=12.508333",
                             "--set",  "sun.zone=-7",
                             "--json", "-"});
        const json sun = json::parse(day.out)["sun"];
        QVERIFY(std::abs(90 - sun["elevation"].get<double>() - 50.11) < 0.05 &&
                std::abs(sun["azimuth"].get<double>() - 194.34) < 0.05);
        QVERIFY(run({"sky", demo_, "--set", "sky.kind=atmosphere", "--set", "sun.light=lantern"})
                    .out.find("no light of the scene") != std::string::npos);
    }

    void settings_lists_every_fixed_name() {
        const Ran r = run({"settings", "--json", "-"});
        QCOMPARE(r.code, 0);
        std::set<std::string> keys;
        const json j = json::parse(r.out);
        for (const json& s : j["settings"])
            keys.insert(s["key"]);
        for (const char* key : {"path.kind", "path.maxLights", "path.depthPrepass", "shading.model", "ambient.kind",
                                "exposure.ev100", "tone.curve"})
            QVERIFY2(keys.contains(key), key);
        QVERIFY(run({"settings", "--markdown"}).out.find("| `path.kind` |") != std::string::npos);
    }

    void the_settings_page_of_the_docs_is_the_declarations() {
        QFile page(QString(MIROLUX_SOURCE) + "/docs/settings.md");
        QVERIFY(page.open(QIODevice::ReadOnly));
        QCOMPARE(page.readAll().toStdString(), run({"settings", "--markdown"}).out);
    }

    void plan_tells_passes_in_order() {
        const Ran r = run({"plan", demo_, "--set", "path.kind=additive", "--size", "320x180", "--json", "-"});
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        QCOMPARE(j["passes"][0]["name"].get<std::string>(), std::string("skinning"));
        QCOMPARE(j["passes"][1]["name"].get<std::string>(), std::string("ambient"));
        QCOMPARE(j["passes"][2]["name"].get<std::string>(), std::string("lights"));
        QVERIFY(j["passes"][2]["expected"]["draws"].get<int>() > 100);
    }

    void render_writes_png_exr_and_hdr() {
        const QString png = folder_.filePath("a.png"), exr = folder_.filePath("a.exr"), hdr = folder_.filePath("a.hdr");
        QCOMPARE(run({"render", demo_, "-o", png, "--size", "160x90"}).code, 0);
        QCOMPARE(run({"render", demo_, "-o", exr, "--size", "160x90", "--camera", "pier head"}).code, 0);
        QCOMPARE(run({"render", demo_, "-o", hdr, "--size", "160x90", "--layer", "diffuse"}).code, 0);
        const auto a = mirolux::read_png(png.toStdString());
        QVERIFY(a.has_value() && a->width == 160 && a->height == 90);
        double sum = 0;
        for (const auto v : a->rgba)
            sum += v;
        QVERIFY(sum / double(a->rgba.size()) > 70); // a lit place, not a black one (alpha alone would give 64)
        const auto b = mirolux::read_exr(exr.toStdString());
        QVERIFY(b.has_value() && b->width == 160);
        QVERIFY(QFileInfo(hdr).size() > 1000);
        QCOMPARE(run({"render", demo_, "--layers", folder_.filePath("layers"), "--size", "64x36"}).code, 0);
        QCOMPARE(QDir(folder_.filePath("layers")).entryList({"*.png"}).size(), 18);
    }

    void measure_writes_what_scripts_rely_on() {
        const QString csv = folder_.filePath("m.csv"), html = folder_.filePath("m.html");
        const Ran r = run({"measure", demo_, "--size", "160x90", "--rounds", "6", "--against", "path.maxLights=1",
                           "--json", "-", "--csv", csv, "--html", html});
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        for (const char* key : {"medianMs", "lowMs", "highMs", "unfencedMs"})
            QVERIFY2(j["frame"].contains(key), key);
        for (const char* key : {"name", "family", "medianMs", "lowMs", "highMs", "work"})
            QVERIFY2(j["passes"][0].contains(key), key);
        for (const char* key : {"ratio", "low", "high", "verdict", "smallestShown", "passes"})
            QVERIFY2(j["comparison"].contains(key), key);
        QVERIFY(j["passes"][0]["work"]["bentVertices"].get<long>() > 0);
        QVERIFY(j["passes"][1]["work"]["lightEvaluations"].get<long>() > 0);
        QVERIFY(j.contains("clock") && j.contains("device") && j.contains("size") && j.contains("created") &&
                j.contains("sceneDigest"));
        QVERIFY(j["comparison"]["ratio"].get<double>() < 1.0); // one light an object is less work than eight
        QFile table(csv), page(html);
        QVERIFY(table.open(QIODevice::ReadOnly) && page.open(QIODevice::ReadOnly));
        QVERIFY(table.readAll().startsWith("pass,family,median_ms"));
        const QByteArray text = page.readAll();
        QVERIFY(text.contains("<svg") && !text.contains("http"));
    }

    void audit_lists_misses_nothing_on_the_demo() {
        for (const char* path : {"tiled-deferred", "clustered-forward"}) {
            const Ran r = run(
                {"audit", "lists", demo_, "--set", QString("path.kind=") + path, "--size", "640x360", "--json", "-"});
            QCOMPARE(r.code, 0);
            const json j = json::parse(r.out);
            QCOMPARE(j["missed"].get<int>(), 0);
            QCOMPARE(j["overflow"].get<int>(), 0);
            QVERIFY(j["surplus"].get<double>() >= 0 && j["surplus"].get<double>() < 0.6);
            for (const char* key : {"mean", "p95", "max"})
                QVERIFY2(j[key].get<double>() > 0, key);
        }
        QCOMPARE(run({"audit", "lists", demo_, "--set", "path.kind=forward"}).code, 2);
    }

    void pixel_sums_to_the_picture_and_says_why() {
        const Ran r = run({"pixel", demo_, "100", "120", "--size", "320x180", "--set", "path.kind=clustered-forward",
                           "--set", "path.targetFormat=rgba32f", "--json", "-"});
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        QCOMPARE(j["schema"].get<std::string>(), std::string("mirolux.pixel"));
        QVERIFY(j["difference"].get<double>() < 1e-3);
        QVERIFY(!j["reason"].get<std::string>().empty() && !j["surfaces"].empty());
        for (const char* key :
             {"name", "standing", "listed", "distance", "cone", "facing", "diffuse", "specular", "radiance"})
            QVERIFY2(j["surfaces"][0]["lights"][0].contains(key), key);
        const Ran outside = run({"pixel", demo_, "320", "5", "--size", "320x180"});
        QCOMPARE(outside.code, 2);
        QVERIFY(outside.err.find("320x180") != std::string::npos);
    }

    void ledger_shares_add_up_and_sort() {
        const Ran r = run({"ledger", demo_, "--size", "320x180", "--set", "path.kind=tiled-deferred", "--sort",
                           "contribution", "--rounds", "2", "--json", "-"});
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        double cost = 0, before = 1;
        for (const json& l : j["lights"]) {
            cost += l["costShare"].get<double>();
            QVERIFY(l["contributionShare"].get<double>() <= before + 1e-12);
            before = l["contributionShare"].get<double>();
        }
        QVERIFY(std::abs(cost - 1) < 1e-6);
        QVERIFY(j["shadingMs"].get<double>() > 0 && j["lightShare"].get<double>() > 0.1);
    }

    void audit_picture_gates() {
        const QStringList same = {"audit",
                                  "picture",
                                  demo_,
                                  "--size",
                                  "160x90",
                                  "--set",
                                  "path.kind=deferred",
                                  "--set",
                                  "gbuffer.packing=full",
                                  "--set",
                                  "path.targetFormat=rgba32f",
                                  "--json",
                                  "-"};
        const Ran r = run(same + QStringList{"--against", "path.kind=tiled-deferred", "--gate", "0.001"});
        QCOMPARE(r.code, 0);
        QVERIFY(json::parse(r.out)["meanRelative"].get<double>() < 1e-4);
        QCOMPARE(run(same + QStringList{"--against", "ambient.kind=none", "--gate", "0.01"}).code, 3);
    }

    void walk_finds_its_worst_place_and_gates() {
        const QStringList walk = {"walk", demo_,      "--size", "160x90", "--every",
                                  "20",   "--sweeps", "1",      "--set",  "path.kind=tiled-deferred"};
        const Ran r = run(walk + QStringList{"--json", "-", "--csv", folder_.filePath("walk.csv"), "--budget", "100000",
                                             "--gate", "p95"});
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        QVERIFY(j["points"].size() >= 6);
        double most = 0;
        for (const json& p : j["points"])
            most = std::max(most, p["frameMs"].get<double>());
        QCOMPARE(j["worst"]["frameMs"].get<double>(), most);
        QVERIFY(QFile(folder_.filePath("walk.csv")).exists());
        QCOMPARE(run(walk + QStringList{"--budget", "0.001", "--gate", "p95"}).code, 3);
        const Ran unknown = run({"walk", demo_, "--walk", "nowhere"});
        QCOMPARE(unknown.code, 2);
        QVERIFY(unknown.err.find("queue to pier head") != std::string::npos);
    }

    void a_baseline_gates_regressions_and_refuses_what_differs() {
        const QString file = folder_.filePath("before.json");
        const QStringList measure = {"measure",  demo_, "--size", "160x90",
                                     "--rounds", "8",   "--set",  "path.kind=tiled-deferred"};
        QCOMPARE(run(measure + QStringList{"--json", file}).code, 0);
        const Ran same = run(measure + QStringList{"--baseline", file, "--regression", "300"});
        QCOMPARE(same.code, 0);
        QVERIFY(same.out.find("against the baseline") != std::string::npos);
        const Ran slower = run({"measure", demo_, "--size", "160x90", "--rounds", "8", "--set", "path.kind=additive",
                                "--baseline", file, "--regression", "20"});
        QCOMPARE(slower.code, 3);
        const Ran other = run({"measure", demo_, "--size", "96x54", "--rounds", "6", "--baseline", file});
        QCOMPARE(other.code, 2);
        QVERIFY2(other.err.find("another picture size") != std::string::npos, other.err.c_str());
    }

    void a_budget_gate_ends_with_3() {
        QCOMPARE(run({"measure", demo_, "--size", "96x54", "--rounds", "3", "--budget", "0.01"}).code, 3);
        QCOMPARE(run({"measure", demo_, "--size", "96x54", "--rounds", "3", "--budget", "100000"}).code, 0);
    }

    void bad_use_ends_with_2_and_one_message() {
        const QVector<QPair<QStringList, const char*>> cases = {
            {{"render", "/absent.glb", "-o", "x.png"}, "absent.glb"},
            {{"render", demo_, "-o", folder_.filePath("x.bmp")}, ".png"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--set", "path.maxLight=3"}, "path.maxLights"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--set", "path.maxLights=300"}, "1 to 64"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--size", "0x5"}, "--size"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--camera", "nobody"}, "pier head"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--layer", "glow"}, "albedo"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--eye", "1,2"}, "--aim"},
            {{"render", demo_, "-o", "/nowhere/x.png", "--size", "16x9"}, "/nowhere/x.png"},
            {{"measure", demo_, "--target", "Phone"}, "Handheld"},
            {{"measure", demo_, "--setup", "best"}, "additive"},
            {{"polish", demo_}, ""},
            {{"measure", demo_, "--budget", "NaN"}, "finite"},
            {{"measure", demo_, "--regression", "inf"}, "finite"},
            {{"audit", "picture", demo_, "--against", "path.maxLights=2", "--gate", "NaN"}, "finite"},
            {{"walk", demo_, "--every", "nan"}, "number from"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--seconds", "NaN"}, "number from"},
            {{"predict", demo_, "--profile", "handheld", "--gate", "5"}, "--check"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--shaders", "/dev/null"}, "no folder"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--layer", "light"}, "--light"},
            {{"render", demo_, "-o", folder_.filePath("x.png"), "--light", "nobody"}, "nobody"},
            {{"render", demo_, "-o", folder_.filePath("x.tga"), "--target", "depth"}, ".exr"},
            {{"measure", demo_, "--rounds", "90000", "--html", "/nowhere/x.html"}, "nothing was measured yet"},
        };
        for (const auto& [arguments, word] : cases) {
            const Ran r = run(arguments);
            QVERIFY2(r.code == 2, qPrintable(arguments.join(' ')));
            QVERIFY2(r.err.find(word) != std::string::npos, (arguments.join(' ').toStdString() + ": " + r.err).c_str());
            QVERIFY2(r.out.empty(), r.out.c_str());
        }
    }

    /// Bytes anew from format, size, layers and mips; the peak as the sum, over classes of format and size, of the most
    /// that live together; readers and writers within each target's life: every path, both stereo forms.
    void the_plan_tells_lives_and_bytes() {
        const std::map<std::string, int> texel = {{"RGBA8", 4},    {"RG8", 2},      {"RG16", 4},
                                                  {"R32F", 4},     {"RG32F", 8},    {"RGBA16F", 8},
                                                  {"RGBA32F", 16}, {"DEPTH32F", 4}, {"DEPTH32F_STENCIL8", 8}};
        for (const char* path : {"forward", "additive", "deferred", "volumes", "tiled-deferred", "tiled-forward",
                                 "clustered-deferred", "clustered-forward"})
            for (const char* stereo : {"off", "two-passes", "one-pass"}) {
                const Ran r = run({"plan", demo_, "--set", QString("path.kind=") + path, "--size", "100x50", "--stereo",
                                   stereo, "--json", "-"});
                QCOMPARE(r.code, 0);
                const json j = json::parse(r.out);
                std::size_t sum = 0, passes = j["passes"].size();
                std::map<std::string, std::vector<std::size_t>> alive; // of a class, bytes at each pass
                for (const json& t : j["targets"]) {
                    const int first = t["first"].get<int>(), last = t["last"].get<int>();
                    const std::size_t bytes = t["bytes"].get<std::size_t>();
                    QVERIFY(first <= last);
                    sum += bytes;
                    const std::string word = t["format"].get<std::string>(),
                                      format = word.rfind("DEPTH32F STENCIL8", 0) == 0 ? "DEPTH32F_STENCIL8"
                                                                                       : word.substr(0, word.find(' '));
                    if (const auto it = texel.find(format); it != texel.end()) {
                        std::size_t own = 0;
                        for (int mip = 0; mip < t["mips"].get<int>(); ++mip)
                            own += std::size_t(std::max(1, t["width"].get<int>() >> mip)) *
                                   static_cast<std::size_t>(std::max(1, t["height"].get<int>() >> mip)) *
                                   static_cast<std::size_t>(it->second * t["layers"].get<int>());
                        QVERIFY2(own == bytes, (t["name"].get<std::string>() + " of " + path).c_str());
                    }
                    for (const char* side : {"readers", "writers"})
                        for (const json& pass : t[side])
                            QVERIFY(pass.get<int>() >= first && pass.get<int>() <= last);
                    const std::string kind = t["kept"].get<bool>() || format == "WORDS" || t["bytesPerPixel"] == 0
                                                 ? t["name"].get<std::string>()
                                                 : format + t["width"].dump() + "x" + t["height"].dump() +
                                                       t["mips"].dump() + t["layers"].dump();
                    auto& at = alive[kind];
                    at.resize(passes);
                    const bool always = t["kept"].get<bool>() || t["life"] == "history";
                    for (int pass = always ? 0 : first; pass <= (always ? static_cast<int>(passes) - 1 : last); ++pass)
                        at[static_cast<std::size_t>(pass)] += bytes;
                }
                std::size_t peak = 0;
                for (const auto& [kind, at] : alive)
                    peak += *std::max_element(at.begin(), at.end());
                QCOMPARE(j["memory"]["sum"].get<std::size_t>(), sum);
                QCOMPARE(j["memory"]["peak"].get<std::size_t>(), peak);
                QVERIFY(j["memory"]["fullestPass"].get<std::size_t>() <= peak);
            }
    }

    void layers_of_one_light_targets_and_comparisons_are_written() {
        const QString light = folder_.filePath("light.exr"), depth = folder_.filePath("depth.exr"),
                      again = folder_.filePath("again.exr");
        QCOMPARE(
            run({"render", demo_, "--size", "64x36", "--layer", "light", "--light", "quay bollard 02", "-o", light})
                .code,
            0);
        QCOMPARE(run({"render", demo_, "--size", "64x36", "--target", "depth", "-o", depth}).code, 0);
        QCOMPARE(run({"render", demo_, "--size", "64x36", "--layer", "depth", "-o", again, "--frames", "3"}).code, 0);
        QCOMPARE(run({"compare", depth, again}).code, 0);
        const Ran different = run({"compare", light, depth, "--json", "-"});
        QVERIFY(different.code == 2 || different.code == 3); // one channel against three, or other values
        const Ran far =
            run({"render", demo_, "--size", "64x36", "--layer", "depth", "--camera", "pier head", "-o", light});
        QCOMPARE(far.code, 0);
        QCOMPARE(run({"compare", depth, light}).code, 3);
    }

    /// Between passes, by level, eye and stencil; what there is not is named.
    void any_target_is_written_as_any_pass_leaves_it() {
        const QString before = folder_.filePath("before.exr"), after = folder_.filePath("after.exr"),
                      layer = folder_.filePath("layer.exr"), marks = folder_.filePath("marks.png");
        const QStringList common = {"render", demo_, "--size", "64x36"};
        QCOMPARE(run(common + QStringList{"--target", "depth", "--after", "opaque", "-o", before}).code, 0);
        QCOMPARE(run(common + QStringList{"--layer", "depth", "-o", layer}).code, 0);
        QCOMPARE(run({"compare", before, layer}).code, 0);
        QCOMPARE(run(common + QStringList{"--target", "scene", "--after", "opaque", "-o", before}).code, 0);
        QCOMPARE(run(common + QStringList{"--target", "scene", "-o", after}).code, 0);
        QCOMPARE(run({"compare", before, after}).code, 3); // the sky came between
        QCOMPARE(run(common + QStringList{"--target", "depth copy", "--after", "volumes", "--stencil", "--set",
                                          "path.kind=volumes", "-o", marks})
                     .code,
                 0);
        const auto picture = mirolux::read_png(marks.toStdString());
        QVERIFY(picture && picture->width == 64 && picture->height == 36);
        QCOMPARE(
            run(common + QStringList{"--stereo", "two-passes", "--target", "scene", "--slice", "1", "-o", after}).code,
            0);
        QCOMPARE(run({"compare", before, after}).code, 3); // another eye, and the sky
        const struct {
            QStringList wrong;
            const char* named;
        } cases[] = {{{"--target", "nothing"}, "neither this frame nor the project"},
                     {{"--target", "scene", "--after", "noon"}, "noon"},
                     {{"--target", "scene", "--slice", "1"}, "layer"},
                     {{"--target", "scene", "--mip", "3"}, "mip"},
                     {{"--target", "depth", "--stencil"}, "stencil"}};
        for (const auto& c : cases) {
            const Ran r = run(common + c.wrong + QStringList{"-o", after});
            QCOMPARE(r.code, c.wrong[1] == "nothing" ? 2 : 4);
            QVERIFY2(r.err.find(c.named) != std::string::npos, r.err.c_str());
        }
    }

    /// A scene file is left as it is, and what a starter would add is said; a project is nobody's business.
    void a_starter_is_offered_and_added_when_it_is_asked_for() {
        const QString scene = QFileInfo(demo_).dir().filePath("kestrel-quay.glb");
        const QString plain = folder_.filePath("plain.png"), lit = folder_.filePath("lit.png");
        const Ran as_is = run({"render", scene, "--size", "64x36", "-o", plain});
        QVERIFY2(as_is.code == 0 && as_is.err.find("--starter would add a metered exposure") != std::string::npos,
                 as_is.err.c_str());
        const Ran started = run({"render", scene, "--size", "64x36", "--starter", "-o", lit});
        QVERIFY2(started.code == 0 && started.err.find("added a metered exposure") != std::string::npos,
                 started.err.c_str());
        QVERIFY(!(*mirolux::read_png(plain.toStdString()) == *mirolux::read_png(lit.toStdString())));
        const QString fixed = folder_.filePath("fixed.png"), set = folder_.filePath("set.png");
        QCOMPARE(
            run({"render", scene, "--size", "64x36", "--starter", "--set", "exposure.ev100=1.5", "-o", fixed}).code, 0);
        QCOMPARE(run({"render", scene, "--size", "64x36", "--set", "exposure.ev100=1.5", "-o", set}).code, 0);
        QVERIFY(*mirolux::read_png(fixed.toStdString()) == *mirolux::read_png(set.toStdString())); // what is set stays
        QVERIFY(run({"info", demo_}).err.empty());
    }

    void a_picture_that_would_not_fit_is_refused_with_a_size_that_does() {
        const Ran r =
            run({"render", demo_, "--size", "4000x3000", "--memory-limit", "64", "-o", folder_.filePath("x.png")});
        QCOMPARE(r.code, 4);
        QVERIFY2(r.err.find("fits") != std::string::npos && r.err.find("MiB") != std::string::npos, r.err.c_str());
    }

    void standard_output_that_is_full_is_an_error() {
        QProcess p;
        p.start("/bin/sh", {"-c", QString("'%1/mirolux-cli' info '%2' --json - > /dev/full").arg(MIROLUX_BIN, demo_)});
        QVERIFY(p.waitForFinished(60000));
        QCOMPARE(p.exitCode(), 2);
        QVERIFY(p.readAllStandardError().contains("standard output"));
    }

    void a_missing_worker_ends_with_4() {
        qputenv("MIROLUX_WORKER", "/nowhere/mirolux-worker");
        const Ran r = run({"render", demo_, "-o", folder_.filePath("x.png")});
        qunsetenv("MIROLUX_WORKER");
        QCOMPARE(r.code, 4);
        QVERIFY(r.err.find("/nowhere/mirolux-worker") != std::string::npos);
    }

    void the_demo_generator_is_deterministic() {
        for (const char* name : {"one", "two"}) {
            QProcess p;
            p.start(QString(MIROLUX_BIN) + "/mirolux-make-demo", {folder_.filePath(name)});
            QVERIFY(p.waitForFinished(60000) && p.exitCode() == 0);
        }
        for (const char* file : {"/kestrel-quay.glb", "/kestrel-quay.mirolux"}) {
            QFile a(folder_.filePath("one") + file), b(folder_.filePath("two") + file);
            QVERIFY(a.open(QIODevice::ReadOnly) && b.open(QIODevice::ReadOnly));
            QVERIFY(a.readAll() == b.readAll());
        }
    }

    void measurements_are_logged_queried_and_told_as_a_journal() {
        QVERIFY(QFile::copy(demo_, folder_.filePath("logged.mirolux")));
        QFile::copy(QFileInfo(demo_).dir().filePath("kestrel-quay.glb"), folder_.filePath("kestrel-quay.glb"));
        const QString project = folder_.filePath("logged.mirolux");
        QCOMPARE(run({"journal", project}).code, 2);
        for (const char* path : {"path.kind=forward", "path.kind=tiled-deferred"})
            QCOMPARE(run({"measure", project, "--size", "96x54", "--rounds", "5", "--log", "--set", path}).code, 0);
        const Ran r = run({"journal", project, "--json", "-", "--html", folder_.filePath("j.html"), "--csv",
                           folder_.filePath("j.csv")});
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        QCOMPARE(j["entries"].size(), std::size_t(2));
        QCOMPARE(j["entries"][1]["changes"][0].get<std::string>(), std::string("Path forward \u2192 tiled-deferred"));
        QVERIFY(j["entries"][1]["measurement"]["passes"].size() > 3);
        QVERIFY(QFileInfo(folder_.filePath("j.html")).size() > 5000 &&
                QFileInfo(folder_.filePath("j.csv")).size() > 200);
        const auto count = [&](const QStringList& more) {
            return json::parse(run(QStringList{"journal", project, "--json", "-"} + more).out)["entries"].size();
        };
        QCOMPARE(count({"--setup-digest", QString::fromStdString(j["entries"][0]["setupDigest"])}), std::size_t(1));
        QCOMPARE(count({"--on-device", QString::fromStdString(j["entries"][0]["device"])}), std::size_t(2));
        QCOMPARE(count({"--scene-digest", "0"}), std::size_t(0));
        QCOMPARE(run({"measure", QFileInfo(demo_).dir().filePath("kestrel-quay.glb"), "--size", "64x36", "--rounds",
                      "5", "--log"})
                     .code,
                 2); // a scene file has no logbook
    }

    /// The command itself, killed in the middle of a long measurement: the rounds until then come back as an entry.
    void a_killed_measurement_keeps_its_rounds() {
        QVERIFY(QFile::copy(demo_, folder_.filePath("killed.mirolux")));
        QFile::copy(QFileInfo(demo_).dir().filePath("kestrel-quay.glb"), folder_.filePath("kestrel-quay.glb"));
        const QString project = folder_.filePath("killed.mirolux");
        QProcess p;
        p.start(QString(MIROLUX_BIN) + "/mirolux-cli",
                {"measure", project, "--size", "64x36", "--rounds", "100000", "--log"});
        QVERIFY(p.waitForStarted());
        QTest::qWait(6000);
        p.kill();
        p.waitForFinished();
        const json j = json::parse(run({"journal", project, "--json", "-"}).out);
        QCOMPARE(j["entries"].size(), std::size_t(1));
        QVERIFY(j["entries"][0]["recovered"].get<bool>() && j["entries"][0]["rounds"].get<int>() > 3);
    }

    void targets_and_predictions_say_what_they_are() {
        const Ran r =
            run({"targets", demo_, "--rounds", "5", "--set", "path.kind=tiled-deferred", "--json", "-"}, 300000);
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        QCOMPARE(j["targets"].size(), std::size_t(4));
        QVERIFY(!j["targets"][0]["predicted"].get<bool>() && j["targets"][0].contains("p95Ms") &&
                !j["targets"][0].contains("predictedMs"));
        QVERIFY(j["targets"][2]["predicted"].get<bool>() && j["targets"][2]["madeUp"].get<bool>() &&
                !j["targets"][2].contains("p95Ms"));
        const Ran p = run({"predict", demo_, "--profile", "desktop", "--size", "160x90", "--json", "-"});
        QCOMPARE(p.code, 0);
        QVERIFY(json::parse(p.out)["predictedMs"].get<double>() > 0);
        QVERIFY(run({"predict", demo_, "--profile", "desktop", "--size", "160x90"}).out.find("not measured") !=
                std::string::npos);
        QCOMPARE(run({"predict", demo_, "--profile", "nowhere"}).code, 2);
        QCOMPARE(run({"predict", demo_, "--gate", "20"}).code, 2); // of a check that is not asked for
        QCOMPARE(run({"measure", demo_, "--target", "Headset"}).code,
                 2); // of another device: nothing is measured against it
        QCOMPARE(run({"profiles", "headset", "-o", folder_.filePath("headset.json")}).code, 0);
        QCOMPARE(run({"predict", demo_, "--profile", folder_.filePath("headset.json"), "--size", "64x36"}).code, 0);
    }

    void objects_are_listed_hidden_moved_and_charged() {
        const json info = json::parse(run({"info", demo_, "--json", "-"}).out);
        std::set<std::string> ids;
        for (const json& o : info["objects"]) {
            for (const char* key : {"id", "name", "triangles", "bounds"})
                QVERIFY2(o.contains(key), key);
            ids.insert(o["id"]);
        }
        QCOMPARE(ids.size(), info["objects"].size());
        QVERIFY(ids.size() > 500);
        QVERIFY(run({"info", demo_, "--objects", "ticket*"}).out.find("ticket kiosk#1") != std::string::npos);
        const QStringList small = {"--size", "96x54", "--set", "path.kind=tiled-forward"};
        const auto pictures = [&](const QStringList& more, const char* name) {
            const QString file = folder_.filePath(name);
            if (run(QStringList{"render", demo_, "-o", file} + small + more).code != 0) return std::string();
            QFile f(file);
            return f.open(QIODevice::ReadOnly) ? f.readAll().toStdString() : std::string();
        };
        const std::string plain = pictures({}, "plain.png"),
                          hidden = pictures({"--hide", "waiting hall"}, "hidden.png"),
                          moved = pictures({"--move", "waiting hall=0,0,3"}, "moved.png");
        QVERIFY(!plain.empty() && !hidden.empty() && !moved.empty());
        QVERIFY(plain != hidden && plain != moved && hidden != moved);
        // Unseen is not drawn; casting or not changes nothing that is seen of a frame without shadows.
        QVERIFY(pictures({"--casts", "waiting hall=unseen"}, "unseen.png") == hidden);
        QVERIFY(pictures({"--casts", "waiting hall=no"}, "through.png") == plain);
        QCOMPARE(run({"render", demo_, "-o", folder_.filePath("x.png"), "--casts", "waiting hall=maybe"}).code, 2);
        QCOMPARE(run({"render", demo_, "-o", folder_.filePath("x.png"), "--hide", "no such thing"}).code, 2);
        QCOMPARE(run({"render", demo_, "-o", folder_.filePath("x.png"), "--move", "crate=1,2"}).code, 2);
        const Ran r = run(QStringList{"ledger", demo_, "--objects", "--json", "-"} + small);
        QCOMPARE(r.code, 0);
        const json ledger = json::parse(r.out);
        std::uint64_t sum = 0;
        for (const json& o : ledger["objects"])
            sum += o["evaluations"].get<std::uint64_t>();
        QCOMPARE(sum, ledger["evaluations"].get<std::uint64_t>());
        QVERIFY(run(QStringList{"ledger", demo_, "--objects"} + small).out.find("fragments") != std::string::npos);
        QCOMPARE(run(QStringList{"render", demo_, "--target", "motion", "--set", "motion.write=always", "-o",
                                 folder_.filePath("motion.exr")} +
                     small)
                     .code,
                 0);
    }

    /// A target's own setup, size and what is off on it hold for every command that renders.
    void a_projects_target_is_rendered_as_it_is() {
        using namespace mirolux;
        auto open = open_project(demo_.toStdString(), {.decodeImages = false});
        QVERIFY(open.has_value());
        Project p = open->project;
        p.targetByDevice = false;
        Target tiny = plain_target("Tiny", 64, 36, 500);
        tiny.setup = p.setup;
        QVERIFY(tiny.setup->set("path.kind", std::string("deferred")).has_value());
        for (const Light& l : p.lights)
            if (l.type != LightType::directional) tiny.offLights.push_back(l.id);
        std::sort(tiny.offLights.begin(), tiny.offLights.end());
        tiny.offObjects = {open->asset->objectNames[0].id};
        p.targets.push_back(tiny);
        const QString file = folder_.filePath("targets.mirolux");
        p.path = file.toStdString();
        QVERIFY(save_project(p, *open->asset, p.path).has_value());
        const json plan = json::parse(run({"plan", file, "--target", "Tiny", "--json", "-"}).out);
        QVERIFY(plan["passes"].dump().find("g-buffer") != std::string::npos);
        QCOMPARE(plan["lightsInScene"].get<int>(), 1);
        QVERIFY(run({"plan", file, "--json", "-"}).out.find("g-buffer") == std::string::npos);
        // render: a target of the frame, one of the project, and both.
        const QString exr = folder_.filePath("t.exr");
        const auto size = [&](const QStringList& more) {
            if (run(QStringList{"render", file, "-o", exr} + more).code != 0) return std::pair(0, 0);
            const auto image = read_exr(exr.toStdString());
            return image ? std::pair(image->width, image->height) : std::pair(0, 0);
        };
        QCOMPARE(size({"--target", "Tiny"}), std::pair(64, 36));
        QCOMPARE(size({"--target", "Tiny", "--target", "normal"}), std::pair(64, 36)); // only its own path has one
        QCOMPARE(size({"--target", "scene", "--size", "80x45"}), std::pair(80, 45));
        QCOMPARE(run({"render", file, "-o", exr, "--target", "nowhere"}).code, 2);
        const Ran m = run({"measure", file, "--target", "Tiny", "--rounds", "2", "--json", "-"});
        const json measured = json::parse(m.out);
        QCOMPARE(measured["size"][0].get<int>(), 64);
        const json judged = json::parse(run({"targets", file, "--target", "Tiny", "--rounds", "2", "--json", "-"}).out);
        QCOMPARE(judged["targets"].size(), std::size_t(1));
    }

    /// What a change would cost starts from what is measured now, with the profile that is kept of this device.
    void a_change_is_foreseen_by_the_devices_own_profile() {
        QTemporaryDir data;
        qputenv("XDG_DATA_HOME", data.path().toUtf8());
        const Ran none = run({"predict", demo_, "--size", "64x36", "--set", "path.kind=deferred"});
        QCOMPARE(none.code, 2);
        QVERIFY2(none.err.find("calibrate --keep") != std::string::npos, none.err.c_str());
        const json device =
            json::parse(run({"measure", demo_, "--size", "64x36", "--rounds", "1", "--json", "-"}).out)["device"];
        mirolux::DeviceInfo info{device["renderer"], device["vendor"], device["version"], "", {}};
        mirolux::DeviceProfile profile = *mirolux::find_profile("desktop");
        profile.name = "here";
        profile.madeUp = false;
        profile.device = info.renderer + ", " + info.version;
        QVERIFY(mirolux::keep_own_profile(info, profile).has_value());
        const json j = json::parse(run({"predict", demo_, "--size", "64x36", "--set", "path.kind=deferred", "--set",
                                        "shading.model=lambert", "--json", "-"})
                                       .out);
        const json& f = j["foresight"];
        QVERIFY(f["nowMs"].get<double>() > 0 && f["lowMs"].get<double>() < f["ms"].get<double>());
        double sum = 0;
        bool shading = false;
        for (const json& p : f["passes"]) {
            sum += p["ms"].get<double>();
            shading = shading || (p["name"] == "shading" && p["nowMs"] == 0.0 && p["changed"] == true);
        }
        QVERIFY(shading && std::abs(sum - f["ms"].get<double>()) < 1e-6 * sum);
        QVERIFY(!json::parse(run({"predict", demo_, "--size", "64x36", "--json", "-"}).out).contains("foresight"));
        const Ran changes = run({"predict", demo_, "--size", "64x36", "--changes", "2", "--report",
                                 folder_.filePath("changes.md"), "--json", "-"});
        QCOMPARE(changes.code, 0);
        QCOMPARE(json::parse(changes.out)["check"]["changes"].size(), std::size_t(2));
        QVERIFY(QFileInfo(folder_.filePath("changes.md")).size() > 300);
        qunsetenv("XDG_DATA_HOME");
    }

    void noise_is_recorded_and_studied() {
        const Ran r = run({"noise", demo_, "--size", "64x36", "--frames", "150", "--report",
                           folder_.filePath("method.md"), "--json", "-"});
        QCOMPARE(r.code, 0);
        const json j = json::parse(r.out);
        QCOMPARE(j["framesMs"].size(), std::size_t(150));
        QCOMPARE(j["ways"].size(), std::size_t(3));
        QVERIFY(QFileInfo(folder_.filePath("method.md")).size() > 300);
    }

    /// The example of docs/gate.md: writes its baseline, passes against it, and fails once the baseline is made an
    /// eighth of what it was.
    void the_gate_of_the_docs_passes_and_fails() {
        QVERIFY(QFile::copy(demo_, folder_.filePath("gated.mirolux")));
        QFile::copy(QFileInfo(demo_).dir().filePath("kestrel-quay.glb"), folder_.filePath("kestrel-quay.glb"));
        const QString baseline = folder_.filePath("baseline.json");
        const auto gate = [&] {
            QProcess p;
            auto environment = QProcessEnvironment::systemEnvironment();
            environment.insert("MIROLUX_CLI", QString(MIROLUX_BIN) + "/mirolux-cli");
            environment.insert("SIZE", "64x36");
            environment.insert("ROUNDS", "8");
            p.setProcessEnvironment(environment);
            p.start("bash", {QString(MIROLUX_SOURCE) + "/docs/gate-example.sh", folder_.filePath("gated.mirolux"),
                             baseline, "100"});
            p.waitForFinished(120000);
            return p.exitCode();
        };
        QCOMPARE(gate(), 0);
        QVERIFY(QFileInfo::exists(baseline));
        QCOMPARE(gate(), 0); // twice as slow is allowed
        QVERIFY(QFileInfo::exists(folder_.filePath("baseline.journal.html")));
        QFile file(baseline);
        QVERIFY(file.open(QIODevice::ReadOnly));
        json j = json::parse(file.readAll().toStdString());
        file.close();
        for (json& ms : j["frame"]["samplesMs"])
            ms = ms.get<double>() / 8;
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(QByteArray::fromStdString(j.dump()));
        file.close();
        QCOMPARE(gate(), 3);
    }
};

MIROLUX_TEST(cli_test)
#include "cli_test.moc"
