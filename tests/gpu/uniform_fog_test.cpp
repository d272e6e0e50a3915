#include "core/account/pixel_account.h"
#include "core/air/air.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

static Setup foggy(const char* path, const char* more = "sorted") {
    return setup_with({{"path.kind", path},
                       {"path.targetFormat", "rgba32f"},
                       {"gbuffer.packing", "full"},
                       {"transparency.kind", more},
                       {"air.kind", "uniform"},
                       {"air.extinction", "0.04"}});
}

class uniform_fog_test : public QObject {
    Q_OBJECT
private slots:
    /// An unlit wall far behind a pane, seen straight on: every distance is known, and so is the fog before it.
    void a_wall_and_a_pane_match_the_closed_form_on_every_path() {
        SceneAsset a;
        a.materials.push_back(plain_material({0.8f, 0.4f, 0.2f}, 0, 1));
        a.materials[0].unlit = true;
        add_quad(a, 0, {-40, -40, -20}, {80, 0, 0}, {0, 80, 0});
        Material pane = plain_material({0.1f, 0.2f, 0.6f}, 0, 1);
        pane.unlit = true;
        pane.baseColor.a = 0.25f;
        pane.alphaMode = AlphaMode::blend;
        a.materials.push_back(pane);
        add_quad(a, 1, {-40, -40, -5}, {80, 0, 0}, {0, 80, 0});
        const Scene scene{finished(std::move(a)), {}, {}, {}};
        const View view = view_from({0, 0, 0}, {0, 0, -1}, 9, 9);
        for (const char* path : paths)
            for (const char* kind : {"sorted", "peeled"}) {
                const Setup s = foggy(path, kind);
                const glm::dvec3 air = fog_radiance(s, ambient_light(s));
                const double near = std::exp(-0.04 * 5), far = std::exp(-0.04 * 20);
                const glm::dvec3 wall = glm::dvec3(0.8, 0.4, 0.2) * far + air * (1 - far),
                                 glass = glm::dvec3(0.1, 0.2, 0.6) * near + air * (1 - near);
                const glm::dvec3 wanted = 0.25 * glass + 0.75 * wall;
                const FloatImage got = hdr(scene, s, view);
                for (int c = 0; c < 3; ++c)
                    QVERIFY2(
                        std::abs(got.pixel(4, 4)[c] - wanted[c]) < 1e-5,
                        qPrintable(
                            QString("%1 %2: %3 against %4").arg(path, kind).arg(got.pixel(4, 4)[c]).arg(wanted[c])));
            }
    }

    void the_sky_is_all_air() {
        SceneAsset a;
        const Scene scene{finished(std::move(a)), {}, {}, {{9, 9, 9}, {9, 9, 9}}};
        const Setup s = foggy("forward");
        const glm::dvec3 wanted = fog_radiance(s, ambient_light(s));
        const FloatImage got = hdr(scene, s, view_from({0, 1, 0}, {0, 1, -1}, 8, 8));
        for (int c = 0; c < 3; ++c)
            QVERIFY(std::abs(got.pixel(3, 3)[c] - wanted[c]) < 1e-6);
    }

    void all_paths_give_one_picture() {
        const Scene scene = random_scene(6, 40);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 160, 90);
        const FloatImage wanted = hdr(scene, foggy("additive"), view);
        for (const char* path : paths) {
            if (std::string(path) == "forward") continue; // it drops lights over K
            QVERIFY2(largest_relative_difference(wanted, hdr(scene, foggy(path), view), 1e-3) < 2e-3, path);
        }
    }

    void the_layer_holds_the_transmittance_of_each_depth() {
        const Demo d = demo(96, 54);
        const Setup s = foggy("tiled-deferred");
        const FloatImage t = hdr(d.scene, s, d.view, "transmittance"), depth = hdr(d.scene, s, d.view, "depth");
        const AirMedium fog = medium(s);
        int held = 0;
        const double ty = std::tan(0.5 * d.view.camera.fovY), tx = ty * d.view.width / d.view.height;
        for (int y = 0; y < 54; ++y)
            for (int x = 0; x < 96; ++x) {
                const double along = depth.pixel(x, y)[0];
                if (along <= 0) {
                    QCOMPARE(t.pixel(x, y)[0], 0.0f); // the sky
                    continue;
                }
                const double u = (2 * (x + 0.5) / 96 - 1) * tx, v = (1 - 2 * (y + 0.5) / 54) * ty;
                const double wanted = transmittance(fog, {0, 0, 0}, {0, 0, along * std::sqrt(1 + u * u + v * v)});
                QVERIFY2(std::abs(t.pixel(x, y)[0] - wanted) < 0.005 * wanted + 1e-6,
                         qPrintable(QString("%1, %2: %3 against %4").arg(x).arg(y).arg(t.pixel(x, y)[0]).arg(wanted)));
                ++held;
            }
        QVERIFY(held > 2000);
    }

    void layers_add_up_to_the_picture() {
        const Scene scene = random_scene(6, 40);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 80, 45);
        Setup s = foggy("forward");
        QVERIFY(layers_miss_the_picture(scene, s, view) < 4e-3);
    }

    void the_pixel_account_holds_through_fog() {
        const Demo d = demo(160, 90);
        for (const char* path : {"tiled-forward", "deferred", "additive"}) {
            const Setup s = foggy(path);
            for (const glm::ivec2 pixel : {glm::ivec2(20, 60), {80, 50}, {120, 70}, {80, 5}}) {
                const PixelAccount a = account_at(d.scene, s, d.view, pixel);
                QVERIFY2(a.difference < 5e-4,
                         qPrintable(QString("%1 at %2, %3: %4").arg(path).arg(pixel.x).arg(pixel.y).arg(a.difference)));
                for (const SurfaceAccount& surface : a.surfaces)
                    QVERIFY(surface.air.transmittance.x > 0 && surface.air.transmittance.x < 1);
            }
        }
    }

    /// What a light gives is what the picture loses without it, fog and all.
    void the_ledger_holds_through_fog() {
        Scene scene = random_scene(6, 8);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 80, 45);
        const Setup s = foggy("tiled-deferred");
        RenderOptions o;
        o.picture = false;
        o.ledger = true;
        const auto r = session().render(scene, s, view, o);
        QVERIFY(r.has_value() && !r->ledger.empty());
        const auto luminance = [](const FloatImage& image) {
            double sum = 0;
            for (std::size_t i = 0; i < image.data.size(); i += 4)
                sum += 0.2126 * image.data[i] + 0.7152 * image.data[i + 1] + 0.0722 * image.data[i + 2];
            return sum;
        };
        const double all = luminance(hdr(scene, s, view));
        for (const LightShare& share : r->ledger) {
            Scene without = scene;
            for (Light& l : without.lights)
                if (l.id == share.light) l.enabled = false;
            const double lost = all - luminance(hdr(without, s, view));
            QVERIFY2(std::abs(lost - share.luminance) < 0.01 * std::max(lost, 0.05),
                     qPrintable(QString("%1: %2 against %3").arg(share.light).arg(share.luminance).arg(lost)));
        }
    }

    void it_is_counted_and_off_leaves_the_bits_as_they_were() {
        const Scene scene = random_scene(6, 10);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 80, 45);
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.count = true;
        const auto counted = [&](const Setup& s) {
            std::uint64_t sum = 0;
            const auto r = session().render(scene, s, view, o);
            if (!r) qFatal("%s", to_text(r.error()).c_str());
            for (const PassRecord& p : r->passes)
                sum += p.work.at("airEvaluations");
            return sum;
        };
        QVERIFY(counted(foggy("forward")) >= 80 * 45);
        QCOMPARE(counted(Setup()), std::uint64_t(0));
        const FloatImage before = hdr(scene, Setup(), view);
        (void)hdr(scene, foggy("forward"), view);
        QVERIFY(hdr(scene, Setup(), view).data == before.data);
    }
};

MIROLUX_TEST(uniform_fog_test)
#include "uniform_fog_test.moc"
