#include "core/ambient/probes.h"
#include "core/plan/camera_motion.h"
#include "session_fixture.h"
#include "support/probes.h"
#include <set>

using namespace mirolux;
using namespace mirolux::test;

namespace {

const glm::vec3 room_size(6, 4, 8);

/// A closed room from the origin on whose walls each point glows in its own place: red, green and blue are its share of
/// the room's width, height and depth. The floor is painted too, or a perfect mirror.
Scene painted_room(bool mirrorFloor) {
    SceneAsset a;
    a.materials.push_back(plain_material(glm::vec3(1), 1, 0)); // mirror
    Material glow = plain_material(glm::vec3(1), 0, 1);
    glow.unlit = true;
    a.materials.push_back(glow);
    const glm::vec3 x(room_size.x, 0, 0), y(0, room_size.y, 0), z(0, 0, room_size.z), o(0.0f);
    add_quad(a, mirrorFloor ? 0 : 1, z, x, -z);
    add_quad(a, 1, o, x, y); // each faces inwards
    add_quad(a, 1, x + z, -x, y);
    add_quad(a, 1, z, -z, y);
    add_quad(a, 1, x, z, y);
    add_quad(a, 1, y, x, z);
    for (Primitive& p : a.primitives)
        for (Vertex& v : p.vertices) {
            const glm::vec3 share = v.position / room_size;
            const auto byte = [](float s) { return s > 0.5f ? 255u : 0u; };
            v.color = byte(share.x) | byte(share.y) << 8 | byte(share.z) << 16 | 255u << 24;
        }
    if (mirrorFloor)
        for (Vertex& v : a.primitives[0].vertices)
            v.color = 0xFFFFFFFFu;
    Scene scene;
    scene.asset = finished(std::move(a));
    return scene;
}

Probe room_probe() {
    Probe p;
    p.id = 1;
    p.name = "room";
    p.position = {2.2f, 1.3f, 4.9f};
    p.center = 0.5f * room_size;
    p.size = room_size;
    p.blend = 0;
    return p;
}

/// Captured into a folder.
Probe captured(const QTemporaryDir& folder, const Scene& scene, const Setup& setup, Probe p) {
    const auto faces = capture(session(), scene, setup, View{}, p);
    if (!faces) qFatal("%s", to_text(faces.error()).c_str());
    p.file = probe_file(folder.filePath("test.mirolux").toStdString(), p).string();
    if (auto ok = write_probe(p.file, *faces); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return p;
}

Setup by_probes(std::vector<std::pair<std::string, std::string>> more = {}) {
    std::vector<std::pair<std::string, std::string>> all = {{"ambient.kind", "environment"},
                                                            {"probe.kind", "captured"},
                                                            {"path.targetFormat", "rgba32f"},
                                                            {"environment.size", "32"},
                                                            {"probe.size", "16"}};
    all.insert(all.end(), more.begin(), more.end());
    return setup_with(all);
}

glm::dvec3 color_at(const FloatImage& image, int x, int y) {
    const float* p = image.pixel(x, y);
    return {p[0], p[1], p[2]};
}

} // namespace

/// Probes on the device: captures, parallax, blending, on all paths.
class probe_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;

private slots:
    /// Each face of a capture is what an ordinary frame from there shows, to the bit.
    void captures_are_ordinary_frames() {
        Demo d = demo();
        const Setup setup = by_probes({{"probe.size", "32"}, {"path.targetFormat", "rgba16f"}});
        Probe p = d.scene.probes.at(0);
        const auto faces = capture(session(), d.scene, setup, d.view, p);
        QVERIFY(faces.has_value());
        Setup plain = setup;
        QVERIFY(plain.set_text("probe.kind", "none").has_value());
        const glm::vec3 aims[] = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
        double light = 0;
        for (int face = 0; face < 6; ++face) {
            View view = view_from(p.position, p.position + aims[face], 32, 32);
            view.camera.fovY = glm::half_pi<float>();
            view.seconds = d.view.seconds;
            const FloatImage picture = hdr(d.scene, plain, view);
            QCOMPARE(picture.channels, faces->channels);
            const auto from = faces->data.begin() + static_cast<std::ptrdiff_t>(picture.data.size()) * face;
            QVERIFY2(std::equal(picture.data.begin(), picture.data.end(), from), std::to_string(face).c_str());
            light += color_at(picture, 16, 16).g;
        }
        QVERIFY(light > 0);
    }

    /// The mirror image of a room's painted walls, held against rays, within a texel of the capture.
    void box_projection_shows_a_rooms_walls_in_their_place() {
        Scene scene = painted_room(true);
        constexpr int size = 64;
        const Setup setup = by_probes({{"probe.size", std::to_string(size)}});
        const Probe p = captured(folder_, painted_room(false), setup, room_probe());
        scene.probes = {p};
        const RayScene rays(scene);
        double worst = 0, worstFar = 0;
        int points = 0;
        for (const glm::vec3 eye : {glm::vec3(1.2f, 1.6f, 7.1f), {4.9f, 2.2f, 1.0f}}) {
            const View view = view_from(eye, {3.1f, 0, 4}, 96, 72);
            const FloatImage box = hdr(scene, setup, view, "environment");
            Setup far = setup;
            QVERIFY(far.set_text("probe.parallax", "far").has_value());
            const FloatImage without = hdr(scene, far, view, "environment");
            for (int y = 3; y < view.height; y += 6)
                for (int x = 4; x < view.width; x += 8) {
                    const Ray ray = ray_through(view, x + 0.5, y + 0.5);
                    const RayHit floor = rays.nearest(ray);
                    if (floor.object != 0) continue;
                    const glm::vec3 at = ray.origin + ray.direction * floor.distance,
                                    mirrored(ray.direction.x, -ray.direction.y, ray.direction.z);
                    const RayHit wall = rays.nearest({at, mirrored}, 1e-3f);
                    QVERIFY(wall.object > 0);
                    const glm::dvec3 truth = glm::dvec3(at + mirrored * wall.distance) - glm::dvec3(p.position);
                    const auto off = [&](const FloatImage& seen) { // radians, as the probe sees it
                        const glm::dvec3 shown = color_at(seen, x, y) * glm::dvec3(room_size) - glm::dvec3(p.position);
                        return std::acos(std::clamp(glm::dot(glm::normalize(shown), glm::normalize(truth)), -1.0, 1.0));
                    };
                    worst = std::max(worst, off(box));
                    worstFar = std::max(worstFar, off(without));
                    ++points;
                }
        }
        const double texel = 2.0 / size; // radians, at the middle of a face
        qInfo("box projection: %d points, worst %.2f texels; without it %.1f", points, worst / texel, worstFar / texel);
        QVERIFY(points >= 50);
        QVERIFY2(worst <= texel, std::to_string(worst / texel).c_str());
        QVERIFY(worstFar > 5 * texel); // what it is for
    }

    /// White Lambert in the middle of even light sends on what there is.
    void even_light_gives_the_albedo() {
        Scene scene;
        scene.asset = white_plane();
        scene.probes = {painted_probe(folder_, 2, {0, 0, 0}, glm::vec3(30),
                                      [](const glm::dvec3&) { return glm::dvec3(2, 1, 0.5); })};
        const FloatImage seen =
            hdr(scene, by_probes({{"shading.model", "lambert"}}), view_from({0, 6, 2}, {0, 0, 0}, 24, 18));
        for (const auto& [x, y] : {std::pair(3, 3), {12, 9}, {20, 15}})
            QVERIFY(glm::length(color_at(seen, x, y) - glm::dvec3(2, 1, 0.5)) < 0.02);
    }

    /// Between boxes light changes as the shares say: of each pixel the sum that core finds.
    void light_blends_as_the_shares_say() {
        Scene scene;
        scene.asset = white_plane();
        scene.probes = {
            painted_probe(folder_, 3, {0, 0, 0}, {16, 4, 16}, [](const glm::dvec3&) { return glm::dvec3(1, 0, 0); }),
            painted_probe(folder_, 4, {1, 0, 0}, {6, 4, 6}, [](const glm::dvec3&) { return glm::dvec3(0, 1, 0); })};
        scene.probes[0].blend = 2;
        scene.probes[0].weight = 0.8f;
        scene.probes[1].blend = 1.5f;
        scene.probes[1].turn = 0.6f;
        const Setup setup = by_probes({{"shading.model", "lambert"}});
        const View view = view_from({0, 14, 0.5f}, {0, 0, 0}, 64, 48);
        const FloatImage seen = hdr(scene, setup, view), shares = hdr(scene, setup, view, "probeShares");
        Setup off = setup;
        QVERIFY(off.set_text("probe.kind", "none").has_value());
        const FloatImage around = hdr(scene, off, view);
        std::set<int> steps;
        for (int y = 1; y < view.height; y += 4)
            for (int x = 1; x < view.width; x += 4) {
                const Ray ray = ray_through(view, x + 0.5, y + 0.5);
                const glm::dvec3 at(ray.origin - ray.direction * (ray.origin.y / ray.direction.y));
                if (std::max(std::abs(at.x), std::abs(at.z)) > 9.9) continue;
                glm::dvec3 wanted(0.0);
                double left = 1;
                for (const ProbeShare& s : probe_shares(scene.probes, at)) {
                    wanted += s.share * (s.probe == 0 ? glm::dvec3(1, 0, 0) : glm::dvec3(0, 1, 0));
                    left -= s.share;
                }
                wanted += left * color_at(around, x, y);
                QVERIFY(glm::length(color_at(seen, x, y) - wanted) < 0.015);
                QVERIFY(std::abs(shares.pixel(x, y)[3] - (1 - left)) < 1e-3);
                steps.insert(static_cast<int>(10 * left));
            }
        QVERIFY(steps.size() > 4); // some whole, some in bands, some outside
    }

    /// The same on every path, blended surfaces too.
    void probes_are_the_same_on_all_paths() {
        Scene scene = random_scene(6, 12);
        const auto colors = [](const glm::dvec3& d) { return 1.2 + d; };
        scene.probes = {painted_probe(folder_, 5, {0, 1, 0}, {9, 5, 9}, colors),
                        painted_probe(folder_, 6, {2, 1, 1}, {4, 3, 4}, [](const glm::dvec3& d) { return 1.1 - d; })};
        scene.probes[0].blend = 1;
        const View view = view_from({6, 4, 9}, {0, 1, 0}, 96, 54);
        const FloatImage first = hdr(scene, by_probes({{"path.kind", paths[0]}, {"path.maxLights", "64"}}), view);
        for (const char* path : paths) {
            const FloatImage other = hdr(scene, by_probes({{"path.kind", path}, {"path.maxLights", "64"}}), view);
            const double most = largest_relative_difference(first, other, 0.05);
            QVERIFY2(most < 2e-2, (std::string(path) + " " + std::to_string(most)).c_str()); // as the G-buffer packs
        }
        // And it is another picture than without them.
        const FloatImage off = hdr(scene, by_probes({{"probe.kind", "none"}}), view);
        QVERIFY(largest_relative_difference(first, off, 0.05) > 0.2);
    }

    /// A pixel's account names whose light a surface takes, and parts sum to the picture.
    void accounts_name_probes_and_their_shares() {
        Scene scene;
        scene.asset = white_plane();
        scene.probes = {
            painted_probe(folder_, 7, {0, 0, 0}, {12, 4, 12}, [](const glm::dvec3&) { return glm::dvec3(0.5); })};
        scene.probes[0].weight = 0.75f;
        const Setup setup = by_probes();
        const View view = view_from({0, 6, 2}, {0, 0, 0}, 32, 24);
        RenderOptions o;
        o.fencedSamples = 0;
        o.probe = glm::ivec2(16, 12);
        const auto record = session().render(scene, setup, view, o);
        QVERIFY(record && record->probe);
        const PixelAccount a = pixel_account(scene, setup, view, build_draw_list(scene, setup, view), *record->probe,
                                             record->lightGrid, record->transparentGrid);
        QCOMPARE(a.surfaces.size(), std::size_t(1));
        const SurfaceAccount& s = a.surfaces.front();
        QCOMPARE(s.probes.size(), std::size_t(1));
        QCOMPARE(s.probes[0].first, scene.probes[0].name);
        QVERIFY(std::abs(s.probes[0].second - 0.75) < 1e-6);
        QVERIFY(s.sample.probes.g > 0.25f && s.sample.probes.g <= s.sample.ambient.g);
        QVERIFY(a.difference < 0.01);
    }

    /// What is not there is said, and the surroundings stand in.
    void probes_that_cannot_be_read_are_said() {
        Scene scene;
        scene.asset = white_plane();
        Probe lost =
            painted_probe(folder_, 8, {0, 0, 0}, glm::vec3(9), [](const glm::dvec3&) { return glm::dvec3(9); });
        lost.file = folder_.filePath("nowhere.exr").toStdString();
        Probe fresh = lost;
        fresh.id = 9;
        fresh.file.clear();
        scene.probes = {lost, fresh};
        const View view = view_from({0, 6, 2}, {0, 0, 0}, 16, 12);
        const auto notes = plan_frame(scene, by_probes(), view).notes;
        const auto says = [&](const char* words) {
            return std::any_of(notes.begin(), notes.end(),
                               [&](const std::string& n) { return n.find(words) != std::string::npos; });
        };
        QVERIFY(says("The probe 'probe 8' is left out") && says("One probe is not captured yet"));
        QCOMPARE(hdr(scene, by_probes(), view).data, hdr(scene, by_probes({{"probe.kind", "none"}}), view).data);
    }
};

MIROLUX_TEST(probe_test)
#include "probe_test.moc"
