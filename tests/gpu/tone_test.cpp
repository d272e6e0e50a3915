#include "core/finish/color_table.h"
#include "core/finish/histogram.h"
#include "core/finish/tone_curve.h"
#include "core/io/file.h"
#include "core/light/luminance.h"
#include "core/light/tone.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

class tone_test : public QObject {
    Q_OBJECT
    static FrameRecord shown(const Scene& scene, const Setup& setup, const View& view,
                             const std::string& show = "final") {
        RenderOptions o;
        o.show = show;
        o.floatLayers = {"final"};
        return answer_to(scene, setup, view, o);
    }

private slots:
    /// Every curve, by channel and by luminance, balanced or not: the picture against the reference in double.
    void pictures_are_the_reference_s() {
        const Demo d = demo(200, 112);
        for (const char* curve : {"none", "clamp", "reinhard", "filmic", "neutral", "own"})
            for (const char* by : {"channel", "luminance"})
                for (const char* kelvin : {"6500", "3200"}) {
                    const Setup s = setup_with({{"tone.curve", curve},
                                                {"tone.by", by},
                                                {"tone.whiteBalance", kelvin},
                                                {"tone.own2", "0.2"},
                                                {"exposure.ev100", "-3"},
                                                {"output.dither", "none"},
                                                {"path.targetFormat", "rgba32f"}});
                    const FrameRecord r = shown(d.scene, s, d.view);
                    const ByteImage wanted = displayed_picture(r.floats.at("final"), s);
                    int most = 0;
                    for (std::size_t i = 0; i < wanted.rgba.size(); ++i)
                        most = std::max(most, std::abs(int(wanted.rgba[i]) - int(r.picture.rgba[i])));
                    QVERIFY2(most <= 1, qPrintable(QString("%1 by %2 at %3 K: %4").arg(curve, by, kelvin).arg(most)));
                }
    }

    /// The picture through a table against the table's own look-up; one that is broken is left out and told.
    void a_table_changes_the_codes() {
        QTemporaryDir folder;
        std::string text = "LUT_3D_SIZE 5\n";
        for (int i = 0; i < 125; ++i)
            text += std::to_string(std::sqrt((i / 25) / 4.0)) + " " + std::to_string((i % 5) / 4.0) + " " +
                    std::to_string(1 - (i / 5 % 5) / 5.0) + "\n";
        const std::string path = folder.filePath("turned.cube").toStdString();
        QVERIFY(write_file_atomically(path, text).has_value());
        const auto table = color_table(path);
        QVERIFY(table.has_value());
        const Scene scene = random_scene(6, 20);
        const View view = view_from({0, 4, 12}, {0, 1, 0}, 80, 60);
        const Setup s = setup_with({{"tone.file", path}, {"output.dither", "none"}, {"path.targetFormat", "rgba32f"}});
        const FrameRecord r = shown(scene, s, view);
        const double scale = tone::exposure_scale(0);
        int apart = 0;
        for (int y = 0; y < view.height; ++y)
            for (int x = 0; x < view.width; ++x) {
                const float* p = r.floats.at("final").pixel(x, y);
                const glm::dvec3 wanted =
                    255.0 * (*table)->at(displayed_color(glm::dvec3(p[0], p[1], p[2]) * scale, s));
                for (int c = 0; c < 3; ++c)
                    apart =
                        std::max(apart, static_cast<int>(std::abs(
                                            r.picture.rgba[std::size_t(4 * (y * view.width + x) + c)] - wanted[c])));
            }
        QVERIFY2(apart <= 1, qPrintable(QString::number(apart)));
        const Setup plain = setup_with({{"output.dither", "none"}, {"path.targetFormat", "rgba32f"}});
        const ByteImage without = answer_to(scene, plain, view).picture;
        QVERIFY(!(without == r.picture));
        // Not there: the picture is as without, and the plan says so.
        const Setup gone =
            setup_with({{"tone.file", path + ".not"}, {"output.dither", "none"}, {"path.targetFormat", "rgba32f"}});
        QVERIFY(answer_to(scene, gone, view).picture == without);
        const FramePlan plan = plan_frame(scene, gone, view);
        QVERIFY(std::any_of(plan.notes.begin(), plan.notes.end(), [](const std::string& n) {
            return n.find("colour table is left out") != std::string::npos;
        }));
    }

    void views_of_stops_and_clips_say_what_the_numbers_say() {
        const Scene scene = random_scene(6, 30);
        const View view = view_from({0, 4, 12}, {0, 1, 0}, 96, 64);
        const Setup s =
            setup_with({{"exposure.ev100", "-4"}, {"output.dither", "none"}, {"path.targetFormat", "rgba32f"}});
        const FloatImage radiance = shown(scene, s, view).floats.at("final");
        const ByteImage stops = shown(scene, s, view, "stops").picture, clips = shown(scene, s, view, "clips").picture;
        const double scale = tone::exposure_scale(-4);
        std::uint32_t clipped = 0, crushed = 0, seen = 0;
        for (int y = 0; y < view.height; ++y)
            for (int x = 0; x < view.width; ++x) {
                const float* p = radiance.pixel(x, y);
                const double at = std::log2(std::max(luminance(glm::dvec3(p[0], p[1], p[2])) * scale, 1e-20) / 0.18);
                const std::size_t i = 4 * std::size_t(y * view.width + x);
                clipped += clips.rgba[i] == 255 && clips.rgba[i + 2] < 60;
                crushed += clips.rgba[i + 2] > 200 && clips.rgba[i] < 60;
                if (std::abs(at + 0.5 - std::round(at + 0.5)) < 0.01) continue; // at the edge of a step
                const glm::dvec3 wanted = 255.0 * stop_color(at);
                for (int c = 0; c < 3; ++c)
                    QVERIFY(std::abs(stops.rgba[i + std::size_t(c)] - wanted[c]) <= 1);
                ++seen;
            }
        const LuminanceHistogram h = luminance_histogram(radiance, s);
        QVERIFY(seen > 5000 && h.clipped > 20);
        QVERIFY(std::abs(int(h.clipped) - int(clipped)) <= 2 && std::abs(int(h.crushed) - int(crushed)) <= 2);
    }
};

MIROLUX_TEST(tone_test)
#include "tone_test.moc"
