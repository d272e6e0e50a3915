#include "core/air/shafts.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// Posts before an open sky, the sun between them.
Scene posts() {
    SceneAsset a;
    a.materials.push_back(plain_material(glm::vec3(0.1f), 0, 1));
    for (int i = 0; i < 5; ++i)
        add_box(a, 0, {-5.0f + 2.3f * float(i), 0, -9}, {0.7f, 4, 0.7f});
    Scene s;
    s.asset = finished(std::move(a));
    Light sun;
    sun.id = 1;
    sun.name = "sun";
    sun.type = LightType::directional;
    sun.direction = glm::normalize(glm::vec3(0.1f, -0.15f, 1));
    sun.intensity = 1000;
    s.lights = {sun};
    return s;
}

} // namespace

class shafts_test : public QObject {
    Q_OBJECT
private slots:
    /// Every texel against the same sum over the picture's depth.
    void texels_are_the_sum_over_the_open_sky() {
        const Scene scene = posts();
        const View view = view_from({0, 1.5f, 2}, {0, 2, -9}, 64, 48);
        const Setup s = setup_with({{"shafts.kind", "radial"}, {"shafts.samples", "24"}, {"shafts.strength", "0.01"}});
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.targets = {{"shafts"}};
        o.floatLayers = {"depth"};
        const auto r = session().render(scene, s, view, o);
        QVERIFY(r.has_value());
        const FloatImage &got = r->targets.front(), &depth = r->floats.at("depth");
        QCOMPARE(got.width, 32);
        const DrawList list = build_draw_list(scene, s, view);
        const auto source = shaft_source(FrameInputs{scene, s, view, list});
        QVERIFY(source && source->share == 1);
        int shaded = 0, same = 0;
        double whole = 0;
        for (int i = 0; i < 24; ++i)
            whole += std::exp(-2.0 * (i + 0.5) / 24);
        for (int y = 0; y < 24; ++y)
            for (int x = 0; x < 32; ++x) {
                const glm::dvec2 from((2 * x + 1) / 64.0, (2 * y + 1) / 48.0);
                double open = 0;
                for (int i = 0; i < 24; ++i) {
                    const double share = (i + 0.5) / 24;
                    const glm::dvec2 at = from + (source->at - from) * (0.9 * share);
                    if (at.x < 0 || at.y < 0 || at.x >= 1 || at.y >= 1) continue;
                    if (depth.pixel(int(at.x * 64), 47 - int(at.y * 48))[0] <= 0) open += std::exp(-2.0 * share);
                }
                const double wanted = 1000 * 0.01 * open / whole;
                shaded += wanted < 9;
                same += std::abs(got.pixel(x, 23 - y)[0] - wanted) < 0.03; // but where a place falls on a pixel's edge
            }
        QVERIFY2(shaded > 100 && same > 0.97 * 24 * 32, qPrintable(QString("%1 %2").arg(shaded).arg(same)));
    }

    void they_are_gone_behind_the_eye_and_the_account_holds() {
        Scene scene = posts();
        const View view = view_from({0, 1.5f, 2}, {0, 2, -9}, 64, 48);
        const Setup s = setup_with({{"shafts.kind", "radial"}, {"path.targetFormat", "rgba32f"}});
        for (const glm::ivec2 pixel : {glm::ivec2(30, 20), {5, 40}, {63, 0}}) {
            const PixelAccount a = account_at(scene, s, view, pixel);
            QVERIFY2(a.difference < 2e-3, qPrintable(QString::number(a.difference)));
            QVERIFY(a.shafts.x > 0);
        }
        scene.lights[0].direction = -scene.lights[0].direction;
        QVERIFY(!plan_frame(scene, s, view).pass("shafts"));
        const FloatImage without = hdr(scene, setup_with({{"path.targetFormat", "rgba32f"}}), view);
        QVERIFY(hdr(scene, s, view).data == without.data);
    }
};

MIROLUX_TEST(shafts_test)
#include "shafts_test.moc"
