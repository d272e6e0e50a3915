#include "core/bake/baked_light.h"
#include "core/rays/surface_point.h"
#include "session_fixture.h"
#include "support/baked.h"

using namespace mirolux;
using namespace mirolux::test;

namespace mirolux::test_baked_shadow {

constexpr const char* eight_paths[] = {"forward",        "additive",      "deferred",           "volumes",
                                       "tiled-deferred", "tiled-forward", "clustered-deferred", "clustered-forward"};

Setup with(std::initializer_list<std::pair<const char*, const char*>> more) {
    Setup s = setup_with({{"ambient.kind", "none"}, {"shading.model", "lambert"}, {"shadow.maps", "off"}});
    for (const auto& [key, value] : more)
        if (auto ok = s.set_text(key, value); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return s;
}

void finish(Bake& bake) {
    while (!bake.work(1000))
        ;
    if (auto ok = bake.keep(); !ok) qFatal("%s", to_text(ok.error()).c_str());
}

/// Two rooms with lamps, masks and both kinds of occlusion, baked once.
struct LitRooms {
    QTemporaryDir folder;
    TwoRooms rooms;
    View view;
    LitRooms() {
        Light warm = lamp({2, 2.6f, 2}, 220), cold = lamp({6, 2.4f, 1.2f}, 160);
        warm.color = {1, 0.7f, 0.4f};
        cold.id = 2;
        cold.color = {0.5f, 0.7f, 1};
        rooms.scene.lights = {warm, cold};
        rooms.scene.bakes = folder.path().toStdString();
        view.width = 160;
        view.height = 90;
        view.camera.eye = {0.6f, 1.7f, 3.4f};
        view.camera.aim = {3.5f, 0.9f, 1.2f};
        finish(**MaskBake::begin(rooms.scene, masked(), mask_options(masked())));
        for (const char* kind : {"texture", "vertices"})
            finish(**OcclusionBake::begin(rooms.scene, open(kind), occlusion_options(open(kind))));
    }
    static Setup masked(const char* path = "forward") {
        return with({{"shadow.baked", "on"}, {"lightmap.density", "8"}, {"path.kind", path}});
    }
    static Setup open(const char* kind, const char* path = "forward") {
        return with({{"occlusion.baked", kind},
                     {"lightmap.density", "8"},
                     {"occlusion.within", "2"},
                     {"ambient.kind", "constant"},
                     {"path.kind", path}});
    }
};
LitRooms& rooms() {
    static LitRooms r;
    return r;
}

double bright(const float* p) {
    return luminance(glm::dvec3(p[0], p[1], p[2]));
}
double mean_off(const FloatImage& a, const FloatImage& b) {
    double off = 0, all = 0;
    for (std::size_t i = 0; i < a.data.size(); i += 4) {
        off += std::abs(bright(&a.data[i]) - bright(&b.data[i]));
        all += bright(&b.data[i]);
    }
    return off / all;
}

std::uint64_t tally(const FrameRecord& r, const char* counter, const std::string& pass = {}) {
    std::uint64_t sum = 0;
    for (const PassRecord& p : r.passes)
        if (pass.empty() || p.name == pass) sum += p.work.at(counter);
    return sum;
}
FrameRecord work_counts(const Scene& scene, const Setup& setup, const View& view) {
    RenderOptions o;
    o.picture = false;
    o.count = true;
    return answer_to(scene, setup, view, o);
}
bool draws_maps(const FrameRecord& r) {
    return std::any_of(r.passes.begin(), r.passes.end(), [](const PassRecord& p) { return p.name == "lamp shadows"; });
}

/// The place of what a pixel shows in the map's layout; none where nothing with a place is.
struct Seen {
    SurfacePoint point;
    glm::dvec2 place{0.0};
};
std::optional<Seen> seen_at(const Scene& lit, const RayScene& rays, const View& view, int x, int y) {
    const Camera& c = view.camera;
    const glm::dvec3 way = glm::normalize(glm::dvec3(c.aim) - glm::dvec3(c.eye)),
                     right = glm::normalize(glm::cross(way, glm::dvec3(0, 1, 0))), up = glm::cross(right, way);
    const double high = std::tan(0.5 * double(c.fovY)), wide = high * view.width / view.height;
    const Ray ray{c.eye, glm::vec3(glm::normalize(way + right * (wide * (2 * (x + 0.5) / view.width - 1)) +
                                                  up * (high * (1 - 2 * (y + 0.5) / view.height))))};
    const RayHit hit = rays.any_surface(ray, 0, true);
    if (hit.object < 0) return std::nullopt;
    const Object& o = lit.objects()[std::size_t(hit.object)];
    if (o.map == 0) return std::nullopt;
    const Primitive& p = lit.asset->primitives[std::size_t(o.primitive)];
    const glm::dvec3 weights(1 - double(hit.u) - double(hit.v), hit.u, hit.v);
    Seen out{surface_point(rays, ray, hit, false), {o.map & 0x7FFF, o.map >> 15 & 0x7FFF}};
    for (std::uint32_t k = 0; k < 3; ++k)
        out.place += weights[int(k)] * glm::dvec2(p.places[p.indices[3 * hit.triangle + k]]);
    return out;
}
/// Between four texels, in double.
template <class Texel>
double between(const glm::dvec2& place, const Texel& texel) {
    const glm::dvec2 at = place - 0.5, low = glm::floor(at), f = at - low;
    double sum = 0;
    for (int k = 0; k < 4; ++k)
        sum += (k & 1 ? f.x : 1 - f.x) * (k >> 1 ? f.y : 1 - f.y) * texel(int(low.x) + (k & 1), int(low.y) + (k >> 1));
    return sum;
}

} // namespace mirolux::test_baked_shadow
using namespace mirolux::test_baked_shadow;

/// Masks and occlusion that were computed beforehand, on the device.
class baked_shadow_test : public QObject {
    Q_OBJECT
private slots:
    /// Each pixel against lamps by closed form times the mask between four texels, in double.
    void surfaces_take_the_masks_share_of_each_lamp() {
        LitRooms& r = rooms();
        const Scene lit = with_baked_light(r.rooms.scene, r.masked());
        QVERIFY(lit.baked && lit.baked->masks && !lit.baked->lit());
        const BakedMasks& m = *lit.baked->masks;
        const RayScene rays(lit);
        const FloatImage picture = hdr(r.rooms.scene, r.masked(), r.view);
        double off = 0, all = 0;
        int pixels = 0;
        for (int y = 0; y < picture.height; y += 2)
            for (int x = 0; x < picture.width; x += 2) {
                const auto seen = seen_at(lit, rays, r.view, x, y);
                if (!seen) continue;
                glm::dvec3 wanted(0.0);
                for (const Light& l : r.rooms.scene.lights) {
                    const glm::dvec3 to = glm::dvec3(l.position) - glm::dvec3(seen->point.position);
                    const double d = glm::length(to), facing = glm::dot(to, glm::dvec3(seen->point.normal)) / d;
                    const int channel = m.channel_of(l.id);
                    const double share = between(seen->place, [&](int tx, int ty) {
                        return m.sheets[std::size_t(channel / 4)]
                                   .rgba[4 * (std::size_t(ty) * std::size_t(m.width) + std::size_t(tx)) +
                                         std::size_t(channel % 4)] /
                               255.0;
                    });
                    wanted += glm::dvec3(l.color) * double(l.intensity) * std::max(0.0, facing) / (d * d) * share *
                              glm::dvec3(seen->point.baseColor) / M_PI;
                }
                const float* p = picture.pixel(x, y);
                off += glm::distance(glm::dvec3(p[0], p[1], p[2]), wanted);
                all += glm::length(wanted);
                ++pixels;
            }
        qInfo("%d pixels, off by %.3f %%", pixels, 100 * off / all);
        QVERIFY(pixels > 3000);
        QVERIFY(off / all < 0.005);
        // And it is a shadow: without masks the picture is brighter.
        const FloatImage open = hdr(r.rooms.scene, with({}), r.view);
        QVERIFY(mean_off(picture, open) > 0.02);
    }

    /// Paths with a G-buffer have each pixel's place from its target.
    void all_paths_agree() {
        LitRooms& r = rooms();
        const FloatImage first = hdr(r.rooms.scene, r.masked("forward"), r.view),
                         plain = hdr(r.rooms.scene, with({{"path.kind", "forward"}}), r.view);
        for (const char* path : eight_paths) {
            const FloatImage other = hdr(r.rooms.scene, r.masked(path), r.view);
            const double off = mean_off(other, first),
                         anyway = mean_off(hdr(r.rooms.scene, with({{"path.kind", path}}), r.view), plain);
            qInfo("%s: %.3f %% off forward's, without masks %.3f %%", path, 100 * off, 100 * anyway);
            QVERIFY2(off < anyway + 0.002, path); // a G-buffer packs what it holds
        }
        for (const char* kind : {"texture", "vertices"}) {
            const FloatImage forward = hdr(r.rooms.scene, r.open(kind), r.view);
            for (const char* path : eight_paths)
                QVERIFY2(mean_off(hdr(r.rooms.scene, r.open(kind, path), r.view), forward) < 0.008, path);
        }
    }

    /// Shadow maps are drawn for what masks do not tell: only where something without a place is in a lamp's reach.
    void lamps_with_masks_draw_no_maps_until_something_moves() {
        LitRooms& r = rooms();
        Setup both = r.masked();
        QVERIFY(both.set_text("shadow.maps", "on").has_value());
        const FrameRecord still = work_counts(r.rooms.scene, both, r.view);
        QVERIFY(!draws_maps(still));
        QVERIFY(tally(still, "bakedMaskReads") > 1000);
        QCOMPARE(tally(still, "shadowLookups"), std::uint64_t(0));
        // The stool is moved by hand: a thing that moves.
        Scene moves = r.rooms.scene;
        ObjectEdit edit = edit_of({}, *moves.asset, r.rooms.inFirst);
        edit.standing = Standing::moving;
        moves.placed = place_objects(*moves.asset, {edit});
        Setup off = both;
        QVERIFY(off.set_text("shadow.baked", "off").has_value());
        finish(**MaskBake::begin(moves, both, mask_options(both)));
        View near = r.view;
        near.camera.eye = {0.5f, 1.7f, 1};
        near.camera.aim = {1.25f, 0.3f, 3.2f};
        const FrameRecord one = work_counts(moves, both, near), none = work_counts(moves, off, near);
        QVERIFY(draws_maps(one));
        QVERIFY(draws_maps(none));
        QCOMPARE(tally(none, "bakedMaskReads"), std::uint64_t(0));
    }

    /// Ambient light times how open the texture is there, against double.
    void occlusion_dims_ambient_light() {
        LitRooms& r = rooms();
        for (const char* kind : {"texture", "vertices"}) {
            const Setup setup = r.open(kind);
            const Scene lit = with_baked_light(r.rooms.scene, setup);
            QVERIFY(lit.baked && lit.baked->occlusion);
            const BakedOcclusion& o = *lit.baked->occlusion;
            const RayScene rays(lit);
            const FloatImage open = hdr(r.rooms.scene, setup, r.view, "bakedOpen"),
                             ambient = hdr(r.rooms.scene, setup, r.view, "ambient"),
                             whole = hdr(r.rooms.scene, r.open("none"), r.view, "ambient");
            double off = 0, dimmed = 0, least = 1;
            int pixels = 0;
            for (int y = 0; y < open.height; y += 2)
                for (int x = 0; x < open.width; x += 2) {
                    const Scene& scene = o.options.vertices ? r.rooms.scene : lit;
                    double wanted = 0;
                    if (o.options.vertices) {
                        const Camera& c = r.view.camera;
                        const glm::dvec3 way = glm::normalize(glm::dvec3(c.aim) - glm::dvec3(c.eye)),
                                         right = glm::normalize(glm::cross(way, glm::dvec3(0, 1, 0))),
                                         up = glm::cross(right, way);
                        const double high = std::tan(0.5 * double(c.fovY)), wide = high * 160 / 90;
                        const RayHit hit = rays.any_surface(
                            {c.eye, glm::vec3(glm::normalize(way + right * (wide * (2 * (x + 0.5) / 160 - 1)) +
                                                             up * (high * (1 - 2 * (y + 0.5) / 90))))},
                            0, true);
                        if (hit.object < 0) continue;
                        const auto object = std::size_t(hit.object);
                        const Primitive& p = scene.asset->primitives[std::size_t(scene.objects()[object].primitive)];
                        const double weights[] = {1 - double(hit.u) - double(hit.v), double(hit.u), double(hit.v)};
                        for (std::uint32_t k = 0; k < 3; ++k)
                            wanted += weights[k] *
                                      o.open[std::size_t(o.firstOf[object]) + p.indices[3 * hit.triangle + k]] / 255.0;
                    } else {
                        const auto seen = seen_at(lit, rays, r.view, x, y);
                        if (!seen) continue;
                        wanted = between(seen->place, [&](int tx, int ty) {
                            return o.open[std::size_t(ty) * std::size_t(o.width) + std::size_t(tx)] / 255.0;
                        });
                    }
                    off += std::abs(double(open.pixel(x, y)[0]) - wanted);
                    least = std::min(least, wanted);
                    const double all = bright(whole.pixel(x, y));
                    if (all > 0) dimmed += std::abs(bright(ambient.pixel(x, y)) / all - wanted);
                    ++pixels;
                }
            qInfo("%s: %d pixels, off %.3f %%, ambient light off %.3f %%, least %.2f", kind, pixels, 100 * off / pixels,
                  100 * dimmed / pixels, least);
            QVERIFY(pixels > 3000 && least < 0.6);
            QVERIFY(off / pixels < 0.005);
            QVERIFY(dimmed / pixels < 0.01);
        }
    }

    /// Off, both leave the frame as it was, to the bit and without a pass more.
    void without_them_frames_are_as_they_were() {
        LitRooms& r = rooms();
        Scene bare = r.rooms.scene;
        bare.bakes.clear();
        for (const char* path : {"forward", "tiled-deferred"}) {
            const FloatImage a = hdr(bare, with({{"path.kind", path}}), r.view),
                             b = hdr(r.rooms.scene, with({{"path.kind", path}}), r.view);
            QVERIFY(a.data == b.data);
        }
    }
};

MIROLUX_TEST(baked_shadow_test)
#include "baked_shadow_test.moc"
