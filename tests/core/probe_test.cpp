#include "core/ambient/probes.h"
#include "core/image/image_io.h"
#include "core/io/wire.h"
#include "support/probes.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

static glm::dvec3 random_direction(std::mt19937& r) {
    glm::dvec3 d;
    do
        d = {random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1)};
    while (glm::length(d) > 1 || glm::length(d) < 0.1);
    return glm::normalize(d);
}

static Probe box_probe(int id, glm::vec3 size, float blend = 0.0f) {
    Probe p;
    p.id = id;
    p.name = "box " + std::to_string(id);
    p.size = size;
    p.blend = blend;
    p.file = "captured.exr";
    return p;
}

/// Probes without a device: boxes, shares, parallax, captures as light. What surfaces make of them is gpu/probe_test.
class probe_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

private slots:
    void a_claim_is_whole_in_the_box_and_fades_over_the_blend() {
        Probe p = box_probe(0, {10, 4, 6}, 1.0f);
        p.center = {100, 2, -7};
        p.weight = 0.8f;
        const double whole = double(p.weight);
        QCOMPARE(claim(p, {100, 2, -7}), whole);
        QCOMPARE(claim(p, {105, 4, -4}), whole); // walls that its sides lie on
        QVERIFY(std::abs(claim(p, {105.26, 2, -7}) - 0.8 * 0.75) < 1e-6);
        QVERIFY(std::abs(claim(p, {105.26, 4.91, -7}) - 0.8 * 0.1) < 1e-6); // the farther side counts
        QCOMPARE(claim(p, {106.02, 2, -7}), 0.0);
        p.turn = glm::half_pi<float>(); // its long side lies along z now
        QCOMPARE(claim(p, {104.75, 2, -7}), 0.0);
        QVERIFY(std::abs(claim(p, {100, 2, -1.74}) - 0.8 * 0.75) < 1e-5);
        p.blend = 0;
        QVERIFY(claim(p, {100, 2, -1.995}) > 0 && claim(p, {100, 2, -1.98}) == 0);
    }

    /// Inner boxes first, whatever their order in the list; those that are off or not captured take no part; shares
    /// and what is left for the surroundings sum to one.
    void inner_boxes_take_their_share_first() {
        std::vector<Probe> probes = {box_probe(0, glm::vec3(20)), box_probe(1, glm::vec3(4), 1.0f),
                                     box_probe(2, glm::vec3(2)), box_probe(3, glm::vec3(1))};
        probes[2].enabled = false;
        probes[3].file.clear();
        QCOMPARE(nested(probes), (std::vector<std::size_t>{1, 0}));
        probes[0].weight = 0.5f;
        const auto shares = probe_shares(probes, {2.76, 0, 0}); // a quarter of the inner box's blend is left
        QCOMPARE(shares.size(), std::size_t(2));
        QCOMPARE(shares[0].probe, std::size_t(1));
        QVERIFY(std::abs(shares[0].share - 0.25) < 1e-6 && std::abs(shares[1].share - 0.75 * 0.5) < 1e-6);
        QVERIFY(probe_shares(probes, {30, 0, 0}).empty());
        std::mt19937 r(5);
        for (int i = 0; i < 200; ++i) {
            double sum = 0;
            for (const ProbeShare& s :
                 probe_shares(probes, {random_in(r, -12, 12), random_in(r, -12, 12), random_in(r, -12, 12)}))
                sum += s.share;
            QVERIFY(sum >= 0 && sum <= 1 + 1e-12);
        }
    }

    /// A ray's way through the box found by halving, not by its planes.
    void box_projection_looks_where_the_ray_leaves_the_box() {
        std::mt19937 r(9);
        for (int i = 0; i < 300; ++i) {
            Probe p = box_probe(0, {random_in(r, 1, 9), random_in(r, 1, 9), random_in(r, 1, 9)});
            p.turn = random_in(r, -3, 3);
            p.center = {random_in(r, -5, 5), random_in(r, -5, 5), random_in(r, -5, 5)};
            p.position = place_in(p, {0.5f, -0.3f, 0.2f});
            const glm::dvec3 from(
                place_in(p, {random_in(r, -0.9f, 0.9f), random_in(r, -0.9f, 0.9f), random_in(r, -0.9f, 0.9f)})),
                d = random_direction(r);
            double within = 0, beyond = 100;
            for (int k = 0; k < 60; ++k) {
                const double middle = 0.5 * (within + beyond);
                const glm::dvec3 u = glm::abs(point_in(p, from + d * middle)) / (0.5 * glm::dvec3(p.size));
                (std::max({u.x, u.y, u.z}) < 1 ? within : beyond) = middle;
            }
            const glm::dvec3 wanted = glm::normalize(from + d * within - glm::dvec3(p.position));
            QVERIFY(glm::length(box_projected(p, from, d) - wanted) < 1e-6);
        }
    }

    /// What a view sees in a direction, the cube map has in the same one: for every texel of every face.
    void faces_of_views_become_faces_of_a_cube() {
        const ProbeLight light =
            probe_light(painted_faces(8, [](const glm::dvec3& d) { return 2.0 + d; })); // nothing under 0
        for (int row = 0; row < 48; ++row)
            for (int x = 0; x < 8; ++x) {
                const glm::dvec3 d = cube_direction(row / 8, (2 * x + 1.0) / 8 - 1, (2 * (row % 8) + 1.0) / 8 - 1);
                const float* p = light.faces.pixel(x, row);
                QVERIFY(glm::length(glm::dvec3(p[0], p[1], p[2]) - 2.0 - d) < 1e-5);
                QVERIFY(glm::length(radiance_of(light.faces, d) - 2.0 - d) < 1e-5);
            }
    }

    /// Even light stays what it is; light that grows evenly with height gives upward normals 1 + 2/3 of its slope.
    void harmonics_of_a_capture_are_its_irradiance() {
        const ProbeLight even = probe_light(painted_faces(16, [](const glm::dvec3&) { return glm::dvec3(3.0); }));
        QVERIFY(std::abs(even.mean - 3) < 0.02);
        QVERIFY(glm::length(harmonic_radiance(even.harmonics, {0, 0.6, 0.8}) - 3.0) < 0.04);
        const ProbeLight tilted =
            probe_light(painted_faces(32, [](const glm::dvec3& d) { return glm::dvec3(2 + d.y); }));
        for (const double y : {-1.0, 0.0, 1.0})
            QVERIFY(std::abs(harmonic_radiance(tilted.harmonics, {std::sqrt(1 - y * y), y, 0}).x -
                             (2 + 2.0 / 3.0 * y)) < 0.02);
    }

    void captures_survive_their_file_and_damaged_ones_are_named() {
        FloatImage faces = painted_faces(16, [](const glm::dvec3& d) { return 1.5 + d; });
        const std::string file = folder_.filePath("there/some.exr").toStdString(); // the folder is made
        QVERIFY(write_probe(file, faces).has_value());
        const auto read = read_probe(file, 16);
        QVERIFY(read.has_value() && (*read)->remark.empty());
        QCOMPARE((*read)->faces.data, probe_light(faces).faces.data);
        const auto half = read_probe(file, 8);
        QVERIFY(half && (*half)->faces.width == 8 && std::abs((*half)->mean - (*read)->mean) < 0.02);
        faces.data[5] = std::numeric_limits<float>::quiet_NaN();
        faces.data[9] = -1;
        QTest::qSleep(20); // another time of writing
        QVERIFY(write_probe(file, faces).has_value());
        const auto bad = read_probe(file, 16);
        QVERIFY2(bad && (*bad)->remark.find("2 of its values") == 0, bad ? (*bad)->remark.c_str() : "");
        const std::string square = folder_.filePath("square.exr").toStdString();
        QVERIFY(write_exr(square, FloatImage{4, 4, 3, std::vector<float>(48, 1.0f)}).has_value());
        QVERIFY(read_probe(square, 16).error().what.find("not six square pictures") != std::string::npos);
        QVERIFY(!read_probe(folder_.filePath("none.exr").toStdString(), 16).has_value());
    }

    /// What only says how the same light is computed or shown makes no other capture.
    void a_capture_knows_the_light_that_it_was_taken_in() {
        Scene scene = random_scene(3, 4);
        const Probe p = box_probe(0, glm::vec3(4));
        Setup setup;
        const std::string before = capture_digest(scene, setup, {}, p);
        QVERIFY(setup.set_text("path.kind", "deferred") && setup.set_text("exposure.ev100", "3") &&
                setup.set_text("probe.kind", "none"));
        QCOMPARE(capture_digest(scene, setup, {}, p), before);
        scene.lights[1].intensity *= 2;
        const std::string brighter = capture_digest(scene, setup, {}, p);
        QVERIFY(brighter != before);
        QVERIFY(setup.set_text("air.kind", "uniform").has_value());
        QVERIFY(capture_digest(scene, setup, {}, p) != brighter);
        Probe moved = p;
        moved.position.x += 0.1f;
        const std::string still = capture_digest(scene, setup, {}, p);
        QVERIFY(capture_digest(scene, setup, {}, moved) != still);
        // What moves by clips, and what is built, make other captures.
        View later;
        later.seconds = 1;
        QVERIFY(capture_digest(scene, setup, later, p) != still);
        scene.clips = {{"sway", true, true, 2.0}};
        QVERIFY(capture_digest(scene, setup, {}, p) != still);
        scene.clips.clear();
        Make ball;
        ball.shape = usual_shape(ShapeKind::ball);
        BuiltPtr built;
        add_things(built, {{"made 1", "ball", std::make_shared<const Make>(ball)}});
        Scene more = scene;
        more.asset = built_on(scene.asset, built);
        QVERIFY(capture_digest(more, setup, {}, p) != still);
        QCOMPARE(capture_digest(scene, setup, {}, p), still);
    }

    void a_probe_within_a_wall_is_said() {
        SceneAsset a;
        a.materials.push_back(plain_material(glm::vec3(0.5f), 0, 1));
        add_box(a, 0, {0, 0, 0}, {4, 3, 0.5f});
        add_quad(a, 0, {-20, 0, 20}, {40, 0, 0}, {0, 0, -40});
        Scene scene;
        scene.asset = finished(std::move(a));
        const RayScene rays(scene);
        Probe p = box_probe(0, glm::vec3(4));
        p.position = {2, 1.5f, 0.25f};
        QVERIFY(QString::fromStdString(probe_trouble(rays, p)).contains("'box 0' stands within something"));
        p.position = {2, 1.5f, 2};
        QVERIFY(walled_in(rays, {2, 1.5f, 0.25f}) > 0.95 && probe_trouble(rays, p).empty());
        QVERIFY(walled_in(rays, p.position) < 0.1);
    }

    void probes_survive_json_and_the_project() {
        Probe p = box_probe(3, {5, 6, 7}, 0.25f);
        p.position = {1, 2, 3};
        p.center = {1, 2.5f, 3};
        p.turn = 0.5f;
        p.weight = 0.75f;
        p.recapture = Recapture::inTurn;
        p.captured = "0123456789abcdef";
        p.enabled = false;
        const Json json = Json::parse(to_json(p).dump());
        QCOMPARE(probe_from_json(JsonCursor(json)), p);
        auto open = open_project(MIROLUX_DEMO);
        QVERIFY(open.has_value());
        QCOMPARE(open->project.probes.size(), std::size_t(6)); // the hall's two, the workshop's four
        const std::filesystem::path file = folder_.filePath("kept.mirolux").toStdString();
        p.file = probe_file(file, p).string();
        open->project.probes.push_back(p);
        QVERIFY(save_project(open->project, *open->asset, file).has_value());
        QFile text(QString::fromStdString(file.string()));
        QVERIFY(text.open(QIODevice::ReadOnly) && text.readAll().contains("\"kept.probes/box-3-3.exr\""));
        const auto again = open_project(file);
        QVERIFY(again && again->project.probes == open->project.probes);
        const Json broken = Json::parse(R"({"id": 1, "position": [0, 0, 0], "size": [1, 0, 1]})");
        QVERIFY_EXCEPTION_THROWN(probe_from_json(JsonCursor(broken)), ReadFailure);
    }

    /// Balls are seen from the eye: the mirror's middle shows what lies behind the eye, its edge what lies behind the
    /// ball.
    void balls_show_their_capture() {
        const ProbeLight light = probe_light(painted_faces(32, [](const glm::dvec3& d) { return 1.5 + d; }));
        View view;
        view.camera.eye = {0, 0, 5};
        const FloatImage mirror = ball_picture(light, Ball::mirror, view, {0, 0, 0}, 65),
                         matt = ball_picture(light, Ball::matt, view, {0, 0, 0}, 65);
        const auto at = [](const FloatImage& f, int x, int y) {
            const float* p = f.pixel(x, y);
            return glm::dvec3(p[0], p[1], p[2]);
        };
        QVERIFY(glm::length(at(mirror, 32, 32) - glm::dvec3(1.5, 1.5, 2.5)) < 0.1);
        QVERIFY(at(mirror, 1, 32).z < 0.8);                               // what lies behind it
        QVERIFY(at(mirror, 56, 32).x > 2.2 && at(mirror, 8, 32).x < 0.8); // right is right
        QVERIFY(at(matt, 32, 6).y > at(matt, 32, 58).y + 0.8);            // up is up
        QCOMPARE(mirror.pixel(0, 0)[3], 0.0f);
        QCOMPARE(mirror.pixel(32, 32)[3], 1.0f);
    }
};

MIROLUX_TEST(probe_test)
#include "probe_test.moc"
