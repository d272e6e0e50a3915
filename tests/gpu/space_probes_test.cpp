#include "core/bake/space_probes.h"
#include "core/rays/surface_point.h"
#include "session_fixture.h"
#include "support/baked.h"

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_space_probes {

/// Two rooms without a way between them, a still lamp in the first, probes computed once.
struct Parted {
    TwoRooms rooms{0, false};
    QTemporaryDir folder;
    View view;
    Parted() {
        rooms.scene.bakes = folder.path().toStdString();
        rooms.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        view.width = 128;
        view.height = 72;
        look(false);
        bake_whole(ProbeGridBake::begin(rooms.scene, setup(), {1, 128, -1}));
    }
    void look(bool dark) {
        view.camera.eye = dark ? glm::vec3(7.6f, 1.6f, 2) : glm::vec3(0.6f, 1.6f, 3.4f);
        view.camera.aim = dark ? glm::vec3(4.2f, 1.4f, 2) : glm::vec3(3.5f, 1, 1.2f);
    }
    static Setup setup(const char* order = "2", const char* sees = "on", const char* path = "forward") {
        return setup_with({{"indirect.kind", "probes"},
                           {"shading.model", "lambert"},
                           {"ambient.kind", "none"},
                           {"grid.spacing", "1"},
                           {"grid.order", order},
                           {"grid.visibility", sees},
                           {"path.kind", path}});
    }
};
Parted& parted() {
    static Parted p;
    return p;
}
/// What surfaces take on the device against the reference in double.
struct Against {
    double off = 0; // mean over the mean
    int pixels = 0, bad = 0;
};
Against reference_against(const Scene& scene, const Setup& setup, const View& view) {
    const RayScene rays(scene);
    const auto grid = shown_grid(scene, setup);
    Against out;
    if (!grid) return out;
    const FloatImage light = hdr(scene, setup, view, "spaceLight"), normals = hdr(scene, setup, view, "normal");
    const Camera& c = view.camera;
    const glm::dvec3 way = glm::normalize(glm::dvec3(c.aim) - glm::dvec3(c.eye)),
                     right = glm::normalize(glm::cross(way, glm::dvec3(0, 1, 0))), up = glm::cross(right, way);
    const double high = std::tan(0.5 * double(c.fovY)), wide = high * view.width / view.height;
    double all = 0;
    for (int y = 1; y < light.height; y += 3)
        for (int x = 1; x < light.width; x += 3) {
            const glm::vec3 to(glm::normalize(way + right * (wide * (2 * (x + 0.5) / view.width - 1)) +
                                              up * (high * (1 - 2 * (y + 0.5) / view.height))));
            const Ray ray{c.eye, to};
            const RayHit hit = rays.any_surface(ray, 0, true);
            if (hit.object < 0) continue;
            const SurfacePoint s = surface_point(rays, ray, hit, false);
            const float *n = normals.pixel(x, y), *l = light.pixel(x, y);
            if (glm::dot(glm::vec3(n[0], n[1], n[2]), s.normal) < 0.99f) continue; // an edge
            const ProbeAnswer answer =
                probe_answer(*grid, probe_reading(setup), glm::dvec3(s.position), glm::dvec3(s.normal));
            const double wanted = luminance(answer.light) * (grid->placed.empty() ? 1 : answer.share),
                         is = luminance(glm::dvec3(l[0], l[1], l[2]));
            out.off += std::abs(is - wanted);
            all += wanted;
            out.bad += std::abs(is - wanted) > 0.05 * wanted + 0.005;
            ++out.pixels;
        }
    out.off /= all;
    return out;
}
double mean_of(const FloatImage& image) {
    double sum = 0;
    for (std::size_t i = 0; i < image.data.size(); i += 4)
        sum += luminance(glm::dvec3(image.data[i], image.data[i + 1], image.data[i + 2]));
    return sum / double(image.data.size() / 4);
}

} // namespace mirolux::test_space_probes
using namespace mirolux::test_space_probes;

/// Probes in space, on the device.
class space_probes_test : public QObject {
    Q_OBJECT
private slots:
    /// Every surface against the reference in double, both orders, seeing and not.
    void surfaces_take_what_the_reference_says() {
        Parted& p = parted();
        p.look(false);
        for (const char* order : {"1", "2"})
            for (const char* sees : {"on", "off"}) {
                const Against a = reference_against(p.rooms.scene, Parted::setup(order, sees), p.view);
                qInfo("order %s, seeing %s: %.3f %% off over %d pixels, %d over 5 %%", order, sees, 100 * a.off,
                      a.pixels, a.bad);
                QVERIFY(a.pixels > 600 && a.off < 0.01 && a.bad < a.pixels / 100);
            }
    }

    /// The same of probes that were placed by hand; ambient light comes in where they do not shine, all paths agree.
    void so_they_do_of_probes_placed_by_hand() {
        TwoRooms rooms(0, false);
        const QTemporaryDir folder;
        SceneAsset a = *rooms.scene.asset;
        add_hidden(a, "light probe 1", {1, 1.5f, 1});
        add_hidden(a, "light probe 2", {3.2f, 0.8f, 2.9f});
        rooms.scene.asset = std::make_shared<const SceneAsset>(std::move(a));
        rooms.scene.bakes = folder.path().toStdString();
        rooms.scene.lights = {lamp({2, 2.5f, 2}, 200)};
        ProbeGridOptions o{1, 128, -1};
        o.at = "light probe*";
        bake_whole(ProbeGridBake::begin(rooms.scene, Parted::setup(), o));
        Parted& p = parted();
        p.look(false);
        const auto with = [](Setup setup) {
            if (!setup.set_text("grid.at", "light probe*")) qFatal("grid.at");
            return setup;
        };
        for (const char* sees : {"on", "off"}) {
            const Against r = reference_against(rooms.scene, with(Parted::setup("2", sees)), p.view);
            qInfo("seeing %s: %.3f %% off over %d pixels, %d over 5 %%", sees, 100 * r.off, r.pixels, r.bad);
            QVERIFY(r.pixels > 600 && r.off < 0.01 && r.bad < r.pixels / 100);
        }
        const FloatImage forward = hdr(rooms.scene, with(Parted::setup()), p.view);
        for (const char* path : paths) {
            const double e = largest_relative_difference(
                forward, hdr(rooms.scene, with(Parted::setup("2", "on", path)), p.view), 0.05);
            QVERIFY2(e < 0.02, qPrintable(QString("%1: %2").arg(path).arg(e)));
        }
        // One that was moved: the device has the new places.
        ObjectEdit moved{"light probe 2", "light probe 2"};
        moved.translation = {-1, 0.4f, -1};
        moved.hidden = true;
        rooms.scene.placed = place_objects(*rooms.scene.asset, std::vector<ObjectEdit>{moved});
        QVERIFY(!shown_grid(rooms.scene, with(Parted::setup())));
        bake_whole(ProbeGridBake::begin(rooms.scene, Parted::setup(), o));
        const Against again = reference_against(rooms.scene, with(Parted::setup()), p.view);
        QVERIFY(again.pixels > 600 && again.off < 0.01);
    }

    /// The dark room's side of the wall: at most a tenth of the light leaks where probes see.
    void a_dark_room_stays_dark() {
        Parted& p = parted();
        p.look(true);
        const double with = mean_of(hdr(p.rooms.scene, Parted::setup("2", "on"), p.view, "ambient")),
                     without = mean_of(hdr(p.rooms.scene, Parted::setup("2", "off"), p.view, "ambient"));
        qInfo("leaks into the dark room: %.4f without seeing, %.6f with, cd/m2 on the mean", without, with);
        QVERIFY(without > 0.01 && with < without / 10);
        QVERIFY(mean_of(hdr(p.rooms.scene, Parted::setup("2", "on"), p.view, "probeLeak")) > 0.01);
    }

    void all_paths_agree_and_reads_are_counted() {
        Parted& p = parted();
        p.look(false);
        const FloatImage forward = hdr(p.rooms.scene, Parted::setup(), p.view);
        for (const char* path : paths) {
            const double e =
                largest_relative_difference(forward, hdr(p.rooms.scene, Parted::setup("2", "on", path), p.view), 0.05);
            QVERIFY2(e < 0.02, qPrintable(QString("%1: %2").arg(path).arg(e)));
        }
        QVERIFY(layers_miss_the_picture(p.rooms.scene, Parted::setup(), p.view) < 0.01);
        RenderOptions o;
        o.picture = false;
        o.count = true;
        const FrameRecord r = answer_to(p.rooms.scene, Parted::setup(), p.view, o);
        std::uint64_t reads = 0, fragments = 0;
        for (const PassRecord& pass : r.passes) {
            reads += pass.work.at("gridReads");
            if (pass.work.at("gridReads") > 0) fragments += pass.work.at("fragments");
        }
        QVERIFY(fragments > 1000 && reads <= 8 * fragments && reads > 3 * fragments);
    }

    /// Without a grid: ambient light, and a word; where it is stale the same.
    void what_is_missing_is_told() {
        TwoRooms bare;
        const QTemporaryDir folder;
        bare.scene.bakes = folder.path().toStdString();
        const Setup setup = setup_with({{"indirect.kind", "probes"}});
        const FramePlan plan = plan_frame(bare.scene, setup, parted().view);
        QVERIFY(std::any_of(plan.notes.begin(), plan.notes.end(),
                            [](const std::string& n) { return n.find("No probes in space") != std::string::npos; }));
        QVERIFY(hdr(bare.scene, setup, parted().view).data == hdr(bare.scene, setup_with({}), parted().view).data);
    }
};

MIROLUX_TEST(space_probes_test)
#include "space_probes_test.moc"
