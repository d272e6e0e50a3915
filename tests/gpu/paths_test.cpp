#include "core/cull/light_lists.h"
#include "core/image/difference.h"
#include "core/plan/draw_list.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

class paths_test : public QObject {
    Q_OBJECT
    static constexpr double black = 1e-3; // cd/m2

    struct Lists {
        cull::LightGrid gpu, cpu, exact, gpuTransparent, cpuTransparent;
    };
    static Lists lists_of(RenderSession& with, const Scene& scene, const Setup& setup, const View& view) {
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.floatLayers = {"depth"};
        o.lightLists = true;
        auto record = with.render(scene, setup, view, o);
        if (!record) qFatal("%s", to_text(record.error()).c_str());
        const DrawList list = build_draw_list(scene, setup, view);
        const auto lights = cull::view_lights(list.lights, list.reach, list.directional, view.camera);
        const auto settings = cull::grid_settings(setup);
        const cull::DepthPicture depth{view.width, view.height, record->floats.at("depth").data};
        const auto first = static_cast<std::uint32_t>(list.directional);
        return {record->lightGrid, cull::cull_lights(lights, first, view, depth, settings),
                cull::exact_lists(lights, first, view, depth, settings), record->transparentGrid,
                list.blended.empty() ? cull::LightGrid{}
                                     : cull::cull_transparent(lights, first, view, depth, settings)};
    }

    /// "volumes one-step" is the path and its form.
    static Setup path_setup(const QString& path) {
        Setup s = setup_with({{"path.kind", path.section(' ', 0, 0).toStdString()},
                              {"path.targetFormat", "rgba32f"},
                              {"gbuffer.packing", "full"}});
        if (path.contains(' ')) (void)s.set_text("volumes.form", path.section(' ', 1).toStdString());
        return s;
    }

private slots:
    void every_path_gives_the_picture_of_forward() {
        double worst = 0, packed = 0;
        for (std::uint32_t seed = 1; seed <= 20; ++seed) {
            const Scene scene = random_scene(seed, 60);
            const View view = view_from({seed * 0.7f - 7.0f, 1.5f + 0.2f * seed, 12}, {0, 1, 0}, 193, 117);
            const FloatImage wanted =
                hdr(scene, setup_with({{"path.maxLights", "64"}, {"path.targetFormat", "rgba32f"}}), view);
            for (const char* path : {"deferred", "volumes", "volumes one-step", "tiled-deferred", "tiled-forward",
                                     "clustered-deferred", "clustered-forward"}) {
                const double d = largest_relative_difference(wanted, hdr(scene, path_setup(path), view), black);
                QVERIFY2(d < 2e-3, qPrintable(QString("%1, seed %2: %3").arg(path).arg(seed).arg(d)));
                worst = std::max(worst, d);
            }
            const FloatImage small =
                hdr(scene, setup_with({{"path.kind", "tiled-deferred"}, {"path.targetFormat", "rgba32f"}}), view);
            double sum = 0, total = 0;
            for (std::size_t i = 0; i < small.data.size(); ++i)
                if (i % 4 != 3) sum += std::abs(small.data[i] - wanted.data[i]), total += wanted.data[i];
            packed = std::max(packed, sum / total);
        }
        qInfo("largest relative difference %.2e with the full G-buffer; mean error of the packed one at most %.2e of "
              "the mean radiance",
              worst, packed);
        QVERIFY(packed < 0.02);
    }

    void demo_is_the_same_on_every_path() {
        const auto [scene, view, cameras] = demo();
        const FloatImage wanted =
            hdr(scene, setup_with({{"path.kind", "additive"}, {"path.targetFormat", "rgba32f"}}), view); // no limit
        for (const char* path : {"deferred", "volumes", "volumes one-step", "tiled-deferred", "tiled-forward",
                                 "clustered-deferred", "clustered-forward"}) {
            const double d = largest_relative_difference(wanted, hdr(scene, path_setup(path), view), black);
            qInfo("%s: %.2e", path, d);
            QVERIFY2(d < 2e-3, path);
        }
    }

    /// On the GPU, over seeded scenes, settings, and odd sizes: nothing missed; and the lists are those of the C++
    /// reference but for lights that graze a cell within float rounding.
    void gpu_lists_miss_nothing_and_agree_with_the_reference() {
        std::uint64_t different = 0, total = 0;
        static const char* const tiles[] = {"8", "16", "32", "64"};
        for (std::uint32_t seed = 1; seed <= 20; ++seed)
            for (const auto& [width, height] : {std::pair(1, 1), {17, 33}, {97, 61}})
                for (const char* path : {"tiled-deferred", "clustered-forward"})
                    for (const char* bounds : {"off", "min-max", "mask"})
                        for (const char* test : {"sphere-planes", "sphere-box"}) {
                            const Scene scene = random_scene(seed, 90);
                            const Setup s = setup_with({{"path.kind", path},
                                                        {"culling.depthBounds", bounds},
                                                        {"culling.test", test},
                                                        {"culling.tile", tiles[seed % 4]},
                                                        {"culling.lanes", seed % 5 ? "auto" : "32"},
                                                        {"cluster.slices", "9"},
                                                        {"cluster.exponent", seed % 3 ? "1" : "1.7"},
                                                        {"culling.coneTest", seed % 3 ? "on" : "off"}});
                            const Lists l =
                                lists_of(session(), scene, s, view_from({4, 3, 10}, {0, 1, 0}, width, height));
                            const cull::Audit a = cull::audit(l.gpu, l.exact);
                            QVERIFY2(a.missed == 0, qPrintable(QString("%1 %2 %3 seed %4, %5x%6: %7 missed")
                                                                   .arg(path)
                                                                   .arg(bounds)
                                                                   .arg(test)
                                                                   .arg(seed)
                                                                   .arg(width)
                                                                   .arg(height)
                                                                   .arg(a.missed)));
                            QCOMPARE(l.gpu.cells(), l.cpu.cells());
                            different += cull::audit(l.gpu, l.cpu).missed + cull::audit(l.cpu, l.gpu).missed;
                            total += l.cpu.indices.size();
                            QCOMPARE(l.gpuTransparent.cells(), l.cpuTransparent.cells());
                            if (l.gpuTransparent.cells() == 0) continue;
                            different += cull::audit(l.gpuTransparent, l.cpuTransparent).missed +
                                         cull::audit(l.cpuTransparent, l.gpuTransparent).missed;
                            total += l.cpuTransparent.indices.size();
                        }
        qInfo("%llu of %llu entries differ from the C++ reference", static_cast<unsigned long long>(different),
              static_cast<unsigned long long>(total));
        QVERIFY(different * 1000 < total);
    }

    /// The demo at an odd size, from several cameras: nothing missed, and what each test lists too much.
    void demo_lists_miss_nothing() {
        auto [scene, view, cameras] = demo(1279, 719);
        for (std::size_t c = 0; c < 3 && c < cameras.size(); ++c) {
            view.camera = cameras[c];
            for (const char* path : {"tiled-deferred", "clustered-deferred"})
                for (const auto& [bounds, test] : {std::pair("min-max", "sphere-planes"), {"mask", "sphere-box"}}) {
                    const Lists l = lists_of(
                        session(), scene,
                        setup_with({{"path.kind", path}, {"culling.depthBounds", bounds}, {"culling.test", test}}),
                        view);
                    const cull::Audit a = cull::audit(l.gpu, l.exact);
                    qInfo("%s, %s, %s, %s: %llu missed, surplus %.1f %%", cameras[c].name.c_str(), path, bounds, test,
                          static_cast<unsigned long long>(a.missed), a.surplus * 100);
                    QVERIFY(a.missed == 0);
                }
        }
    }

    /// Sizes at random, as a window that is pulled about: no error, the right picture, and the objects of the device
    /// back to their number.
    void resizing_200_times_leaves_nothing_behind() {
        const Scene scene = random_scene(9, 40);
        std::mt19937 r(3);
        const auto settle = [&] { // builds every program and fills every pool to its limit
            for (const char* path : {"tiled-deferred", "clustered-forward", "volumes", "forward", "additive"})
                for (int i = 0; i < 4; ++i)
                    (void)hdr(scene,
                              setup_with({{"path.kind", path},
                                          {"transparency.kind", i % 2 ? "peeled" : "sorted"},
                                          {"path.targetFormat", "rgba32f"},
                                          {"gbuffer.packing", path[0] == 'a' ? "packed" : "full"}}),
                              view_from({5, 3, 11}, {0, 1, 0}, 100 + i, 60));
        };
        settle();
        const int before = gpu::live_objects();
        int compared = 0;
        for (int i = 0; i < 200; ++i) {
            const View view =
                view_from({5, 3, 11}, {0, 1, 0}, 1 + static_cast<int>(r() % 300), 1 + static_cast<int>(r() % 200));
            const Setup s = setup_with({{"path.kind", paths[r() % 4]},
                                        {"path.maxLights", "64"},
                                        {"transparency.kind", i % 2 ? "peeled" : "sorted"},
                                        {"path.targetFormat", "rgba32f"},
                                        {"gbuffer.packing", "full"}});
            const FloatImage image = hdr(scene, s, view);
            QCOMPARE(image.width, view.width);
            if (i % 17 != 0) continue;
            // A light without range ends hard at its reach: a pixel just there may fall to either side, so a few may
            // differ.
            const PictureDifference d =
                picture_difference(hdr(scene,
                                       setup_with({{"path.kind", "additive"},
                                                   {"path.targetFormat", "rgba32f"},
                                                   {"transparency.kind", i % 2 ? "peeled" : "sorted"}}),
                                       view),
                                   image, black, 2e-3);
            QVERIFY2(d.shareOver < 5e-4 && d.meanRelative < 1e-4,
                     qPrintable(QString("%1 at %2x%3, round %4: %5 over, mean %6")
                                    .arg(s.choice("path.kind").c_str())
                                    .arg(view.width)
                                    .arg(view.height)
                                    .arg(i)
                                    .arg(d.shareOver)
                                    .arg(d.meanRelative)));
            ++compared;
        }
        QCOMPARE(compared, 12);
        settle();
        QCOMPARE(gpu::live_objects(), before);
    }

    void overflow_keeps_the_strongest_and_is_counted() {
        const Scene scene = random_scene(3, 90);
        const View view = view_from({4, 3, 10}, {0, 1, 0}, 120, 80);
        const Lists l = lists_of(session(), scene,
                                 setup_with({{"path.kind", "tiled-deferred"},
                                             {"culling.listCapacity", "8"},
                                             {"culling.depthBounds", "off"},
                                             {"culling.tile", "64"}}),
                                 view);
        QVERIFY(l.gpu.overflow > 0 && l.gpu.overflowCells > 0);
        QCOMPARE(l.gpu.overflow, l.cpu.overflow);
        QVERIFY(l.gpu.indices == l.cpu.indices);
        for (std::size_t c = 0; c < l.gpu.cells(); ++c)
            QVERIFY(l.gpu.count(c) <= 8);
    }

    void lists_repeat_to_the_bit() {
        const Scene scene = random_scene(8, 90);
        const Setup s = setup_with({{"path.kind", "clustered-deferred"}});
        const View view = view_from({4, 3, 10}, {0, 1, 0}, 200, 120);
        const Lists a = lists_of(session(), scene, s, view), b = lists_of(session(), scene, s, view);
        QVERIFY(a.gpu.indices == b.gpu.indices && a.gpu.offsets == b.gpu.offsets);
    }

    /// A kernel with a wrong sign in its plane test: the audit must see it.
    void a_broken_kernel_is_caught_by_the_audit() {
        QTemporaryDir folder;
        QVERIFY(QDir(folder.path()).mkpath("light_lists"));
        QFile original(QString(MIROLUX_SOURCE) + "/src/gpu/shaders/light_lists/cull.glsl"),
            broken(folder.path() + "/light_lists/cull.glsl");
        QVERIFY(original.open(QIODevice::ReadOnly) && broken.open(QIODevice::WriteOnly));
        QByteArray text = original.readAll();
        QVERIFY(text.contains("dot(planes[i], s.xyz) < s.w * -1.0001"));
        text.replace("dot(planes[i], s.xyz) < s.w * -1.0001", "dot(planes[i], s.xyz) < s.w * 1.0001");
        broken.write(text);
        broken.close();
        auto other = gpu::Session::create({.shaderFolder = folder.path().toStdString()});
        QVERIFY(other.has_value());
        const Scene scene = random_scene(2, 60);
        const Setup s = setup_with({{"path.kind", "tiled-deferred"}, {"culling.test", "sphere-planes"}});
        const Lists l = lists_of(**other, scene, s, view_from({4, 3, 10}, {0, 1, 0}, 200, 120));
        QVERIFY(cull::audit(l.gpu, l.exact).missed > 0);
    }

    void a_scene_of_no_lights_and_one_of_directional_ones_only() {
        Scene scene = random_scene(1, 1);
        const View view = view_from({4, 3, 10}, {0, 1, 0}, 64, 48);
        for (int n = 1; n >= 0; --n) {
            scene.lights.resize(static_cast<std::size_t>(n));
            const FloatImage wanted = hdr(scene, setup_with({{"path.targetFormat", "rgba32f"}}), view);
            for (const char* path : {"deferred", "tiled-deferred", "tiled-forward", "clustered-forward"})
                QVERIFY(largest_relative_difference(wanted,
                                                    hdr(scene,
                                                        setup_with({{"path.kind", path},
                                                                    {"path.targetFormat", "rgba32f"},
                                                                    {"gbuffer.packing", "full"}}),
                                                        view),
                                                    black) < 2e-3);
        }
    }
};

MIROLUX_TEST(paths_test)
#include "paths_test.moc"
