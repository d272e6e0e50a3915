#include "core/finish/exposure.h"
#include "core/light/tone.h"
#include "session_fixture.h"
#include "support/flat_scenes.h"

using namespace mirolux;
using namespace mirolux::test;

class exposure_test : public QObject {
    Q_OBJECT
    /// Nothing but sky of one luminance.
    static Scene even(float luminance) {
        static const Scene empty{finished(SceneAsset()), {}, {}, {}};
        Scene s = empty;
        s.sky = {glm::vec3(luminance), glm::vec3(luminance)};
        return s;
    }
    static View small(double seconds = 0) {
        View v = view_from({0, 1, 0}, {0, 1, -1}, 64, 36);
        v.seconds = seconds;
        return v;
    }
    static Setup metered(std::vector<std::pair<std::string, std::string>> more = {}) {
        more.insert(more.begin(), {"exposure.kind", "metered"});
        return setup_with(more);
    }
    /// From a reset.
    static FrameRecord first(const Scene& scene, const Setup& setup, const View& view) {
        RenderOptions o;
        o.frames = 1;
        return answer_to(scene, setup, view, o);
    }
    static double ev_of(const FrameRecord& r) { return r.told.at(told_ev100).front(); }

private slots:
    void even_pictures_stand_at_0_18_over_six_decades() {
        for (const char* meter : {"whole", "centre", "histogram", "spot"})
            for (float l = 0.01f; l < 10001; l *= 10) {
                const FrameRecord r = first(even(l), metered({{"exposure.meter", meter}}), small());
                QVERIFY2(std::abs(l * tone::exposure_scale(ev_of(r)) / 0.18 - 1) < 0.01, meter);
            }
        // And so it is shown: 0.18 of 255 without a curve.
        const FrameRecord r = first(even(250), metered({{"tone.curve", "none"}, {"output.dither", "off"}}), small());
        QVERIFY(std::abs(r.picture.rgba[0] - 0.18 * 255) <= 0.6);
    }

    /// The device's meters against the double one, over the same radiance.
    void meters_find_what_the_reference_finds() {
        const Demo d = demo(200, 113);
        for (const auto& more : std::vector<std::vector<std::pair<std::string, std::string>>>{
                 {{"exposure.meter", "whole"}},
                 {{"exposure.meter", "centre"}},
                 {{"exposure.meter", "centre"}, {"exposure.centre", "0.2"}, {"exposure.falloff", "8"}},
                 {{"exposure.meter", "histogram"}},
                 {{"exposure.meter", "histogram"}, {"exposure.low", "60"}, {"exposure.high", "98"}},
                 {{"exposure.meter", "spot"}, {"exposure.spotX", "0.3"}, {"exposure.spotY", "0.7"}},
                 {{"exposure.meter", "spot"}, {"exposure.spotX", "1"}, {"exposure.spotSize", "0.5"}},
                 {{"exposure.compensation", "-2"}, {"exposure.inDark", "1.5"}, {"exposure.inLight", "-1"}}}) {
            const Setup s = metered(more);
            RenderOptions o;
            o.frames = 1;
            o.floatLayers = {"final"};
            const FrameRecord r = answer_to(d.scene, s, d.view, o);
            const double wanted = metered_luminance(r.floats.at("final"), s), found = r.told.at(told_luminance).front();
            const bool bins = s.choice("exposure.meter") == "histogram"; // 64 a stop
            QVERIFY2(std::abs(std::log2(found / wanted)) < (bins ? 1 / 64.0 : 0.002),
                     qPrintable(QString("%1 for %2").arg(found).arg(wanted)));
            QVERIFY(std::abs(ev_of(r) - ev100_for(found, s)) < 1e-3);
            QCOMPARE(r.told.at(told_metered).front(), r.told.at(told_ev100).front()); // at once: nothing was before
        }
    }

    /// Light changes by a jump; the eye goes after it by its exponential, up and down, whatever the frame time.
    void an_eye_follows_whatever_the_frame_time() {
        const Setup s = metered({{"exposure.up", "3"}, {"exposure.down", "1"}});
        for (const double step : {0.010, 0.033, 0.100})
            for (const float after : {64.0f, 1.0f / 64}) {
                const double began = ev_of(first(even(1), s, small())), wanted = ev100_for(after, s),
                             speed = after > 1 ? 3 : 1;
                for (int i = 1; i <= 20; ++i) {
                    const double ev = ev_of(answer_to(even(after), s, small(i * step)));
                    const double exact = wanted + (began - wanted) * std::exp(-speed * step * i);
                    QVERIFY(std::abs(ev - exact) < 0.02 * std::abs(wanted - began));
                }
                // Asked again about the same moment, it has not gone on; told that there was time, it is there.
                const double now = ev_of(answer_to(even(after), s, small(20 * step)));
                QVERIFY(std::abs(now - wanted) > 0.001 * std::abs(wanted - began));
                QCOMPARE(ev_of(answer_to(even(after), s, small(20 * step))), now);
                RenderOptions o;
                o.adapted = true;
                QVERIFY(std::abs(ev_of(answer_to(even(after), s, small(20 * step), o)) - wanted) < 1e-3);
            }
    }

    void another_size_goes_on_and_another_camera_begins_anew() {
        const Setup s = metered({{"exposure.up", "1"}});
        const double began = ev_of(first(even(1), s, small())), wanted = ev100_for(64, s);
        View larger = small(0.5);
        larger.width = 80;
        larger.height = 45;
        QVERIFY(std::abs(ev_of(answer_to(even(64), s, larger)) - (wanted + (began - wanted) * std::exp(-0.5))) < 0.01);
        View other = small(1.0);
        other.camera.name = "elsewhere";
        QVERIFY(std::abs(ev_of(answer_to(even(64), s, other)) - wanted) < 1e-3);
    }

    void what_is_held_stays() {
        const Setup s = metered(), held = metered({{"exposure.lock", "on"}});
        const double began = ev_of(first(even(1), s, small()));
        const FrameRecord r = answer_to(even(1000), held, small(5));
        QVERIFY(std::abs(ev_of(r) - began) < 1e-5);
        QVERIFY(r.told.at(told_metered).front() > began + 5); // what the meter would ask for is told all the same
    }

    /// One exposure for both eyes, in two passes and in one; what is told by hand is nothing.
    void both_eyes_share_one_exposure() {
        const Scene scene = random_scene(6, 12);
        const Setup s = metered({{"output.dither", "off"}});
        View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        const double alone = ev_of(first(scene, s, view));
        for (const Stereo stereo : {Stereo::twoPasses, Stereo::onePass}) {
            view.stereo = stereo;
            RenderOptions o;
            o.frames = 1;
            o.bothEyes = true;
            const FrameRecord r = answer_to(scene, s, view, o);
            QVERIFY(std::abs(ev_of(r) - alone) < 0.2); // the left eye stands a little aside
            const FrameRecord hand = answer_to(scene, exposed_as(s, r.told), view, o);
            QCOMPARE(r.picture.width, 128);
            int most = 0;
            for (std::size_t i = 0; i < r.picture.rgba.size(); ++i)
                most = std::max(most, std::abs(int(r.picture.rgba[i]) - int(hand.picture.rgba[i])));
            QVERIFY(most <= 1);
            QVERIFY(!hand.told.contains(told_ev100));
        }
    }

    /// Layers of radiance are shown at the same exposure, and so is a flat stage, whose EV 0 shows sheets as they are.
    void layers_and_the_flat_stage_are_metered_too() {
        const Scene scene = random_scene(6, 12);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        const Setup s = metered({{"output.dither", "off"}});
        RenderOptions o;
        o.frames = 1;
        o.show = "diffuse";
        const FrameRecord layer = answer_to(scene, s, view, o),
                          hand = answer_to(scene, exposed_as(s, layer.told), view, o);
        int most = 0;
        for (std::size_t i = 0; i < layer.picture.rgba.size(); ++i)
            most = std::max(most, std::abs(int(layer.picture.rgba[i]) - int(hand.picture.rgba[i])));
        QVERIFY(most <= 1);
        const FlatStage flat = flat_stage(4, 8, 5);
        Setup f = metered();
        f.stage = Stage::flat;
        o.show = "final";
        o.floatLayers = {"final"};
        const FrameRecord r = answer_to(flat.scene, f, flat.view, o);
        const double found = r.told.at(told_luminance).front();
        QVERIFY(std::abs(std::log2(found / metered_luminance(r.floats.at("final"), f, true))) < 0.01);
        QVERIFY(std::abs(found * tone::exposure_scale(ev_of(r)) / 0.18 - 1) < 0.01);
    }
};

MIROLUX_TEST(exposure_test)
#include "exposure_test.moc"
