#include "core/account/pixel_account.h"
#include "core/ambient/ambient_light.h"
#include "core/light/luminance.h"
#include "core/sky/sky_model.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

static const double degree = glm::pi<double>() / 180;

static Setup under(std::vector<std::pair<std::string, std::string>> more) {
    more.insert(more.begin(), {{"sky.kind", "atmosphere"}, {"path.targetFormat", "rgba32f"}});
    return setup_with(more);
}

static const Scene& nothing() {
    static const Scene scene{finished(SceneAsset{}), {}, {}, {}};
    return scene;
}

/// Unit direction of a pixel's middle.
static glm::dvec3 direction_at(const View& v, int x, int y) {
    const double ty = std::tan(0.5 * v.camera.fovY), tx = ty * v.width / v.height;
    const glm::dvec3 inView((2 * (x + 0.5) / v.width - 1) * tx, (1 - 2 * (y + 0.5) / v.height) * ty, -1);
    return glm::normalize(glm::transpose(glm::dmat3(view_matrix(v.camera))) * inView);
}

static View looking(double elevation, double azimuth, double fov, int width, int height) {
    const glm::vec3 eye(0, 2, 0);
    View v = view_from(eye, eye + glm::vec3(direction_of({elevation, azimuth})), width, height);
    v.camera.fovY = static_cast<float>(fov * degree);
    return v;
}

/// Largest relative difference of a sky's picture to a reference by direction, from an elevation on and beside the disc
/// of a body.
template <class Reference>
static double worst_against(const FloatImage& got, const View& view, const glm::dvec3& body, double least, double floor,
                            Reference reference) {
    double worst = 0;
    for (int y = 0; y < view.height; ++y)
        for (int x = 0; x < view.width; ++x) {
            const glm::dvec3 d = direction_at(view, x, y);
            if (d.y < std::sin(least * degree) || glm::length(d - body) < 0.006 + pixel_angle(view)) continue;
            const glm::dvec3 wanted = reference(d);
            for (int c = 0; c < 3; ++c)
                worst = std::max(worst, std::abs(got.pixel(x, y)[c] - wanted[c]) / std::max(wanted[c], floor));
        }
    return worst;
}

static FrameRecord rendered(const Scene& scene, const Setup& setup, const View& view, bool count = false) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.count = count;
    auto r = session().render(scene, setup, view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return std::move(*r);
}

static std::uint64_t draws_of(const FrameRecord& r, const std::string& pass) {
    for (const PassRecord& p : r.passes)
        if (p.name == pass) return p.work.at("draws");
    qFatal("no pass %s", pass.c_str());
}

class sky_test : public QObject {
    Q_OBJECT
private slots:
    /// Single scattering of the sky's table against both ways integrated along each pixel's ray in core, from 2 degrees
    /// up.
    void single_scattering_matches_direct_integration() {
        for (const char* sun : {"2", "10", "50"})
            for (const double azimuth : {180.0, 90.0, 0.0}) {
                const Setup s = under({{"sun.elevation", sun},
                                       {"sky.multiple", "off"},
                                       {"night.stars", "off"},
                                       {"night.airglow", "0"},
                                       {"moon.illuminance", "0"},
                                       {"sun.size", "0.53"}});
                const View view = looking(24, azimuth, 46, 13, 13);
                const SkySettings sky = sky_settings(nothing(), s, view);
                const double worst =
                    worst_against(hdr(nothing(), s, view), view, sky.sun.direction, 2, 1, [&](const glm::dvec3& d) {
                        return single_scattering(sky.air, sky.eye, d, sky.sun.direction, sky.sun.angle, 120) *
                               sky.sun.illuminance;
                    });
                QVERIFY2(worst < 0.02, qPrintable(QString("%1 %2: %3").arg(sun).arg(azimuth).arg(worst)));
            }
    }

    /// All of it, from the table and along every pixel's ray, against the model in core.
    void the_sky_matches_core() {
        for (const char* look : {"table", "pixels"})
            for (const char* preset : {"clear", "sea-mist"})
                for (const char* sun : {"35", "4", "-6"}) {
                    const Setup s = under({{"sky.look", look},
                                           {"sky.preset", preset},
                                           {"sun.elevation", sun},
                                           {"night.stars", "off"},
                                           {"sun.illuminance", "100000"}});
                    for (const double azimuth : {165.0, 20.0}) {
                        const View view = looking(20, azimuth, 60, 20, 16);
                        const SkyModel model(sky_settings(nothing(), s, view));
                        const glm::dvec3 to = model.settings().sun.direction;
                        const double most = luminance(model.radiance(direction_of({5, 180})));
                        const double worst = worst_against(hdr(nothing(), s, view), view, to, 1, 0.02 * most,
                                                           [&](const glm::dvec3& d) { return model.radiance(d); });
                        QVERIFY2(worst < 0.04,
                                 qPrintable(QString("%1 %2 %3 %4: %5").arg(look, preset, sun).arg(azimuth).arg(worst)));
                    }
                }
    }

    void the_ground_beyond_matches_core() {
        const Setup s = under({{"sun.elevation", "25"}, {"sky.groundAlbedo", "0.4"}});
        const View view = looking(-40, 180, 50, 24, 24);
        const SkyModel model(sky_settings(nothing(), s, view));
        const double worst = worst_against(hdr(nothing(), s, view), view, glm::dvec3(0), -70, 1,
                                           [&](const glm::dvec3& d) { return model.radiance(d); });
        QVERIFY2(worst < 0.03, qPrintable(QString::number(worst)));
    }

    void the_fitted_sky_matches_core() {
        for (const char* sun : {"60", "5", "-4"}) {
            const Setup s = setup_with({{"sky.kind", "fitted"},
                                        {"sun.elevation", sun},
                                        {"path.targetFormat", "rgba32f"},
                                        {"night.stars", "off"},
                                        {"moon.elevation", "-40"},
                                        {"sky.turbidity", "4"}});
            const View view = looking(20, 90, 60, 32, 24);
            const SkyModel model(sky_settings(nothing(), s, view));
            const double worst = worst_against(hdr(nothing(), s, view), view, model.settings().sun.direction, 0.5, 1e-3,
                                               [&](const glm::dvec3& d) { return model.radiance(d); });
            QVERIFY2(worst < 2e-3, qPrintable(QString("%1: %2").arg(sun).arg(worst)));
        }
    }

    /// Discs and stars, pixel by pixel: the sun with its dark edge, the moon's lit part, a field at night.
    void discs_and_stars_match_core() {
        struct Case {
            const char *sun, *moon;
            double elevation, azimuth, fov;
        };
        for (const Case& c :
             {Case{"20", "60", 20, 180, 1.4}, Case{"-20", "50", 50, 215, 1.4}, Case{"-30", "-50", 60, 100, 30}}) {
            const Setup s = under({{"sun.elevation", c.sun},
                                   {"moon.elevation", c.moon},
                                   {"sky.look", "pixels"},
                                   {"night.faintest", "8"}});
            const View view = looking(c.elevation, c.azimuth, c.fov, 64, 64);
            const SkyModel model(sky_settings(nothing(), s, view));
            const FloatImage got = hdr(nothing(), s, view);
            double most = 0, off = 0, sum = 0;
            for (int y = 0; y < 64; ++y)
                for (int x = 0; x < 64; ++x) {
                    const glm::dvec3 d = direction_at(view, x, y), wanted = model.seen(d, pixel_angle(view));
                    most = std::max(most, luminance(wanted) / luminance(model.radiance(d)));
                    const glm::dvec3 is(got.pixel(x, y)[0], got.pixel(x, y)[1], got.pixel(x, y)[2]);
                    off += std::abs(luminance(is) - luminance(wanted));
                    sum += luminance(wanted);
                }
            QVERIFY2(off < 0.02 * sum && most > 2,
                     qPrintable(QString("%1: %2, %3").arg(c.elevation).arg(off / sum).arg(most)));
        }
    }

    /// A white wall at a known distance through sea mist: what the air adds and lets through.
    void air_before_surfaces_matches_core() {
        for (const double metres : {3.0, 60.0, 900.0, 4000.0}) {
            SceneAsset a;
            a.materials.push_back(plain_material({100, 50, 20}, 0, 1));
            a.materials[0].unlit = true;
            const float w = static_cast<float>(metres);
            add_quad(a, 0, {-w, -w, -w}, {2 * w, 0, 0}, {0, 2 * w, 0});
            const Scene scene{finished(std::move(a)), {}, {}, {}};
            const Setup s = under({{"sky.preset", "sea-mist"}, {"sun.elevation", "20"}, {"sun.azimuth", "30"}});
            View view = looking(3, 0, 8, 16, 16);
            const SkySettings sky = sky_settings(scene, s, view);
            const auto tables = sky_tables(sky.air);
            const FloatImage got = hdr(scene, s, view), passed = hdr(scene, s, view, "transmittance");
            for (const int at : {3, 12}) {
                const glm::dvec3 d = direction_at(view, at, at);
                glm::dvec3 through, added(0.0);
                for (const SkyBody* b : {&sky.sun, &sky.moon})
                    added +=
                        tables->inscattered(sky.eye, d, b->direction, b->angle, metres / -d.z, 200, false, through) *
                        b->illuminance;
                const glm::dvec3 wanted = glm::dvec3(100, 50, 20) * through + added;
                for (int c = 0; c < 3; ++c) {
                    QVERIFY2(std::abs(got.pixel(at, at)[c] - wanted[c]) < 0.02 * wanted[c],
                             qPrintable(
                                 QString("%1 m: %2 against %3").arg(metres).arg(got.pixel(at, at)[c]).arg(wanted[c])));
                    QVERIFY(std::abs(passed.pixel(at, at)[c] - through[c]) < 0.01);
                }
            }
        }
    }

    void all_paths_give_one_picture() {
        Scene scene = random_scene(6, 40);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        const auto setup = [](const char* path) {
            return under({{"path.kind", path},
                          {"gbuffer.packing", "full"},
                          {"sky.preset", "sea-mist"},
                          {"ambient.kind", "environment"},
                          {"path.maxLights", "64"},
                          {"sun.elevation", "9"}});
        };
        const FloatImage wanted = hdr(scene, setup("additive"), view);
        for (const char* path : paths)
            QVERIFY2(largest_relative_difference(wanted, hdr(scene, setup(path), view), 1) < 3e-3, path);
    }

    void layers_add_up_and_the_account_holds() {
        const Scene scene = random_scene(6, 40);
        const View view = view_from({9, 5, 13}, {0, 3, 0}, 80, 45);
        for (const char* kind : {"atmosphere", "fitted"}) {
            const Setup s =
                under({{"sky.kind", kind}, {"sky.preset", "haze"}, {"sun.elevation", "12"}, {"night.stars", "off"}});
            FloatImage sum = hdr(scene, s, view, "sky");
            for (const LayerInfo& l : all_layers()) {
                if (!l.addsUp || l.name == "sky") continue;
                if (!shows(l, s, false)) continue;
                const FloatImage part = hdr(scene, s, view, l.name);
                for (std::size_t i = 0; i < sum.data.size(); ++i)
                    sum.data[i] += part.data[i];
            }
            const FloatImage whole = hdr(scene, s, view);
            for (std::size_t i = 0; i < sum.data.size(); ++i)
                if (i % 4 != 3) QVERIFY(std::abs(sum.data[i] - whole.data[i]) < 4e-3f * std::max(1.0f, whole.data[i]));
            for (const glm::ivec2 pixel : {glm::ivec2(40, 3), {5, 6}, {40, 30}, {60, 40}}) {
                const PixelAccount a = account_at(scene, s, view, pixel);
                QVERIFY2(a.difference < 0.02,
                         qPrintable(QString("%1, %2: %3").arg(pixel.x).arg(pixel.y).arg(a.difference)));
            }
        }
    }

    /// Tables are made when what they hold changes, and only then.
    void tables_are_kept_as_long_as_they_hold() {
        const Scene scene = random_scene(6, 5);
        View view = view_from({9, 5, 13}, {0, 1, 0}, 64, 36);
        const Setup s = under({{"sun.elevation", "31"}, {"sky.preset", "own"}, {"sky.mieHeight", "1300"}});
        QCOMPARE(draws_of(rendered(scene, s, view), "sky tables"), std::uint64_t(3));
        view.camera.eye.x += 1; // along the ground
        FrameRecord r = rendered(scene, s, view);
        QVERIFY(draws_of(r, "sky tables") == 0 && draws_of(r, "sky view") == 0);
        view.camera.eye.y += 1;
        r = rendered(scene, s, view);
        QVERIFY(draws_of(r, "sky tables") == 0 && draws_of(r, "sky view") == 1);
        Setup other = s;
        QVERIFY(other.set_text("sun.elevation", "32").has_value());
        r = rendered(scene, other, view);
        QVERIFY(draws_of(r, "sky tables") == 0 && draws_of(r, "sky view") == 1);
        QVERIFY(other.set_text("sky.mieHeight", "1400").has_value());
        QCOMPARE(draws_of(rendered(scene, other, view), "sky tables"), std::uint64_t(3));
        QVERIFY(other.set_text("sky.update", "always").has_value());
        for (int i = 0; i < 2; ++i)
            QCOMPARE(draws_of(rendered(scene, other, view, true), "sky tables"), std::uint64_t(3));
        // What is kept gives the same bits as what is made anew.
        const FloatImage fresh = hdr(scene, other, view);
        QVERIFY(other.set_text("sky.update", "changed").has_value());
        QVERIFY(hdr(scene, other, view).data == fresh.data);
    }

    void the_ambient_light_of_the_sky_matches_core() {
        SceneAsset a;
        a.materials.push_back(plain_material({0.5f, 0.5f, 0.5f}, 0, 1));
        add_quad(a, 0, {-40, 0, 40}, {80, 0, 0}, {0, 0, -80});
        const Scene scene{finished(std::move(a)), {}, {}, {}};
        const Setup s = under({{"ambient.kind", "environment"},
                               {"environment.specular", "off"},
                               {"sky.perspective", "off"},
                               {"sun.elevation", "33"}});
        const View view = view_from({0, 2, 0}, {0, 0, -1}, 9, 9);
        const glm::dvec3 wanted = ambient_radiance(ambient_light(scene, s, view), {0, 1, 0}) * (0.5 + 0.04);
        const FloatImage got = hdr(scene, s, view, "ambient");
        for (int c = 0; c < 3; ++c)
            QVERIFY(std::abs(got.pixel(4, 4)[c] - wanted[c]) < 2e-3 * wanted[c]);
    }

    void both_eyes_in_one_pass_see_the_same_air() {
        const Scene scene = random_scene(6, 10);
        View view = view_from({9, 5, 13}, {0, 1, 0}, 64, 36);
        const Setup s = under({{"sky.preset", "sea-mist"}});
        RenderOptions o;
        o.fencedSamples = 0;
        o.bothEyes = true;
        view.stereo = Stereo::twoPasses;
        const auto two = session().render(scene, s, view, o);
        view.stereo = Stereo::onePass;
        const auto one = session().render(scene, s, view, o);
        QVERIFY(two.has_value() && one.has_value());
        int differ = 0;
        for (std::size_t i = 0; i < one->picture.rgba.size(); ++i)
            differ += std::abs(int(one->picture.rgba[i]) - int(two->picture.rgba[i])) > 1;
        QVERIFY2(differ < 40, qPrintable(QString::number(differ)));
    }

    /// From space the ball of air is seen whole, ray by ray.
    void from_space_there_is_a_ball() {
        const Setup s = under({{"sky.altitude", "500000"}, {"sun.elevation", "40"}, {"night.stars", "off"}});
        const View view = looking(-22, 180, 60, 48, 48);
        QVERIFY(!plan_frame(nothing(), s, view).resource("sky view"));
        const SkyModel model(sky_settings(nothing(), s, view));
        const FloatImage got = hdr(nothing(), s, view);
        double worst = 0;
        for (int y = 0; y < 48; ++y) {
            const glm::dvec3 d = direction_at(view, 24, y), wanted = model.radiance(d);
            worst = std::max(worst, std::abs(got.pixel(24, y)[1] - wanted.y) / std::max(wanted.y, 50.0));
        }
        QVERIFY2(worst < 0.05, qPrintable(QString::number(worst)));
        QVERIFY(got.pixel(24, 0)[2] < 1 && got.pixel(24, 47)[2] > 500);
    }
};

MIROLUX_TEST(sky_test)
#include "sky_test.moc"
