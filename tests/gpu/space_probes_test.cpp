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
        auto bake = ProbeGridBake::begin(rooms.scene, setup(), {1, 128, -1});
        if (!bake) qFatal("%s", to_text(bake.error()).c_str());
        while (!(*bake)->work(1000))
            ;
        if (!(*bake)->keep()) qFatal("not kept");
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
        const RayScene rays(p.rooms.scene);
        for (const char* order : {"1", "2"})
            for (const char* sees : {"on", "off"}) {
                const Setup setup = Parted::setup(order, sees);
                const auto grid = shown_grid(p.rooms.scene, setup);
                QVERIFY(grid);
                const FloatImage light = hdr(p.rooms.scene, setup, p.view, "spaceLight"),
                                 normals = hdr(p.rooms.scene, setup, p.view, "normal");
                const Camera& c = p.view.camera;
                const glm::dvec3 way = glm::normalize(glm::dvec3(c.aim) - glm::dvec3(c.eye)),
                                 right = glm::normalize(glm::cross(way, glm::dvec3(0, 1, 0))),
                                 up = glm::cross(right, way);
                const double high = std::tan(0.5 * double(c.fovY)), wide = high * p.view.width / p.view.height;
                double off = 0, all = 0;
                int bad = 0, pixels = 0;
                for (int y = 1; y < light.height; y += 3)
                    for (int x = 1; x < light.width; x += 3) {
                        const glm::vec3 to(glm::normalize(way + right * (wide * (2 * (x + 0.5) / p.view.width - 1)) +
                                                          up * (high * (1 - 2 * (y + 0.5) / p.view.height))));
                        const Ray ray{c.eye, to};
                        const RayHit hit = rays.any_surface(ray, 0, true);
                        if (hit.object < 0) continue;
                        const SurfacePoint s = surface_point(rays, ray, hit, false);
                        const float *n = normals.pixel(x, y), *l = light.pixel(x, y);
                        if (glm::dot(glm::vec3(n[0], n[1], n[2]), s.normal) < 0.99f) continue; // an edge
                        const double wanted = luminance(
                            probe_answer(*grid, probe_reading(setup), glm::dvec3(s.position), glm::dvec3(s.normal))
                                .light);
                        const double is = luminance(glm::dvec3(l[0], l[1], l[2]));
                        off += std::abs(is - wanted);
                        all += wanted;
                        bad += std::abs(is - wanted) > 0.05 * wanted + 0.005;
                        ++pixels;
                    }
                qInfo("order %s, seeing %s: %.3f %% off over %d pixels, %d over 5 %%", order, sees, 100 * off / all,
                      pixels, bad);
                QVERIFY(pixels > 600 && off / all < 0.01 && bad < pixels / 100);
            }
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
