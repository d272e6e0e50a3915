#include "core/ambient/ambient_light.h"
#include "core/image/image_io.h"
#include "core/sky/panorama.h"
#include "core/sky/picture_sun.h"
#include "support/probes.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

/// A plain sky, brighter above, with a disc of so many radians across and its radiance on top.
static FloatImage sky_with_disc(int width, const glm::dvec3& toward, double across, const glm::dvec3& disc) {
    return panorama(
        width,
        [&](const glm::dvec3& d) {
            const bool on = std::acos(std::clamp(glm::dot(d, toward), -1.0, 1.0)) < 0.5 * across;
            return glm::dvec3(0.6, 0.8, 1.2) * (1.5 + d.y) + (on ? disc : glm::dvec3(0.0));
        },
        6); // its edge falls within texels
}

static std::shared_ptr<const SkyPicture> picture_of(FloatImage image) {
    auto p = std::make_shared<SkyPicture>();
    p->image = std::move(image);
    for (const float v : p->image.data)
        p->brightest = std::max(p->brightest, v);
    return p;
}

static SkySettings pictured(const std::shared_ptr<const SkyPicture>& picture) {
    SkySettings s;
    s.kind = SkyKind::file;
    s.picture = picture;
    return s;
}

/// The sun of a picture as a lamp.
class picture_sun_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

private slots:
    /// Against the disc that was put there: its solid angle times its radiance.
    void a_disc_is_found_with_its_place_its_light_and_its_size() {
        for (const glm::dvec3& to : {glm::dvec3(0.3, 0.5, -0.8), {-0.9, 0.15, 0.4}, {0.02, 0.99, 0.05}}) {
            const glm::dvec3 toward = glm::normalize(to), disc(90000, 80000, 60000);
            const double across = glm::radians(0.9);
            const auto found = sun_of(picture_of(sky_with_disc(1024, toward, across, disc)));
            QVERIFY(found->has_value());
            const PictureSun& sun = **found;
            const double solid = 2 * glm::pi<double>() * (1 - std::cos(0.5 * across));
            QVERIFY(glm::length(sun.direction - toward) < 0.002);
            QVERIFY2(glm::length(sun.illuminance / (disc * solid) - 1.0) < 0.04,
                     std::to_string(sun.illuminance.x / (disc.x * solid)).c_str());
            QVERIFY(sun.angle > 0.7 * across && sun.angle < 1.6 * across); // texels at its edge count whole
        }
    }

    /// Nothing is lost and nothing doubled: the picture without it and the lamp give level ground what the picture
    /// gave.
    void what_is_taken_is_what_the_lamp_gives() {
        const auto picture = picture_of(
            sky_with_disc(512, glm::normalize(glm::dvec3(0.2, 0.6, 0.5)), 0.03, glm::dvec3(40000, 30000, 20000)));
        const PictureSun sun = **sun_of(picture);
        const glm::dvec3 whole = sky_model(pictured(picture))->irradiance(),
                         rest = sky_model(pictured(sun.without))->irradiance(),
                         lamp = sun.illuminance * sun.direction.y;
        QVERIFY2(glm::length((rest + lamp) / whole - 1.0) < 0.005, std::to_string((rest.x + lamp.x) / whole.x).c_str());
        QVERIFY(lamp.x > 3 * rest.x);               // it was most of the light
        QVERIFY(sun.without->brightest < 5);        // what is left is the sky
        QVERIFY(!sun_of(sun.without)->has_value()); // and has no second one
    }

    void what_does_not_stand_out_or_is_no_disc_is_no_sun() {
        QVERIFY(!sun_of(picture_of(sky_with_disc(256, {0, 1, 0}, 0, glm::dvec3(0))))->has_value());
        const glm::dvec3 toward = glm::normalize(glm::dvec3(0, 1, -1));
        QVERIFY(!sun_of(picture_of(sky_with_disc(256, toward, 0.03, glm::dvec3(20))))->has_value());  // faint
        QVERIFY(!sun_of(picture_of(sky_with_disc(256, toward, 0.35, glm::dvec3(5e4))))->has_value()); // a window
    }

    /// In a scene: the lamp that follows the sky's sun shines for the picture's, turned as the picture is.
    void a_directional_light_shines_for_it() {
        const std::string file = folder_.filePath("sun.exr").toStdString();
        const glm::dvec3 toward = glm::normalize(glm::dvec3(0, 0.5, -1)), disc(50000, 40000, 30000);
        QVERIFY(write_exr(file, sky_with_disc(512, toward, 0.03, disc)).has_value());
        Scene scene;
        scene.asset = white_plane();
        scene.lights = {Light{.id = 1, .name = "lamp"}, Light{.id = 2, .name = "sun", .type = LightType::directional}};
        Setup s;
        for (const auto& [key, value] : {std::pair("ambient.kind", "environment"),
                                         {"environment.source", "file"},
                                         {"environment.strength", "2"},
                                         {"environment.turn", "90"}})
            QVERIFY(s.set_text(key, value).has_value());
        QVERIFY(s.set_text("environment.file", file).has_value());
        const View view;
        QCOMPARE(lights_of(scene, s, view)[1].intensity, scene.lights[1].intensity); // kept
        QVERIFY(s.set_text("environment.sun", "taken").has_value());
        const Light sun = lights_of(scene, s, view)[1];
        // A turn of 90 degrees moves north to the east, to the right as seen.
        QVERIFY(glm::length(glm::dvec3(-sun.direction) - glm::normalize(glm::dvec3(1, 0.5, 0))) < 0.01);
        const double solid = 2 * glm::pi<double>() * (1 - std::cos(0.015));
        QVERIFY(std::abs(sun.intensity / (2 * disc.x * solid) - 1) < 0.05);
        QVERIFY(std::abs(sun.color.b - 0.6) < 0.02 && sun.sourceSize > 0.02f);
        // Seen behind it stands where it stood; as light it is gone.
        QVERIFY(sky_settings(scene, s, view).picture->brightest > 1000);
        QVERIFY(environment_sky(scene, s, view).picture->brightest < 10);
        scene.lights.pop_back();
        const auto notes = plan_frame(scene, s, view).notes;
        QVERIFY(std::any_of(notes.begin(), notes.end(), [](const std::string& n) {
            return n.find("no directional light that could shine for it") != std::string::npos;
        }));
    }

    /// Surroundings that a probe has captured: its radiance by direction, whatever the picture between.
    void a_capture_serves_as_surroundings() {
        Scene scene;
        scene.asset = white_plane();
        const auto colors = [](const glm::dvec3& d) { return 1.5 + d; };
        scene.probes = {painted_probe(folder_, 4, {0, 3, 0}, glm::vec3(5), colors, 64)};
        Setup s;
        QVERIFY(s.set_text("ambient.kind", "environment") && s.set_text("environment.source", "capture") &&
                s.set_text("probe.size", "64"));
        const View view;
        const SkySettings around = environment_sky(scene, s, view);
        QVERIFY2(around.kind == SkyKind::file, around.trouble.c_str());
        std::mt19937 r(4);
        for (int i = 0; i < 200; ++i) {
            const glm::dvec3 d = glm::normalize(
                glm::dvec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1)) + glm::dvec3(0, 1e-3, 0));
            QVERIFY(glm::length(sky_model(around)->radiance(d) - colors(d)) < 0.05);
        }
        QVERIFY(s.set_text("environment.probe", "attic").has_value());
        QVERIFY(environment_sky(scene, s, view).trouble.find("'attic', which is not there") != std::string::npos);
        // A capture does not look at itself.
        QCOMPARE(capture_setup(s).choice("environment.source"), std::string("sky"));
    }
};

MIROLUX_TEST(picture_sun_test)
#include "picture_sun_test.moc"
