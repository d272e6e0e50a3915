#include "core/finish/layer_sheet.h"
#include "core/image/image_io.h"
#include "session_fixture.h"
#include <QTemporaryDir>
#include <set>

using namespace mirolux;
using namespace mirolux::test;

class layer_sheet_test : public QObject {
    Q_OBJECT

    static const FloatImage& values_of(const LayerSheet& sheet, const std::string& name) {
        for (const auto& [own, image] : sheet.values)
            if (own == name) return image;
        qFatal("no layer %s", name.c_str());
    }

private slots:
    /// On every path, with all that joins ambient light, the layers that add up are the scene before bloom.
    void parts_sum_to_the_scene_on_all_paths() {
        const Scene scene = random_scene(6, 14);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        for (const char* path : paths) {
            const Setup s = setup_with({{"path.kind", path},
                                        {"path.maxLights", "64"},
                                        {"path.targetFormat", "rgba32f"},
                                        {"ambient.kind", "environment"},
                                        {"environment.size", "32"},
                                        {"occlusion.kind", "horizon"},
                                        {"reflection.kind", "screen"},
                                        {"shadow.maps", "on"},
                                        {"air.kind", "uniform"},
                                        {"air.extinction", "0.02"},
                                        {"bloom.kind", "chain"}});
            const auto sheet = layer_sheet(session(), scene, s, view, 48, 27, false);
            QVERIFY2(sheet.has_value(), sheet ? "" : to_text(sheet.error()).c_str());
            QVERIFY2(sheet->worst < 0.01 && sheet->rest < 1e-3,
                     qPrintable(QString("%1: %2, %3").arg(path).arg(sheet->worst).arg(sheet->rest)));
            std::set<std::string> names;
            for (const SheetCell& c : sheet->parts)
                names.insert(c.name);
            for (const char* part : {"ambient", "diffuse", "specular", "emissive", "sky", "airlight"})
                QVERIFY2(names.count(part), part);
            QVERIFY(!names.count("rest"));
        }
    }

    /// What no layer shows stands on the sheet as the rest, and fills the sum.
    void what_no_layer_shows_is_the_rest() {
        const Demo d = demo(96, 54);
        const Setup s = setup_with({{"path.kind", "tiled-deferred"},
                                    {"air.kind", "height"},
                                    {"air.extinction", "0.02"},
                                    {"beams.kind", "mesh"},
                                    {"beams.strength", "0.2"}});
        const auto sheet = layer_sheet(session(), d.scene, s, d.view, 48, 27, false);
        QVERIFY(sheet.has_value());
        QVERIFY2(sheet->rest > 0.005, qPrintable(QString::number(sheet->rest)));
        QCOMPARE(sheet->parts.back().name, std::string("rest"));
        QVERIFY(sheet->parts.back().role.find("beams") != std::string::npos);
        FloatImage sum = values_of(*sheet, "rest");
        for (const SheetCell& c : sheet->parts)
            if (c.name != "rest")
                for (std::size_t i = 0; i < sum.data.size(); ++i)
                    sum.data[i] += values_of(*sheet, c.name).data[i];
        QVERIFY(largest_relative_difference(sum, values_of(*sheet, "final"), 0.05) < 1e-3);
    }

    void factors_say_what_they_multiply() {
        const Setup s = setup_with({{"ambient.kind", "environment"},
                                    {"occlusion.kind", "horizon"},
                                    {"shadow.maps", "on"},
                                    {"air.kind", "uniform"}});
        std::map<std::string, std::string> roles;
        for (const LayerInfo* l : sheet_layers(s))
            roles[l->name] = role_of(*l);
        QCOMPARE(roles.at("occlusion"), std::string("multiplies ambient light"));
        QCOMPARE(roles.at("screenOcclusion"), std::string("multiplies ambient light"));
        QCOMPARE(roles.at("shadow"), std::string("multiplies the lamps' light"));
        QCOMPARE(roles.at("transmittance"), std::string("multiplies all but air light"));
        QCOMPARE(roles.at("environment"), std::string("part of Ambient"));
        QCOMPARE(roles.at("diffuse"), std::string("adds"));
        QCOMPARE(roles.at("final"), std::string("shown"));
    }

    /// The sheet as a picture, in colour and in grey, and as an OpenEXR file whose parts bear the layers' names.
    void sheets_are_written() {
        const Scene scene = random_scene(6, 8);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const auto sheet = layer_sheet(session(), scene, Setup(), view, 48, 27, false);
        QVERIFY(sheet.has_value());
        QCOMPARE(sheet->sums.size(), sheet->parts.size());
        const ByteImage picture = sheet_picture(*sheet, 3);
        QVERIFY(picture.width > 3 * 48 && picture.height > 4 * 27);
        const auto grey = layer_sheet(session(), scene, Setup(), view, 48, 27, true);
        bool colored = false;
        const auto hue = [](const ByteImage& p) {
            int most = 0;
            for (std::size_t i = 0; i < p.rgba.size(); i += 4)
                most = std::max(most, std::abs(int(p.rgba[i]) - int(p.rgba[i + 2])));
            return most;
        };
        for (const SheetCell& c : sheet->parts)
            colored = colored || hue(c.picture) > 10;
        QVERIFY(colored);
        for (const SheetCell& c : grey->parts)
            QCOMPARE(hue(c.picture), 0);
        QTemporaryDir folder;
        const std::filesystem::path file = folder.filePath("sheet.exr").toStdString();
        QVERIFY(write_sheet(file, *sheet).has_value());
        const auto parts = exr_parts(file);
        QVERIFY2(parts.has_value(), parts ? "" : to_text(parts.error()).c_str());
        QCOMPARE(parts->size(), sheet->values.size());
        QCOMPARE(parts->front(), sheet->values.front().first);
        QVERIFY(!exr_parts(folder.filePath("none.exr").toStdString()));
    }
};

MIROLUX_TEST(layer_sheet_test)
#include "layer_sheet_test.moc"
