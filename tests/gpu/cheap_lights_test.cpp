#include "core/account/ledger.h"
#include "core/light/cheap_lights.h"
#include "core/light/luminance.h"
#include "core/plan/camera_motion.h"
#include "core/rays/ray_scene.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

Setup cheap(std::vector<std::pair<std::string, std::string>> more = {}) {
    std::vector<std::pair<std::string, std::string>> values = {{"viewLights.kind", "ramp"},
                                                               {"solidLights.kind", "stencil"},
                                                               {"path.targetFormat", "rgba32f"},
                                                               {"gbuffer.packing", "full"}};
    values.insert(values.end(), more.begin(), more.end());
    return setup_with(values);
}

/// A floor and boxes on it, all opaque.
Scene yard() {
    SceneAsset a;
    a.materials.push_back(plain_material({0.6f, 0.5f, 0.4f}, 0, 0.7f));
    a.materials.push_back(plain_material({0.3f, 0.4f, 0.7f}, 0, 0.4f));
    add_quad(a, 0, {-12, 0, 12}, {24, 0, 0}, {0, 0, -24});
    for (int i = 0; i < 5; ++i)
        add_box(a, 1, {-5.0f + 2.2f * float(i), 0, -1.5f + 0.8f * float(i % 3)}, {1.1f, 1.0f + 0.4f * float(i), 1.2f});
    Scene s;
    s.asset = finished(std::move(a));
    Light l;
    l.id = 3;
    l.name = "lamp";
    l.position = {1, 5, 4};
    l.intensity = 80;
    s.lights.push_back(l);
    return s;
}

/// Three that cross each other.
std::vector<CheapLight> crossing() {
    CheapLight ball{.id = 1, .name = "ball", .shape = CheapShape::ball};
    ball.position = {-0.5f, 0.6f, 0.5f};
    ball.reach = 2.6f;
    ball.tint = {3.5f, 2.25f, 0.75f};
    CheapLight other = ball;
    other.id = 2;
    other.position = {1.6f, 0.4f, 0.9f};
    other.reach = 2.1f;
    other.tint = {0.4f, 1.7f, 6.1f};
    CheapLight cone{.id = 3, .name = "cone", .shape = CheapShape::cone};
    cone.position = {0.4f, 4.5f, 1};
    cone.direction = glm::normalize(glm::vec3(0.1f, -1, 0.05f));
    cone.reach = 5.2f;
    cone.angle = 0.45f;
    cone.tint = {1.3f, 1.9f, 1.1f};
    return {ball, other, cone};
}

constexpr int ball_rings = 96, ball_parts = 192;

/// A ball of radius 1 at the origin, finely made, and one more object far to the side.
Scene ball_scene() {
    SceneAsset a;
    a.materials.push_back(plain_material({0.5f, 0.6f, 0.7f}, 0, 1));
    Primitive p;
    p.material = 0;
    for (int r = 0; r <= ball_rings; ++r)
        for (int k = 0; k <= ball_parts; ++k) {
            const double up = 3.14159265358979 * r / ball_rings, round = 2 * 3.14159265358979 * k / ball_parts;
            Vertex v;
            v.position = v.normal = {float(std::sin(up) * std::cos(round)), float(std::cos(up)),
                                     float(std::sin(up) * std::sin(round))};
            p.vertices.push_back(v);
            p.bounds.add(v.position);
        }
    for (std::uint32_t r = 0; r < ball_rings; ++r)
        for (std::uint32_t k = 0; k < ball_parts; ++k) {
            const std::uint32_t i = r * (ball_parts + 1) + k, j = i + ball_parts + 1;
            for (const std::uint32_t corner : {i, i + 1, j, i + 1, j + 1, j})
                p.indices.push_back(corner);
        }
    a.primitives.push_back(p);
    a.objects.push_back({.primitive = 0, .bounds = p.bounds});
    a.objectNames.push_back({"ball", "ball", 0});
    a.bounds.add(p.bounds);
    add_quad(a, 0, {-3, -1, -2}, {1.5f, 0, 0}, {0, 2, 0});
    Scene s;
    s.asset = finished(std::move(a));
    return s;
}

CheapLight ramp_light(CheapBlend blend) {
    CheapLight l{.id = 7, .name = "ramp"};
    l.toward = glm::normalize(glm::vec3(0.3f, 0.8f, 0.4f));
    l.ramp = {{0.1f, {0.1f, 0.2f, 0.9f}, 0.8f},
              {0.45f, {0.0f, 0.0f, 0.0f}, 0.3f},
              {0.7f, {0.9f, 0.5f, 0.2f}, 1},
              {0.95f, {1, 1, 0.6f}, 0.6f}};
    l.blend = blend;
    l.luminance = 0.9f;
    return l;
}

glm::dvec3 rgb(const FloatImage& image, int x, int y) {
    const float* p = image.pixel(x, y);
    return {p[0], p[1], p[2]};
}

Scene with_cheap(Scene scene, std::vector<CheapLight> lights) {
    scene.cheapLights = std::move(lights);
    return scene;
}

} // namespace

class cheap_lights_test : public QObject {
    Q_OBJECT
private slots:
    /// The picture without them, multiplied pixel by pixel in core with the tints of the shapes that hold its surface:
    /// equal to the bit but where an edge of a shape passes through a pixel or its neighbour.
    void crossing_solids_are_what_core_multiplies() {
        const Scene off = yard(), on = with_cheap(off, crossing());
        const View view = view_from({3.5f, 3, 7}, {0.2f, 0.6f, 0}, 200, 140);
        const RayScene rays(off);
        std::vector<int> within(std::size_t(view.width) * view.height, -1); // a bit for each that holds it
        for (int y = 0; y < view.height; ++y)
            for (int x = 0; x < view.width; ++x) {
                const Ray ray = ray_through(view, float(x) + 0.5f, float(y) + 0.5f);
                const RayHit hit = rays.nearest(ray);
                int& bits = within[std::size_t(y) * view.width + x];
                if (hit.object < 0) continue;
                bits = 0;
                for (std::size_t l = 0; l < on.cheapLights.size(); ++l)
                    bits |= holds(on.cheapLights[l], glm::dvec3(ray.origin + ray.direction * hit.distance)) << l;
            }
        for (const char* path : paths) {
            const Setup s = cheap({{"path.kind", path}});
            const FloatImage before = hdr(off, s, view), got = hdr(on, s, view);
            int inside = 0, threefold = 0, edges = 0;
            for (int y = 1; y + 1 < view.height; ++y)
                for (int x = 1; x + 1 < view.width; ++x) {
                    const int bits = within[std::size_t(y) * view.width + x];
                    bool edge = false;
                    for (int dy = -1; dy <= 1; ++dy)
                        for (int dx = -1; dx <= 1; ++dx)
                            edge = edge || within[std::size_t(y + dy) * view.width + x + dx] != bits;
                    edges += edge;
                    if (edge) continue;
                    glm::vec3 wanted(before.pixel(x, y)[0], before.pixel(x, y)[1], before.pixel(x, y)[2]);
                    for (std::size_t l = 0; l < on.cheapLights.size(); ++l)
                        if (bits > 0 && bits >> l & 1) wanted *= on.cheapLights[l].tint;
                    inside += bits > 0;
                    threefold += bits == 7;
                    const glm::vec3 have(got.pixel(x, y)[0], got.pixel(x, y)[1], got.pixel(x, y)[2]);
                    QVERIFY2(have == wanted, qPrintable(QString("%1: %2, %3").arg(path).arg(x).arg(y)));
                }
            QVERIFY(inside > 2000 && threefold > 150 && edges < 6000);
        }
    }

    /// Every blend on a ball, against the ramp at its exact normal.
    void a_ramp_lies_on_a_ball_as_core_says() {
        const Scene off = ball_scene();
        const View view = view_from({0.5f, 0.8f, 3.4f}, {0, 0, 0}, 160, 120);
        const glm::dmat3 toEye(view_matrix(view.camera));
        for (const CheapBlend blend : cheapBlends) {
            const Scene on = with_cheap(off, {ramp_light(blend)});
            const Setup s = cheap({{"ambient.kind", "constant"}, {"ambient.constant", "0.6,0.5,0.4"}});
            const FloatImage before = hdr(off, s, view), got = hdr(on, s, view);
            int seen = 0;
            for (int y = 0; y < view.height; ++y)
                for (int x = 0; x < view.width; ++x) {
                    const Ray ray = ray_through(view, float(x) + 0.5f, float(y) + 0.5f);
                    const glm::dvec3 o(ray.origin), d = glm::normalize(glm::dvec3(ray.direction));
                    const double b = glm::dot(o, d), rest = b * b - glm::dot(o, o) + 1;
                    if (rest < 0.04) continue; // beside it, or at its rim
                    const glm::dvec3 normal = o + d * (-b - std::sqrt(rest));
                    const glm::dvec3 wanted =
                        view_light_change(on.cheapLights[0], toEye * normal).of(rgb(before, x, y));
                    const glm::dvec3 miss = glm::abs(wanted - rgb(got, x, y));
                    QVERIFY2(std::max({miss.x, miss.y, miss.z}) < 1.0 / 255,
                             qPrintable(QString("%1: %2, %3").arg(word(blend)).arg(x).arg(y)));
                    ++seen;
                }
            QVERIFY(seen > 3000);
        }
    }

    /// Seen from elsewhere the ball looks the same: the light has turned with the camera. Turned itself, it does too.
    void it_turns_with_the_camera_and_not_with_the_object() {
        Scene scene = with_cheap(ball_scene(), {ramp_light(CheapBlend::add)});
        scene.cheapLights[0].objects = {"ball"};
        const Setup s = cheap({{"ambient.kind", "none"}});
        const FloatImage first = hdr(scene, s, view_from({0, 0, 3.4f}, {0, 0, 0}, 120, 90)),
                         beside = hdr(scene, s, view_from({3.4f, 0, 0}, {0, 0, 0}, 120, 90));
        ObjectEdit turn = edit_of({}, *scene.asset, 0);
        turn.rotation = glm::angleAxis(1.1f, glm::normalize(glm::vec3(1, 2, 0.5f)));
        Scene turned = scene;
        turned.placed = place_objects(*scene.asset, {turn});
        const FloatImage after = hdr(turned, s, view_from({0, 0, 3.4f}, {0, 0, 0}, 120, 90));
        double most = 0, fromCamera = 0, fromObject = 0;
        for (int y = 0; y < 90; ++y)
            for (int x = 0; x < 120; ++x) {
                const glm::dvec2 at((x - 59.5) / 45, (y - 44.5) / 45);
                if (glm::length(at) > 0.5) continue; // within the ball by a margin
                const glm::dvec3 a = rgb(first, x, y);
                most = std::max(most, a.x);
                fromCamera = std::max(fromCamera, glm::length(rgb(beside, x, y) - a));
                fromObject = std::max(fromObject, glm::length(rgb(after, x, y) - a));
            }
        QVERIFY(most > 0.3 && fromCamera < 0.01 && fromObject < 0.01);
    }

    void only_chosen_objects_take_it() {
        const Scene off = ball_scene();
        Scene on = with_cheap(off, {ramp_light(CheapBlend::mix)});
        on.cheapLights[0].objects = {"ball"};
        const Setup s = cheap();
        const View view = view_from({0, 0.5f, 4}, {-0.8f, 0, 0}, 160, 90);
        const FloatImage before = hdr(off, s, view), got = hdr(on, s, view), objects = hdr(off, s, view, "objects");
        int changed = 0, kept = 0;
        for (int y = 0; y < 90; ++y)
            for (int x = 0; x < 160; ++x) {
                const bool same = rgb(before, x, y) == rgb(got, x, y);
                if (objects.pixel(x, y)[3] == 1.0f)
                    changed += !same;
                else {
                    ++kept;
                    QVERIFY(same);
                }
            }
        QVERIFY(changed > 1000 && kept > 1000);
    }

    /// Panes, masked surfaces, coincident faces, fog: the same on every path, and the layers add up.
    void all_paths_show_the_same() {
        Scene scene = random_scene(6, 12);
        add_cheap_lights(scene);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 128, 72);
        FloatImage first;
        for (const char* path : paths) {
            const Setup s = cheap({{"path.kind", path}, {"path.maxLights", "64"}, {"air.kind", "uniform"}});
            const FloatImage picture = hdr(scene, s, view);
            if (first.data.empty()) first = picture;
            QVERIFY2(largest_relative_difference(first, picture, 0.05) < 2e-3, path);
            const double off = layers_miss_the_picture(scene, s, view);
            QVERIFY2(off < 0.02, qPrintable(QString("%1: layers %2").arg(path).arg(off)));
        }
        Scene without = scene;
        without.cheapLights.clear();
        QVERIFY(largest_relative_difference(first, hdr(without, cheap({{"air.kind", "uniform"}}), view), 0.05) > 0.3);
        const Setup none = setup_with({{"path.targetFormat", "rgba32f"}});
        QVERIFY(hdr(scene, none, view).data == hdr(without, none, view).data); // off: the same to the bit
    }

    void both_forms_of_stereo_agree() {
        Scene scene = random_scene(6, 12);
        add_cheap_lights(scene);
        View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        view.stereo = Stereo::twoPasses;
        const Setup s = cheap({{"path.kind", "clustered-forward"}});
        const FloatImage twice = hdr(scene, s, view);
        view.stereo = Stereo::onePass;
        const auto device = session().device();
        if (!device) QFAIL("no device");
        QVERIFY(largest_relative_difference(twice, hdr(scene, s, view), 0.05) < 1e-3);
    }

    void the_account_holds() {
        Scene scene = random_scene(6, 12);
        add_cheap_lights(scene);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        for (const char* air : {"none", "uniform"}) {
            const Setup s = cheap({{"path.kind", "tiled-deferred"}, {"air.kind", air}});
            std::size_t changes = 0;
            for (const glm::ivec2 pixel : {glm::ivec2(48, 30), {20, 44}, {50, 40}, {60, 25}, {75, 45}}) {
                const PixelAccount a = account_at(scene, s, view, pixel);
                QVERIFY2(a.difference < 0.02,
                         qPrintable(QString("%1 %2, %3: %4").arg(air).arg(pixel.x).arg(pixel.y).arg(a.difference)));
                for (const SurfaceAccount& surface : a.surfaces)
                    changes += surface.changes.size();
            }
            QVERIFY(changes >= 6);
        }
    }

    /// Each light's share of the ledger is what the picture gains by it as the first of its kind, and it stands beside
    /// the lamp whose place it takes.
    void the_ledger_enters_each() {
        const Scene off = yard();
        Scene scene = with_cheap(off, {crossing()[0], ramp_light(CheapBlend::add)});
        scene.cheapLights[1].standsFor = {3};
        const View view = view_from({3.5f, 3, 7}, {0.2f, 0.6f, 0}, 160, 100);
        const Setup s = cheap({{"path.kind", "clustered-deferred"}, {"shadow.maps", "on"}, {"air.kind", "froxels"}});
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 3;
        o.ledger = true;
        o.floatLayers = {"final"};
        const auto record = session().render(scene, s, view, o);
        QVERIFY(record.has_value());
        const Ledger ledger = make_ledger(scene, *record);
        QCOMPARE(ledger.cheap.size(), std::size_t(2));
        const auto sum = [&](const Scene& of) {
            const FloatImage p = hdr(of, s, view);
            double all = 0;
            for (std::size_t i = 0; i < p.data.size(); i += 4)
                all += luminance({p.data[i], p.data[i + 1], p.data[i + 2]});
            return all;
        };
        const Scene ballOnly = with_cheap(off, {scene.cheapLights[0]});
        const double none = sum(off), ball = sum(ballOnly), both = sum(scene);
        QVERIFY(std::abs(ledger.cheap[0].contributionShare - (ball - none) / both) < 1e-3);
        QVERIFY(std::abs(ledger.cheap[1].contributionShare - (both - ball) / both) < 1e-3);
        QVERIFY(ledger.cheap[0].contributionShare > 0.05 && ledger.cheap[1].contributionShare > 0.05);
        for (const CheapRow& row : ledger.cheap)
            QVERIFY(row.inView && row.fragments > 500 && row.ms > 0);
        QVERIFY(ledger.cheap[1].fragments > ledger.cheap[0].fragments);
        QCOMPARE(ledger.cheap[1].standsFor, std::vector<std::string>{"lamp"});
        QVERIFY(ledger.cheap[1].standsForMs > 0 && ledger.cheap[1].standsForShare > 0);
        QVERIFY(ledger.cheap[0].standsFor.empty());
    }

    /// Odd values have a defined result: nothing is NaN, and what cannot be is left out.
    void odd_values_are_defined() {
        std::vector<CheapLight> lights = crossing();
        lights[0].reach = 1000; // the eye and everything inside
        lights[2].angle = 1.5f;
        lights[1].tint = glm::vec3(0);
        CheapLight empty{.id = 9, .name = "no stop"};
        CheapLight lost = ramp_light(CheapBlend::add);
        lost.objects = {"nothing of this name"};
        lights.push_back(empty);
        lights.push_back(lost);
        const View view = view_from({3.5f, 3, 7}, {0.2f, 0.6f, 0}, 96, 60);
        const FloatImage got = hdr(with_cheap(yard(), lights), cheap({{"path.kind", "volumes"}}), view);
        for (const float v : got.data)
            QVERIFY(std::isfinite(v));
        std::vector<CheapLight> many;
        for (int i = 0; i < 40; ++i) {
            many.push_back(ramp_light(CheapBlend::add));
            many.back().id = i;
        }
        const Scene crowd = with_cheap(yard(), many);
        QCOMPARE(cheap_lights_of(crowd, cheap(), false).size(), most_cheap_lights);
        QVERIFY(hdr(crowd, cheap(), view).data != hdr(yard(), cheap(), view).data);
    }
};

MIROLUX_TEST(cheap_lights_test)
#include "cheap_lights_test.moc"
