#include "core/light/tone.h"
#include "core/scene/starter.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

/// A scene of one's own opens lit: whatever its size, and whatever its lamps give.
class starter_test : public QObject {
    Q_OBJECT
    /// Blocks on a floor, in mixed colours, of this size in metres.
    static OpenProject blocks(float size, unsigned seed) {
        std::mt19937 random(seed);
        std::uniform_real_distribution<float> u(0, 1);
        SceneAsset a;
        for (int i = 0; i < 4; ++i)
            a.materials.push_back(
                plain_material({0.25f + 0.6f * u(random), 0.25f + 0.6f * u(random), 0.25f + 0.6f * u(random)},
                               i == 3 ? 0.5f : 0.0f, 0.4f + 0.5f * u(random)));
        add_quad(a, 0, glm::vec3(-1, 0, 1) * size, glm::vec3(2, 0, 0) * size, glm::vec3(0, 0, -2) * size);
        for (int i = 0; i < 6; ++i)
            add_box(a, 1 + i % 3, size * glm::vec3(1.4f * u(random) - 0.9f, 0, 1.4f * u(random) - 0.9f),
                    size * glm::vec3(0.2f + 0.2f * u(random), 0.15f + 0.6f * u(random), 0.2f + 0.2f * u(random)));
        OpenProject open;
        open.asset = finished(std::move(a));
        open.project.targets = standard_targets();
        open.project.view.camera = framing(open.asset->bounds);
        open.project.view.width = 160;
        open.project.view.height = 90;
        return open;
    }
    /// As window and command line do it; the mean of what is seen of the object, as the display has it.
    static double seen_after_start(OpenProject& open) {
        Project& p = open.project;
        const Starter starter = starter_of(open);
        if (starter.light) add_starter_light(p);
        RenderOptions o;
        o.fencedSamples = 0;
        o.floatLayers = {"final", "depth"};
        auto r = session().render(scene_of(open), p.setup, p.view, o);
        if (!r) qFatal("%s", to_text(r.error()).c_str());
        const auto ev = metered_ev100(r->floats.at("final"), r->floats.at("depth"));
        if (!ev) qFatal("nothing is lit");
        expose_starter(p, *ev, starter.light);
        r = session().render(scene_of(open), p.setup, p.view, o);
        double sum = 0;
        int pixels = 0;
        for (std::size_t i = 0; i < r->floats.at("depth").data.size(); ++i) {
            if (!(r->floats.at("depth").data[i] > 0)) continue;
            const std::uint8_t* c = r->picture.rgba.data() + 4 * i;
            sum += (0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]) / 255;
            ++pixels;
        }
        if (pixels < 1500) qFatal("the object is not in the picture: %d pixels", pixels);
        return sum / pixels;
    }

private slots:
    void ten_scenes_without_lights_from_millimetres_to_kilometres() {
        const float sizes[] = {0.001f, 0.004f, 0.02f, 0.1f, 0.6f, 3, 15, 90, 500, 2500};
        unsigned seed = 1;
        for (const float size : sizes) {
            OpenProject open = blocks(size, seed++);
            QVERIFY(starter_of(open).light);
            const double mean = seen_after_start(open);
            QVERIFY2(mean > 0.1 && mean < 0.6, qPrintable(QString("size %1: %2").arg(size).arg(mean)));
            QVERIFY(open.project.lights.size() == 1 && open.project.lights[0].type == LightType::directional);
        }
    }

    void ten_scenes_with_lights_of_1_to_100000_candela() {
        unsigned seed = 20;
        for (int i = 0; i < 10; ++i) {
            const double candela = std::pow(10.0, i * 5.0 / 9);
            const float size = 2.0f + static_cast<float>(i);
            OpenProject open = blocks(size, seed++);
            Light lamp;
            lamp.id = 1;
            lamp.position = size * glm::vec3(0.3f, 1.6f, 0.9f);
            lamp.intensity = static_cast<float>(candela);
            open.project.lights = {lamp};
            QVERIFY(!starter_of(open).light && starter_of(open).exposure);
            const double mean = seen_after_start(open);
            QVERIFY2(mean > 0.1 && mean < 0.6, qPrintable(QString("%1 cd: %2").arg(candela).arg(mean)));
            QCOMPARE(open.project.lights.size(), std::size_t(1));
        }
    }

    /// The log-average of what is seen stands at 0.18, against the definition by hand.
    void the_meter_puts_the_log_average_at_018() {
        FloatImage radiance{4, 1, 3, {}}, depth{4, 1, 1, {5, 5, 5, 0}};
        for (const float y : {0.5f, 2.0f, 8.0f, 1000.0f}) // the last one is sky
            for (int c = 0; c < 3; ++c)
                radiance.data.push_back(y);
        const auto ev = metered_ev100(radiance, depth);
        QVERIFY(ev.has_value());
        QVERIFY(std::abs(2.0 * tone::exposure_scale(*ev) - 0.18) < 0.18 * 0.04); // a tenth of a step
        QVERIFY(!metered_ev100(radiance, {4, 1, 1, {0, 0, 0, 0}}));
        QVERIFY(!metered_ev100({4, 1, 3, std::vector<float>(12, 0.0f)}, depth));
    }

    void a_project_that_somebody_set_up_is_left_alone() {
        OpenProject open = blocks(1, 5);
        open.project.path = "/somewhere/a.mirolux";
        QVERIFY(starter_of(open).empty() && words_of(starter_of(open)).empty());
        open.project.path.clear();
        QVERIFY(words_of(starter_of(open)).find("key light") != std::string::npos);
        const Light before = [&] {
            Project p = open.project;
            add_starter_light(p);
            return p.lights.back();
        }();
        QVERIFY(before.direction.y < -0.4f); // from above
        QVERIFY(glm::dot(before.direction, open.project.view.camera.aim - open.project.view.camera.eye) >
                0); // from behind the eye
    }
};

MIROLUX_TEST(starter_test)
#include "starter_test.moc"
