#include "core/bake/baked_shading.h"
#include "core/bake/map_finish.h"
#include "core/rays/surface_point.h"
#include "core/truth/truth_picture.h"
#include "session_fixture.h"
#include "support/baked.h"
#include <epoxy/gl.h>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_baked_picture {

/// Two rooms that shine a little, still lamps of two colours, baked once for all tests.
struct Baked {
    QTemporaryDir folder;
    TwoRooms rooms;
    View view;
    LightMapOptions options{8, 32, 1};
    static Setup plain() {
        return setup_with({{"ambient.kind", "none"}, {"shading.model", "ggx"}, {"shadow.maps", "off"}});
    }
    Baked() {
        auto asset = std::make_shared<SceneAsset>(*rooms.scene.asset);
        asset->materials[0].roughness = 0.35f;
        rooms.scene.asset = asset;
        Light warm = lamp({2, 2.6f, 2}, 220), cold = lamp({6, 2.4f, 1.2f}, 160), party = lamp({3, 2.2f, 0.8f}, 120);
        warm.color = {1, 0.7f, 0.4f};
        cold.id = 2;
        cold.color = {0.5f, 0.7f, 1};
        party.id = 3;
        party.mobility = Mobility::switched;
        party.color = {1, 0.2f, 0.6f};
        rooms.scene.lights = {warm, cold, party};
        rooms.scene.bakes = folder.path().toStdString();
        view.width = 160;
        view.height = 90;
        view.camera.eye = {0.6f, 1.7f, 3.4f};
        view.camera.aim = {3.5f, 0.9f, 1.2f};
        bake_map(rooms.scene, mapped_setup(options, plain()), options);
    }
    Setup setup(const char* kind, const char* store = "half", const char* path = "forward") const {
        Setup s = mapped_setup(options, plain(), kind);
        for (const auto& [key, value] : {std::pair("lightmap.store", store), {"path.kind", path}})
            if (auto ok = s.set_text(key, value); !ok) qFatal("%s", to_text(ok.error()).c_str());
        return s;
    }
};
Baked& baked() {
    static Baked b;
    return b;
}

/// Radiance of a pixel as the map has it, by rays and formulas in double; alpha 0: a place where texels of a border
/// make the lookup uncertain, or nothing.
std::optional<glm::dvec3> by_hand(const Scene& lit, const RayScene& rays, const View& view, int x, int y) {
    const Camera& c = view.camera;
    const glm::dvec3 way = glm::normalize(glm::dvec3(c.aim) - glm::dvec3(c.eye)),
                     right = glm::normalize(glm::cross(way, glm::dvec3(0, 1, 0))), up = glm::cross(right, way);
    const double high = std::tan(0.5 * double(c.fovY)), wide = high * view.width / view.height;
    const glm::vec3 to(glm::normalize(way + right * (wide * (2 * (x + 0.5) / view.width - 1)) +
                                      up * (high * (1 - 2 * (y + 0.5) / view.height))));
    const Ray ray{c.eye, to};
    const RayHit hit = rays.any_surface(ray, 0, true);
    if (hit.object < 0) return std::nullopt;
    const Object& o = lit.objects()[std::size_t(hit.object)];
    const Primitive& p = lit.asset->primitives[std::size_t(o.primitive)];
    const glm::dvec3 weights(1 - double(hit.u) - double(hit.v), hit.u, hit.v);
    glm::dvec2 place(o.map & 0x7FFF, o.map >> 15 & 0x7FFF);
    for (std::uint32_t k = 0; k < 3; ++k)
        place += weights[int(k)] * glm::dvec2(p.places[p.indices[3 * hit.triangle + k]]);
    const SurfacePoint s = surface_point(rays, ray, hit, false);
    const BakedSample sample = baked_sample(*lit.baked, layer_factors(lit, 0), place);
    const brdf::Surface surface{glm::dvec3(s.baseColor), s.metallic, s.roughness, {}};
    const BakedLeaves out = baked_leaves(sample, lit.baked->kind, brdf::Model::ggx, surface, 1, true,
                                         glm::dvec3(s.normal), glm::dvec3(s.normal), -glm::dvec3(to));
    return out.diffuse + out.specular + out.mirrored;
}

/// Mean of |a - b| over the mean of b, by luminance.
double mean_difference(const FloatImage& a, const FloatImage& b) {
    double sum = 0, all = 0;
    for (std::size_t i = 0; i < a.data.size(); i += 4) {
        const auto l = [](const float* p) { return luminance(glm::dvec3(p[0], p[1], p[2])); };
        sum += std::abs(l(&a.data[i]) - l(&b.data[i]));
        all += l(&b.data[i]);
    }
    return sum / all;
}

std::uint64_t counted(const FrameRecord& r, const char* counter) {
    std::uint64_t sum = 0;
    for (const PassRecord& p : r.passes)
        sum += p.work.at(counter);
    return sum;
}
FrameRecord counts(const Scene& scene, const Setup& setup, const View& view) {
    RenderOptions o;
    o.picture = false;
    o.count = true;
    return answer_to(scene, setup, view, o);
}

} // namespace mirolux::test_baked_picture
using namespace mirolux::test_baked_picture;

/// Light from maps, on the device.
class baked_picture_test : public QObject {
    Q_OBJECT
private slots:
    /// Every store and every kind against rays and formulas in double, pixel by pixel.
    void surfaces_send_on_what_the_map_holds() {
        for (const char* kind : {"plain", "dominant", "harmonics"})
            for (const char* store : {"half", "rgbm", "exponent", "bc6h"}) {
                const Setup setup = baked().setup(kind, store);
                const Scene lit = with_baked_light(baked().rooms.scene, setup);
                QVERIFY(lit.baked);
                const RayScene rays(lit);
                const FloatImage picture = hdr(baked().rooms.scene, setup, baked().view);
                double sum = 0, all = 0, worst = 0;
                int off = 0, pixels = 0;
                for (int y = 0; y < picture.height; y += 3)
                    for (int x = 0; x < picture.width; x += 3) {
                        const auto wanted = by_hand(lit, rays, baked().view, x, y);
                        if (!wanted) continue;
                        const float* p = picture.pixel(x, y);
                        const double e = glm::distance(glm::dvec3(p[0], p[1], p[2]), *wanted),
                                     l = std::max(glm::length(*wanted), 0.05);
                        sum += e;
                        all += l;
                        worst = std::max(worst, e / l);
                        off += e / l > 0.03; // at edges a ray and a pixel may meet different things
                        ++pixels;
                    }
                qInfo("%s, %s: mean difference %.3f %%, worst %.1f %%, %d of %d pixels over 3 %%", kind, store,
                      100 * sum / all, 100 * worst, off, pixels);
                QVERIFY(pixels > 1200);
                QVERIFY(sum / all < 0.006);
                QVERIFY(off < pixels / 50);
            }
    }

    /// Our BC6H blocks are what the device reads them as.
    void blocks_are_read_as_we_read_them() {
        std::mt19937 random(11);
        std::uniform_real_distribution<float> exponent(-8, 14), share(0, 1);
        FloatImage light{32, 16, 3, {}};
        for (int i = 0; i < 32 * 16; ++i) {
            const float most = std::exp2(exponent(random));
            for (int c = 0; c < 3; ++c)
                light.data.push_back(most * share(random));
        }
        const StoredTexels s = stored(light, TexelStore::bc6h);
        const FloatImage ours = restored(s);
        GLuint texture = 0;
        (void)session().device(); // its context is current
        glCreateTextures(GL_TEXTURE_2D, 1, &texture);
        glTextureStorage2D(texture, 1, GL_COMPRESSED_RGB_BPTC_UNSIGNED_FLOAT, 32, 16);
        glCompressedTextureSubImage2D(texture, 0, 0, 0, 32, 16, GL_COMPRESSED_RGB_BPTC_UNSIGNED_FLOAT,
                                      GLsizei(s.bytes.size()), s.bytes.data());
        std::vector<float> theirs(32 * 16 * 3);
        glGetTextureImage(texture, 0, GL_RGB, GL_FLOAT, GLsizei(theirs.size() * 4), theirs.data());
        glDeleteTextures(1, &texture);
        QCOMPARE(glGetError(), GLenum(GL_NO_ERROR));
        for (std::size_t i = 0; i < theirs.size(); ++i)
            QVERIFY2(theirs[i] == ours.data[i],
                     qPrintable(QString("%1: %2, %3").arg(i).arg(double(theirs[i])).arg(double(ours.data[i]))));
    }

    /// Live light with its bounce, from the reference, against the map: the picture and its highlights.
    void the_picture_is_that_of_live_light_and_its_bounce() {
        Baked& b = baked();
        Setup live = Baked::plain();
        truth::Options o;
        o.bounces = 1;
        truth::Picture picture(b.view.width, b.view.height);
        truth::refine(truth::PathTracer(b.rooms.scene, live, b.view, o, std::make_shared<RayScene>(b.rooms.scene)),
                      picture, {256}, [](double) { return true; });
        const FloatImage truth = picture.image();
        for (const auto& [kind, most] : {std::pair("plain", 0.30), {"dominant", 0.08}, {"harmonics", 0.08}}) {
            const double e = mean_difference(hdr(b.rooms.scene, b.setup(kind), b.view), truth);
            qInfo("%s against the reference: %.2f %%", kind, 100 * e);
            QVERIFY2(e < most, qPrintable(QString::number(e)));
        }
    }

    /// All paths, with a thing that moves, a lamp that is mixed and one that moves.
    void all_paths_agree() {
        Baked& b = baked();
        const QTemporaryDir folder;
        Scene scene = b.rooms.scene;
        ObjectEdit stool = edit_of({}, *scene.asset, b.rooms.inFirst);
        stool.standing = Standing::moving;
        scene.placed = place_objects(*scene.asset, EditList{stool});
        scene.bakes = folder.path().toStdString();
        Light half = lamp({1, 1.5f, 1}, 40), going = lamp({3, 1, 3}, 30);
        half.id = 7;
        half.mobility = Mobility::mixed;
        going.id = 8;
        going.mobility = Mobility::moving;
        scene.lights.push_back(half);
        scene.lights.push_back(going);
        const LightMapOptions few{3, 4, 1};
        const Setup base =
            mapped_setup(few, setup_with({{"ambient.kind", "gradient"}, {"shadow.maps", "on"}}), "dominant");
        bake_map(scene, base, few);
        const FloatImage forward = hdr(scene, base, b.view);
        const Scene lit = with_baked_light(scene, base);
        QVERIFY(lit.baked && lit.objects()[std::size_t(b.rooms.inFirst)].map == 0);
        for (const char* path : paths) {
            Setup s = base;
            QVERIFY(s.set_text("path.kind", path).has_value());
            const double e = largest_relative_difference(forward, hdr(scene, s, b.view), 0.05);
            QVERIFY2(e < 0.02, qPrintable(QString("%1: %2").arg(path).arg(e))); // the G-buffer rounds
            QVERIFY2(layers_miss_the_picture(scene, s, b.view) < 0.02, path);
        }
        // Where something on the screen takes part in ambient light, the G-buffer's comes in a pass of its own.
        Setup a = base, d = base;
        for (Setup* s : {&a, &d})
            QVERIFY(s->set_text("occlusion.kind", "horizon").has_value() ||
                    s->set_text("occlusion.kind", "hemisphere").has_value());
        QVERIFY(d.set_text("path.kind", "deferred").has_value());
        QVERIFY(mean_difference(hdr(scene, d, b.view), hdr(scene, a, b.view)) < 0.01);
        // The account of a pixel adds up, on what is mapped and on what moves.
        for (const glm::ivec2 pixel : {glm::ivec2(80, 45), glm::ivec2(30, 70), glm::ivec2(120, 20)}) {
            const PixelAccount account = account_at(scene, base, b.view, pixel);
            QVERIFY2(account.difference < 0.01, qPrintable(QString::number(account.difference)));
            if (!account.surfaces.empty() && account.surfaces[0].sample.mapped)
                for (const LightTerm& t : account.surfaces[0].lights)
                    QVERIFY(t.light != 1 && t.light != 2 && t.light != 3);
        }
    }

    /// Nothing live is left: no light is taken up, no shadow map is drawn; a thing that moves brings its lamp back.
    void baked_lights_cost_nothing_where_all_stands_still() {
        Baked& b = baked();
        Setup live = Baked::plain(), map = b.setup("dominant");
        for (Setup* s : {&live, &map})
            QVERIFY(s->set_text("shadow.maps", "on").has_value());
        const FrameRecord before = counts(b.rooms.scene, live, b.view), after = counts(b.rooms.scene, map, b.view);
        QVERIFY(counted(before, "lightEvaluations") > 1000);
        QCOMPARE(counted(after, "lightEvaluations"), std::uint64_t(0));
        QVERIFY(counted(after, "mapReads") > 1000);
        for (const PassRecord& p : after.passes)
            QVERIFY2(p.name.find("shadow") == std::string::npos || p.work.at("draws") == 0, p.name.c_str());
        QCOMPARE(counted(before, "mapReads"), std::uint64_t(0));
        // rgbm is read four times, harmonics take three directions.
        Setup rgbm = map, harmonics = map, plain = map;
        QVERIFY(rgbm.set_text("lightmap.store", "rgbm").has_value() &&
                rgbm.set_text("lightmap.kind", "plain").has_value());
        QVERIFY(harmonics.set_text("lightmap.kind", "harmonics").has_value());
        QVERIFY(plain.set_text("lightmap.kind", "plain").has_value());
        const std::uint64_t one = counted(counts(b.rooms.scene, plain, b.view), "mapReads");
        QCOMPARE(counted(counts(b.rooms.scene, rgbm, b.view), "mapReads"), 4 * one);
        QCOMPARE(counted(counts(b.rooms.scene, harmonics, b.view), "mapReads"), 4 * one);
        QCOMPARE(counted(after, "mapReads"), 2 * one);
    }

    /// A switched lamp is dimmed, coloured and put out without another bake, and then costs no lookup.
    void a_switched_lamp_needs_no_other_bake() {
        Baked& b = baked();
        const Setup setup = b.setup("plain");
        const auto with = [&](float intensity, glm::vec3 color, bool on) {
            Scene scene = b.rooms.scene;
            scene.lights[2].intensity = intensity;
            scene.lights[2].color = color;
            scene.lights[2].enabled = on;
            return scene;
        };
        const FloatImage off = hdr(with(120, glm::vec3(1), false), setup, b.view),
                         white = hdr(with(120, glm::vec3(1), true), setup, b.view),
                         red = hdr(with(60, {1, 0, 0}, true), setup, b.view);
        double worst = 0, gave = 0;
        for (std::size_t i = 0; i < off.data.size(); i += 4) {
            const double lamp = double(white.data[i] - off.data[i]);
            gave += lamp;
            worst =
                std::max({worst, std::abs(double(red.data[i] - off.data[i]) - lamp / 2) / (1 + double(white.data[i])),
                          std::abs(double(red.data[i + 1] - off.data[i + 1]))});
        }
        QVERIFY(gave > 100);
        QVERIFY2(worst < 1e-3, qPrintable(QString::number(worst)));
        const std::uint64_t lit = counted(counts(with(120, glm::vec3(1), true), setup, b.view), "mapReads"),
                            dark = counted(counts(with(120, glm::vec3(1), false), setup, b.view), "mapReads");
        QCOMPARE(lit, 2 * dark);
    }

    /// Both eyes, several samples a pixel, and a history all have their map.
    void other_frames_have_it_too() {
        Baked& b = baked();
        Setup s = b.setup("dominant");
        View both = b.view;
        both.stereo = Stereo::onePass;
        View apart = b.view;
        apart.stereo = Stereo::twoPasses;
        QVERIFY(largest_relative_difference(hdr(b.rooms.scene, s, both), hdr(b.rooms.scene, s, apart), 0.05) < 0.01);
        Setup settled = s;
        QVERIFY(settled.set_text("edges.kind", "temporal").has_value());
        QVERIFY(mean_difference(hdr(b.rooms.scene, settled, b.view), hdr(b.rooms.scene, s, b.view)) < 0.05);
    }
};

MIROLUX_TEST(baked_picture_test)
#include "baked_picture_test.moc"
