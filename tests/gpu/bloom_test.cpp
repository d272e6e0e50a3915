#include "core/finish/bands.h"
#include "core/finish/bloom.h"
#include "core/finish/dither.h"
#include "core/finish/exposure.h"
#include "core/finish/histogram.h"
#include "core/light/tone.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

class bloom_test : public QObject {
    Q_OBJECT
    static FrameRecord shown(const Scene& scene, const Setup& setup, const View& view,
                             const std::string& show = "final") {
        RenderOptions o;
        o.show = show;
        o.floatLayers = {"final"};
        return answer_to(scene, setup, view, o);
    }
    static int most_apart(const ByteImage& a, const ByteImage& b) {
        int most = 0;
        for (std::size_t i = 0; i < a.rgba.size(); ++i)
            most = std::max(most, std::abs(int(a.rgba[i]) - int(b.rgba[i])));
        return most;
    }

private slots:
    /// The picture with its bloom against the reference in double, on every form of it.
    void the_picture_is_the_reference_s() {
        const Demo d = demo(240, 134);
        for (const auto& more : std::vector<std::vector<std::pair<std::string, std::string>>>{
                 {{"bloom.kind", "threshold"}, {"bloom.scale", "full"}, {"bloom.share", "0.5"}},
                 {{"bloom.kind", "threshold"}, {"bloom.scale", "half"}, {"bloom.radius", "12"}},
                 {{"bloom.kind", "threshold"},
                  {"bloom.scale", "quarter"},
                  {"bloom.threshold", "0.2"},
                  {"bloom.knee", "1"}},
                 {{"bloom.kind", "chain"}, {"bloom.share", "0.4"}},
                 {{"bloom.kind", "chain"}, {"bloom.tame", "off"}, {"bloom.radius", "25"}, {"bloom.spread", "0.9"}},
                 {{"bloom.kind", "chain"}, {"exposure.kind", "metered"}}}) {
            auto values = more;
            values.insert(values.end(), {{"output.dither", "none"}, {"path.targetFormat", "rgba32f"}});
            const Setup s = setup_with(values);
            const FrameRecord r = shown(d.scene, s, d.view);
            const Setup hand = exposed_as(s, r.told);
            const FloatImage& radiance = r.floats.at("final");
            const FloatImage wanted = bloomed(radiance, s, tone::exposure_scale(hand_ev100(hand)));
            QVERIFY2(most_apart(r.picture, displayed_picture(wanted, hand)) <= 1,
                     qPrintable(QString::fromStdString(to_text(s.get("bloom.kind")))));
            // It is another picture than without, and the radiance before it is the same.
            QVERIFY(most_apart(r.picture, displayed_picture(radiance, hand)) > 8);
        }
    }

    void layers_of_surfaces_stay_without() {
        const Scene scene = random_scene(6, 12);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const Setup off = setup_with({{"output.dither", "none"}}),
                    on = setup_with({{"output.dither", "none"}, {"bloom.kind", "chain"}});
        QVERIFY(shown(scene, off, view, "diffuse").picture == shown(scene, on, view, "diffuse").picture);
        QVERIFY(!(shown(scene, off, view).picture == shown(scene, on, view).picture));
    }

    /// Both eyes bloom by themselves, in two passes and in one.
    void eyes_bloom_alike() {
        const Scene scene = random_scene(6, 12);
        View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const Setup s = setup_with({{"bloom.kind", "chain"}, {"bloom.share", "0.5"}, {"output.dither", "none"}});
        RenderOptions o;
        o.bothEyes = true;
        view.stereo = Stereo::twoPasses;
        const FrameRecord two = answer_to(scene, s, view, o);
        view.stereo = Stereo::onePass;
        const FrameRecord one = answer_to(scene, s, view, o);
        QVERIFY(most_apart(one.picture, two.picture) <= 1);
    }

    /// Codes of the picture are those that the reference rounds to, for each dither and number of bits.
    void codes_are_the_reference_s() {
        const Scene scene = random_scene(6, 20);
        const View view = view_from({0, 4, 12}, {0, 1, 0}, 96, 70);
        for (const char* dither : {"none", "ordered", "blue", "triangular"})
            for (const char* bits : {"8", "6", "5"})
                for (const char* tile : {"4x4", "8x8"}) {
                    if (tile == std::string("4x4") && dither != std::string("ordered")) continue;
                    const Setup s = setup_with({{"output.dither", dither},
                                                {"output.bits", bits},
                                                {"output.tile", tile},
                                                {"path.targetFormat", "rgba32f"}});
                    const FrameRecord r = shown(scene, s, view);
                    const FloatImage& radiance = r.floats.at("final");
                    const double scale = tone::exposure_scale(hand_ev100(s));
                    int apart = 0;
                    for (int y = 0; y < view.height; ++y)
                        for (int x = 0; x < view.width; ++x)
                            for (int c = 0; c < 3; ++c) {
                                const double wanted = 255 * coded_value(displayed(radiance.pixel(x, y)[c] * scale, s),
                                                                        dither_at(s, x, y), code_steps(s));
                                apart +=
                                    std::abs(r.picture.rgba[std::size_t(4 * (y * view.width + x) + c)] - wanted) > 0.51;
                            }
                    // Floats fall on the other side of a rounding now and then.
                    QVERIFY2(apart < 3 * view.width * view.height / 500,
                             qPrintable(QString("%1 %2: %3").arg(dither, bits).arg(apart)));
                }
    }

    /// The band view marks what the reference marks in the picture that is shown.
    void bands_are_marked_where_they_are() {
        Scene scene{finished(SceneAsset()), {}, {}, {{0.5f, 0.5f, 0.5f}, {0.3f, 0.3f, 0.3f}}};
        const View view = view_from({0, 1, 0}, {0, 1.4f, -1}, 160, 120);
        const Setup s = setup_with({{"output.dither", "none"}, {"output.bits", "6"}, {"output.bandWidth", "3"}});
        const ByteImage picture = shown(scene, s, view).picture, bands = shown(scene, s, view, "bands").picture;
        const auto edges = band_edges(picture, 3, most_of_band(s));
        int marked = 0;
        for (std::size_t i = 0; i < edges.size(); ++i) {
            const bool orange = bands.rgba[4 * i] == 255 && bands.rgba[4 * i + 2] < 60;
            QCOMPARE(orange, edges[i] == 1);
            marked += orange;
        }
        QVERIFY(marked > 100);
    }
};

MIROLUX_TEST(bloom_test)
#include "bloom_test.moc"
