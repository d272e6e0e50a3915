#include "core/air/beams.h"
#include "core/plan/camera_motion.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

Setup mesh(std::vector<std::pair<std::string, std::string>> more = {}) {
    std::vector<std::pair<std::string, std::string>> values = {{"beams.kind", "mesh"},
                                                               {"path.targetFormat", "rgba32f"},
                                                               {"gbuffer.packing", "full"},
                                                               {"ambient.kind", "none"}};
    values.insert(values.end(), more.begin(), more.end());
    return setup_with(values);
}

Light spot_at(const glm::vec3& position, const glm::vec3& direction, float degrees, float range) {
    Light l;
    l.id = 1;
    l.name = "spot";
    l.type = LightType::spot;
    l.position = position;
    l.direction = glm::normalize(direction);
    l.outerConeAngle = glm::radians(degrees);
    l.innerConeAngle = 0.5f * l.outerConeAngle;
    l.range = range;
    l.intensity = 200;
    return l;
}

/// Nothing but these lights, in the dark; or before a wall.
Scene dark(const std::vector<Light>& lights, bool wall = false) {
    SceneAsset a;
    a.materials.push_back(plain_material(glm::vec3(0), 0, 1));
    a.materials.back().unlit = true;
    if (wall) add_quad(a, 0, {-40, -40, -9}, {80, 0, 0}, {0, 80, 0});
    Scene s;
    s.asset = finished(std::move(a));
    s.lights = lights;
    return s;
}

glm::dvec3 way_through(const View& view, int x, int y) {
    return glm::normalize(glm::dvec3(ray_through(view, float(x) + 0.5f, float(y) + 0.5f).direction));
}

/// What core says that all beams add at a pixel.
glm::dvec3 wanted_at(const FrameInputs& in, int x, int y, double metres) {
    glm::dvec3 sum(0.0);
    for (const Beam& b : beams_of(in)) {
        const BeamShare s = beam_share(b, beam_look(in.setup), glm::dvec3(in.view.camera.eye),
                                       way_through(in.view, x, y), metres, in.view.seconds);
        sum = sum * s.through + s.added;
    }
    return sum;
}

} // namespace

class beams_test : public QObject {
    Q_OBJECT
private slots:
    /// The cone's edge lies where the light's does, within a pixel, at 20 angles and ranges seen from 20 places.
    void the_silhouette_is_the_lights_cone() {
        std::mt19937 r(11);
        const Setup s = mesh({{"beams.along", "0"},
                              {"beams.across", "0"},
                              {"beams.soft", "0"},
                              {"beams.near", "0"},
                              {"beams.widest", "80"}});
        int covered = 0;
        for (int i = 0; i < 20; ++i) {
            const float degrees = 4.0f + 3.6f * float(i), range = random_in(r, 1.5f, 9);
            const Scene scene =
                dark({spot_at({random_in(r, -2, 2), random_in(r, -1, 2), -12},
                              {random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -0.6f, 0.6f)}, degrees, range)});
            const View view = view_from({random_in(r, -3, 3), random_in(r, -2, 2), 0}, {0, 0, -12}, 160, 120);
            const DrawList list = build_draw_list(scene, s, view);
            const FrameInputs in{scene, s, view, list};
            const FloatImage got = hdr(scene, s, view);
            std::vector<char> core(160 * 120);
            for (int y = 0; y < 120; ++y)
                for (int x = 0; x < 160; ++x)
                    core[std::size_t(y * 160 + x)] = wanted_at(in, x, y, std::numeric_limits<double>::infinity()).x > 0;
            for (int y = 1; y < 119; ++y)
                for (int x = 1; x < 159; ++x) {
                    const bool have = got.pixel(x, y)[0] > 0, want = core[std::size_t(y * 160 + x)];
                    covered += have;
                    if (have == want) continue;
                    bool edge = false;
                    for (int dy = -1; dy <= 1; ++dy)
                        for (int dx = -1; dx <= 1; ++dx)
                            edge = edge || (core[std::size_t((y + dy) * 160 + x + dx)] != 0) == have;
                    QVERIFY2(edge,
                             qPrintable(QString("%1 degrees, %2 m: %3, %4").arg(degrees).arg(range).arg(x).arg(y)));
                }
        }
        QVERIFY(covered > 10000);
    }

    /// Radiance against core, in the open and before a wall that cuts them: cones and halos, with and without texture.
    void beams_show_what_core_says() {
        Light point = spot_at({2.5f, 0.5f, -9.5f}, {0, -1, 0}, 30, 8);
        point.id = 2;
        point.type = LightType::point;
        for (const bool wall : {false, true})
            for (const char* texture : {"0", "0.8"})
                for (const char* blend : {"additive", "blended"}) {
                    const Scene scene = dark({spot_at({-1, 3, -8.5f}, {0.3f, -1, -0.05f}, 22, 7), point}, wall);
                    View view = view_from({0, 1, 0}, {0, 1, -9}, 128, 96);
                    view.seconds = 2;
                    const Setup s = mesh({{"beams.texture", texture},
                                          {"beams.blend", blend},
                                          {"beams.strength", "0.1"},
                                          {"beams.halo", "2"},
                                          {"beams.along", "1.5"},
                                          {"beams.across", "2"}});
                    const DrawList list = build_draw_list(scene, s, view);
                    const FrameInputs in{scene, s, view, list};
                    QCOMPARE(beams_of(in).size(), std::size_t(2));
                    const FloatImage got = hdr(scene, s, view);
                    double off = 0, whole = 0;
                    for (int y = 0; y < 96; ++y)
                        for (int x = 0; x < 128; ++x) {
                            const glm::dvec3 d = way_through(view, x, y);
                            const double metres = wall ? 9 / -d.z : std::numeric_limits<double>::infinity();
                            const double wanted = wanted_at(in, x, y, metres).x;
                            off += std::abs(got.pixel(x, y)[0] - wanted);
                            whole += wanted;
                        }
                    QVERIFY2(whole > 1 && off < 0.02 * whole, qPrintable(QString("wall %1 texture %2 %3: %4 %")
                                                                             .arg(wall)
                                                                             .arg(texture)
                                                                             .arg(blend)
                                                                             .arg(100 * off / whole)));
                }
    }

    /// Fog dims a beam as it dims a surface there: blended ones by as much as they add, never what they take.
    void fog_stands_before_beams() {
        const Scene scene = dark({spot_at({-1, 3, -8.5f}, {0.3f, -1, -0.05f}, 22, 7)});
        const View view = view_from({0, 1, 0}, {0, 1, -9}, 96, 72);
        for (const char* blend : {"additive", "blended"}) {
            const Setup s = mesh({{"beams.blend", blend},
                                  {"beams.strength", "0.1"},
                                  {"air.kind", "uniform"},
                                  {"air.extinction", "0.15"},
                                  {"air.albedo", "0,0,0"}}); // only takes
            const DrawList list = build_draw_list(scene, s, view);
            const FrameInputs in{scene, s, view, list};
            const Beam beam = beams_of(in).front();
            const FloatImage got = hdr(scene, s, view);
            double off = 0, whole = 0, clear = 0;
            for (int y = 0; y < 72; ++y)
                for (int x = 0; x < 96; ++x) {
                    const glm::dvec3 d = way_through(view, x, y), eye(view.camera.eye);
                    const auto through = [&](const glm::dvec3& point) {
                        return glm::dvec3(std::exp(-0.15 * glm::length(point - eye)));
                    };
                    const double far = std::numeric_limits<double>::infinity();
                    const double wanted = beam_share(beam, beam_look(s), eye, d, far, 0, through).added.x;
                    off += std::abs(got.pixel(x, y)[0] - wanted);
                    whole += wanted;
                    clear += beam_share(beam, beam_look(s), eye, d, far, 0).added.x;
                }
            QVERIFY2(whole > 0.1 && whole < 0.5 * clear && off < 0.02 * whole,
                     qPrintable(QString("%1: %2 %, %3 of %4").arg(blend).arg(100 * off / whole).arg(whole).arg(clear)));
        }
    }

    void the_account_holds_with_beams() {
        Scene scene = random_scene(6, 12);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 96, 54);
        for (const char* path : {"deferred", "tiled-forward"}) {
            const Setup s = mesh({{"path.kind", path}, {"beams.strength", "0.3"}, {"air.kind", "uniform"}});
            int crossed = 0;
            for (const glm::ivec2 pixel : {glm::ivec2(48, 30), {20, 44}, {50, 12}, {60, 25}}) {
                const PixelAccount a = account_at(scene, s, view, pixel);
                QVERIFY2(a.difference < 0.02,
                         qPrintable(QString("%1 %2, %3: %4").arg(path).arg(pixel.x).arg(pixel.y).arg(a.difference)));
                crossed += static_cast<int>(a.beams.size());
            }
            QVERIFY(crossed > 0);
        }
    }

    /// A light's own beam, none at all, and more than may be.
    void lights_have_beams_of_their_own() {
        Light a = spot_at({0, 3, -9}, {0, -1, 0}, 25, 5), b = a;
        b.id = 2;
        b.position.x = 2;
        b.intensity = 20;
        Scene scene = dark({a, b});
        const View view = view_from({0, 1, 0}, {0, 1, -9}, 64, 48);
        const auto beams = [&](const Setup& s) {
            const DrawList list = build_draw_list(scene, s, view);
            return beams_of(FrameInputs{scene, s, view, list});
        };
        QCOMPARE(beams(mesh()).size(), std::size_t(2));
        QCOMPARE(beams(mesh({{"beams.most", "1"}})).size(), std::size_t(1));
        QCOMPARE(beams(mesh({{"beams.most", "1"}})).front().intensity.x, 200.0f);
        scene.lights[0].beam.on = false;
        scene.lights[1].beam.length = 1.5f;
        QCOMPARE(beams(mesh()).size(), std::size_t(1));
        QCOMPARE(beams(mesh()).front().length, 1.5f);
        scene.lights[1].outerConeAngle = 1.5707f; // as wide as a light can be: a halo
        QVERIFY(beams(mesh()).front().halo);
        const FloatImage got = hdr(scene, mesh(), view);
        for (const float v : got.data)
            QVERIFY(std::isfinite(v));
    }

    void without_beams_the_bits_are_as_they_were() {
        const Scene scene = random_scene(6, 10);
        const View view = view_from({9, 5, 13}, {0, 1, 0}, 80, 45);
        const FloatImage off = hdr(scene, Setup(), view);
        const FloatImage none = hdr(scene, setup_with({{"beams.kind", "mesh"}, {"beams.strength", "0"}}), view);
        QVERIFY(off.data == none.data);
    }
};

MIROLUX_TEST(beams_test)
#include "beams_test.moc"
