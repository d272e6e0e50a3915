#include "core/plan/camera_motion.h"
#include "core/truth/truth_picture.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

/// The path tracer and the device, each the other's oracle where neither approximates: direct light without shadows.
class truth_test : public QObject {
    Q_OBJECT

    static FloatImage traced(const Scene& scene, const Setup& setup, const View& view, truth::Layer layer,
                             std::uint32_t samples, bool shadows) {
        truth::Options o;
        o.layer = layer;
        o.shadows = shadows;
        truth::Picture p(view.width, view.height);
        truth::refine(truth::PathTracer(scene, setup, view, o, std::make_shared<RayScene>(scene)), p, {samples, 0},
                      [](double) { return true; });
        return p.image();
    }
    std::map<std::string, FloatImage> truths_; // by shading model
    static FloatImage sum(FloatImage a, const FloatImage& b) {
        for (std::size_t i = 0; i < a.data.size(); ++i)
            a.data[i] += b.data[i];
        return a;
    }
    /// Opaque surfaces alone: blended ones are met by chance in one and added up in the other.
    static Scene scene_of_seed(std::uint32_t seed) {
        Scene s = random_scene(seed, 40);
        SceneAsset a = *s.asset;
        a.materials[3].alphaMode = AlphaMode::opaque;
        s.asset = std::make_shared<const SceneAsset>(std::move(a));
        return s;
    }

    /// Pixels where two surfaces meet in one place show either: they are taken out of the comparison. How many.
    static int leave_out_ties(FloatImage& light, const FloatImage& frame, const Scene& scene, const Setup& setup,
                              const View& view) {
        const FloatImage objects = hdr(scene, setup, view, "objects");
        const RayScene rays(scene);
        int ties = 0;
        for (int y = 0; y < view.height; ++y)
            for (int x = 0; x < view.width; ++x) {
                const RayHit hit = rays.nearest(ray_through(view, x + 0.5, y + 0.5));
                if (hit.object + 1 == static_cast<int>(objects.pixel(x, y)[3])) continue;
                ++ties;
                std::copy_n(frame.pixel(x, y), 3, light.pixel(x, y));
            }
        return ties;
    }

private slots:
    void direct_light_is_the_rasterised_picture_on_all_paths_data() {
        QTest::addColumn<QString>("path");
        for (const std::string& path : all_settings()[std::size_t(setting_index("path.kind"))].choices)
            QTest::newRow(path.c_str()) << QString::fromStdString(path);
    }
    void direct_light_is_the_rasterised_picture_on_all_paths() {
        QFETCH(QString, path);
        const View view = view_from({9, 7, 10}, {0, 0.5f, 0}, 96, 64);
        double worst = 0;
        for (const char* model : {"lambert", "ggx", "phong", "blinn-phong"}) {
            const Scene scene = scene_of_seed(11);
            const Setup setup = setup_with({{"path.kind", path.toStdString()},
                                            {"shading.model", model},
                                            {"path.maxLights", "64"},
                                            {"gbuffer.packing", "full"},
                                            {"culling.listCapacity", "256"}});
            const FloatImage frame = sum(hdr(scene, setup, view, "diffuse"), hdr(scene, setup, view, "specular"));
            if (!truths_.count(model)) // no path has a part in it
                truths_[model] = traced(scene, setup, view, truth::Layer::direct, 512, false);
            FloatImage light = truths_.at(model);
            QVERIFY(leave_out_ties(light, frame, scene, setup, view) < 96 * 64 / 50);
            const truth::Distance d = truth::distance(frame, light);
            worst = std::max({worst, std::abs(d.bias)});
            QVERIFY2(std::abs(d.bias) < 0.005 && d.mean < 0.02,
                     qPrintable(QString("%1: bias %2, mean %3").arg(model).arg(d.bias).arg(d.mean)));
        }
        qInfo("largest bias %.3f %%", 100 * worst);
    }

    /// The demo: textures, normal maps, masks; read at the finest mip by rays and at another by the device.
    void the_demo_without_shadows_is_near() {
        Demo d = demo(160, 90);
        const Setup setup = setup_with({{"path.kind", "clustered-deferred"}});
        const FloatImage frame = sum(hdr(d.scene, setup, d.view, "diffuse"), hdr(d.scene, setup, d.view, "specular"));
        const FloatImage light = traced(d.scene, setup, d.view, truth::Layer::direct, 256, false),
                         shadowed = traced(d.scene, setup, d.view, truth::Layer::direct, 64, true);
        const truth::Distance near = truth::distance(frame, light), far = truth::distance(frame, shadowed);
        qInfo("without shadows: bias %.2f %%, mean %.2f %%; the frame has none: bias %.2f %%", 100 * near.bias,
              100 * near.mean, 100 * far.bias);
        QVERIFY(std::abs(near.bias) < 0.1);
        QVERIFY(far.bias > near.bias + 0.1); // a frame without shadows is too bright
    }
};

MIROLUX_TEST(truth_test)
#include "truth_test.moc"
