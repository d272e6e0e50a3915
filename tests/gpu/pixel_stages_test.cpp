#include "core/finish/exposure.h"
#include "core/finish/tone_curve.h"
#include "core/light/tone.h"
#include "flat_session.h"

using namespace mirolux;
using namespace mirolux::test;

class pixel_stages_test : public QObject {
    Q_OBJECT

    static std::vector<PixelStage> stages_of(const Scene& scene, const Setup& setup, const View& view, glm::ivec2 pixel,
                                             FrameRecord* all = nullptr) {
        RenderOptions o;
        o.probe = pixel;
        o.floatLayers = {"final"};
        FrameRecord r = answer_to(scene, setup, view, o);
        std::vector<PixelStage> out = r.probe->stages;
        if (all) *all = std::move(r);
        return out;
    }
    static const PixelStage* stage(const std::vector<PixelStage>& all, const std::string& name) {
        for (const PixelStage& s : all)
            if (s.name == name) return &s;
        return nullptr;
    }
    static bool near(const glm::dvec3& a, const glm::dvec3& b, double part) {
        return glm::length(a - b) <= part * std::max(1e-3, glm::length(b));
    }

private slots:
    /// From the surfaces to the codes, each value by the reference's formula; the last one is the picture's.
    void each_stage_is_the_reference_s() {
        const Scene scene = random_scene(6, 14);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        for (const char* curve : {"filmic", "neutral", "reinhard"}) {
            const Setup s =
                setup_with({{"tone.curve", curve}, {"tone.whiteBalance", "4000"}, {"path.targetFormat", "rgba32f"}});
            for (const glm::ivec2 pixel : {glm::ivec2(48, 40), glm::ivec2(10, 50), glm::ivec2(70, 20)}) {
                FrameRecord r;
                const auto stages = stages_of(scene, s, view, pixel, &r);
                QCOMPARE(stages.front().name, std::string("surfaces"));
                const float* radiance = r.floats.at("final").pixel(pixel.x, pixel.y);
                const glm::dvec3 own(radiance[0], radiance[1], radiance[2]),
                    exposed = own * tone::exposure_scale(hand_ev100(s));
                QVERIFY(near(glm::dvec3(stages.front().value), own, 1e-4));
                QVERIFY(near(glm::dvec3(stage(stages, "exposed")->value), exposed, 1e-4));
                QVERIFY(near(glm::dvec3(stage(stages, "white balance")->value), exposed * white_balance(s), 1e-4));
                const glm::dvec3 bent = toned(exposed, s);
                QVERIFY(near(glm::dvec3(stage(stages, "tone curve")->value), bent, 2e-3));
                for (int c = 0; c < 3; ++c) {
                    QVERIFY(std::abs(stage(stages, "sRGB's code")->value[c] - srgb_encode(bent[c])) < 2e-3);
                    QCOMPARE(int(std::lround(255 * stages.back().value[c])),
                             int(r.picture.rgba[std::size_t(4 * (pixel.y * 96 + pixel.x) + c)]));
                }
                QVERIFY(!stage(stages, "glow and lines laid over") && !stage(stages, "frames joined"));
            }
        }
    }

    /// Stages that a setup has not are not told; those that it has are, in their order.
    void only_what_is_done_is_told() {
        const Scene scene = random_scene(6, 14);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        const auto names = [&](const std::vector<std::pair<std::string, std::string>>& values) {
            std::string out;
            for (const PixelStage& s : stages_of(scene, setup_with(values), view, {40, 30}))
                out += (out.empty() ? "" : "; ") + s.name;
            return out;
        };
        QCOMPARE(names({}), std::string("surfaces; exposed; tone curve; sRGB's code; dithered, rounded"));
        QCOMPARE(names({{"edges.kind", "temporal"}, {"bloom.kind", "chain"}}),
                 std::string("surfaces; frames joined; glow and lines laid over; exposed; tone curve; sRGB's code; "
                             "dithered, rounded"));
        QCOMPARE(names({{"edges.kind", "supersample"}, {"tone.curve", "none"}}),
                 std::string("surfaces; brought to size; exposed; tone curve; dithered, rounded"));
        QCOMPARE(names({{"edges.kind", "multisample"}}),
                 std::string("samples averaged; exposed; tone curve; sRGB's code; dithered, rounded"));
        QVERIFY(names({{"edges.kind", "filter"}}).ends_with("edges smoothed, dithered, rounded"));
    }

    void flat_stages_tell_theirs() {
        const FlatStage flat = flat_stage(4, 8, 5);
        const auto stages = stages_of(flat.scene, flat.setup, flat.view, {20, 20});
        QCOMPARE(stages.front().name, std::string("surfaces"));
        QCOMPARE(stages.back().name, std::string("dithered, rounded"));
    }
};

MIROLUX_TEST(pixel_stages_test)
#include "pixel_stages_test.moc"
