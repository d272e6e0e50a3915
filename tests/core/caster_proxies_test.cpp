#include "core/io/wire.h"
#include "core/scene/geometry.h"
#include "core/shadow/caster_proxies.h"
#include "core/shadow/shadow_set.h"
#include "core/truth/integrals.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <glm/gtc/matrix_transform.hpp>
#include <set>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// Boxes by size, place and turn about the vertical, each a thing of its own.
Scene boxes(const std::vector<std::array<glm::vec3, 2>>& places, float turn = 0) {
    SceneAsset a;
    a.materials.push_back(plain_material(glm::vec3(0.7f), 0, 1));
    for (const auto& [middle, size] : places) {
        const std::size_t first = a.objects.size();
        add_box(a, 0, -0.5f * size, size); // six sheets: parts of one node
        for (std::size_t i = first; i < a.objects.size(); ++i) {
            Object& o = a.objects[i];
            a.objectNames[i].node = static_cast<int>(first);
            o.transform = glm::translate(glm::rotate(glm::mat4(1.0f), turn, glm::vec3(0, 1, 0)), middle);
            o.bounds = transformed(a.primitives[std::size_t(o.primitive)].bounds, o.transform);
        }
    }
    a.bounds = {};
    for (const Object& o : a.objects)
        a.bounds.add(o.bounds);
    Scene s;
    s.asset = finished(std::move(a));
    return s;
}

std::vector<int> all_of(const Scene& s) {
    std::vector<int> out(s.asset->objects.size());
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = int(i);
    return out;
}

double volume(const ObjectEdit& e) {
    return double(e.scale.x) * e.scale.y * e.scale.z;
}

bool holds(const ObjectEdit& e, const glm::vec3& p, float slack) {
    const glm::vec3 in = glm::inverse(e.rotation) * (p - e.translation);
    return glm::all(glm::lessThanEqual(glm::abs(in), 0.5f * e.scale + slack));
}

} // namespace

/// Boxes that cast in place of objects.
class caster_proxies_test : public QObject {
    Q_OBJECT

private slots:
    void what_fills_a_box_becomes_one() {
        const glm::vec3 size(6, 2.5f, 2.4f);
        for (const float turn : {0.0f, 0.4f}) {
            // Two high and three deep, and one that stands apart.
            std::vector<std::array<glm::vec3, 2>> places;
            for (int i = 0; i < 6; ++i)
                places.push_back({glm::vec3(0, 1.25f + 2.5f * float(i % 2), 2.5f * float(i / 2)), size});
            places.push_back({glm::vec3(20, 1.25f, 0), size});
            const Scene s = boxes(places, turn);
            const auto fitted = fitted_proxies(s, all_of(s), {}, {0.15, 0});
            QCOMPARE(fitted.size(), std::size_t(2));
            std::vector<double> volumes = {volume(fitted[0]), volume(fitted[1])};
            std::sort(volumes.begin(), volumes.end());
            QVERIFY(std::abs(volumes[0] - 36) < 0.01 && std::abs(volumes[1] - 6 * 5 * 7.4) < 0.05);
            const auto inset = fitted_proxies(s, {36, 37, 38, 39, 40, 41}, {}, {0.15, 0.1f});
            QVERIFY(std::abs(volume(inset.at(0)) - 5.8 * 2.3 * 2.2) < 0.01);
        }
    }

    void boxes_hold_what_they_stand_for() {
        for (std::uint32_t seed = 1; seed <= 8; ++seed) {
            std::mt19937 r(seed);
            std::vector<std::array<glm::vec3, 2>> places;
            for (int i = 0; i < 30; ++i)
                places.push_back({glm::vec3(random_in(r, -8, 8), random_in(r, 0, 4), random_in(r, -8, 8)),
                                  glm::vec3(random_in(r, 0.01f, 3), random_in(r, 0.01f, 3), random_in(r, 0.01f, 3))});
            const Scene s = boxes(places, random_in(r, 0, 3));
            const auto fitted = fitted_proxies(s, all_of(s), {}, {0.3, 0});
            QVERIFY(fitted.size() <= 30);
            for (const Object& o : s.asset->objects)
                for (const Vertex& v : s.asset->primitives[std::size_t(o.primitive)].vertices) {
                    const glm::vec3 p(o.transform * glm::vec4(v.position, 1.0f));
                    QVERIFY(std::any_of(fitted.begin(), fitted.end(),
                                        [&](const ObjectEdit& e) { return holds(e, p, 1e-3f); }));
                }
        }
    }

    /// Marked objects cast without proxies, boxes with them; rays never meet boxes; the file and the wire keep all.
    void maps_take_boxes_and_rays_do_not() {
        Scene s = boxes({{glm::vec3(0, 1, 0), glm::vec3(2)}, {glm::vec3(5, 1, 0), glm::vec3(2)}});
        const ObjectEdit own{"proxy 1", "mine", {0, 9, 0}, {1, 0, 0, 0}, {1, 1, 1}, false, Casting::yes, true, true};
        const std::vector<ObjectEdit> edits = with_proxies(s, {0, 1, 2, 3, 4, 5}, {own});
        QCOMPARE(edits.size(), std::size_t(8)); // six sheets that are stood in for, two boxes
        std::set<std::string> ids;
        for (const ObjectEdit& e : edits) {
            QVERIFY(ids.insert(e.id).second);
            QVERIFY(object_edit_from_json(JsonCursor(to_json(e))) == e);
        }
        std::vector<ObjectEdit> sent;
        const Json patch = object_patch({}, edits);
        apply_object_patch(sent, JsonCursor(patch));
        QVERIFY(sent == edits);
        QVERIFY(lost_objects(edits, *s.asset).empty());
        const Scene bare = s;
        s.placed = place_objects(*s.asset, edits);
        QCOMPARE(s.objects().size(), std::size_t(14));
        QCOMPARE(object_name(s, 12).id, std::string("proxy 1"));
        QVERIFY(s.bounds().high.y < 3); // a proxy is not shown
        Light l;
        l.id = 1;
        l.position = {2, 8, 3};
        l.intensity = 5000;
        l.range = 40;
        s.lights = {l};
        const View view = view_from({0, 6, 14}, {0, 1, 0}, 320, 180);
        for (const bool on : {true, false}) {
            Setup setup;
            (void)setup.set("shadow.maps", true);
            (void)setup.set("shadow.proxies", on);
            const DrawList draws = build_draw_list(s, setup, view);
            QCOMPARE(draws.opaque.size(), std::size_t(12));
            std::set<int> casters;
            for (const ShadowMap& m : shadow_set(s, setup, view, draws).maps)
                casters.insert(m.casters.begin(), m.casters.end());
            QCOMPARE(casters.count(0), std::size_t(!on));
            QCOMPARE(casters.count(6), std::size_t(1));
            QCOMPARE(casters.count(12), std::size_t(on));
            QCOMPARE(casters.count(13), std::size_t(on));
        }
        const RayScene with(s), without(bare);
        std::mt19937 r(3);
        for (int i = 0; i < 300; ++i) {
            const Ray ray{{random_in(r, -6, 8), 12, random_in(r, -6, 6)},
                          glm::normalize(glm::vec3(random_in(r, -1, 1), -1, random_in(r, -1, 1)))};
            QCOMPARE(with.nearest_caster(ray, 0).object, without.nearest_caster(ray, 0).object);
            // The nearest box, by steps of a centimetre.
            const auto [object, metres] = nearest_proxy(s, ray);
            int stepped = -1;
            for (float t = 0; t < 16 && stepped < 0; t += 0.01f)
                for (int o = 12; o < 14 && stepped < 0; ++o)
                    if (holds(edit_of(edits, *s.asset, o), ray.origin + t * ray.direction, 0)) stepped = o;
            if (stepped >= 0) QCOMPARE(object, stepped);
            if (object >= 0)
                QVERIFY(holds(edit_of(edits, *s.asset, object), ray.origin + metres * ray.direction, 1e-3f));
        }
    }

    /// A sheet that faces a lamp stops it, one that shows it its back does not, where it casts from its front only; and
    /// nothing shades what receives no shadow.
    void sides_and_receivers_in_truth() {
        for (const bool up : {true, false}) {
            SceneAsset a;
            a.materials.push_back(plain_material(glm::vec3(0.7f), 0, 1));
            add_quad(a, 0, {-8, 0, 8}, {16, 0, 0}, {0, 0, -16});
            if (up)
                add_quad(a, 0, {-1, 1, 1}, {2, 0, 0}, {0, 0, -2});
            else
                add_quad(a, 0, {-1, 1, -1}, {2, 0, 0}, {0, 0, 2});
            Scene s;
            s.asset = finished(std::move(a));
            const std::string sheet = s.asset->objectNames[1].id, ground = s.asset->objectNames[0].id;
            Light l;
            l.position = {0, 4, 0};
            const auto open = [&](Casting casts, bool receives) {
                std::vector<ObjectEdit> edits;
                ObjectEdit e{sheet, sheet}, g{ground, ground};
                e.casts = casts;
                g.receives = receives;
                take_edits(edits, {e, g});
                s.placed = place_objects(*s.asset, edits);
                const RayScene rays(s);
                const Ray down{{0.3f, 0.5f, 0.2f}, {0, -1, 0}};
                const SurfacePoint p = surface_point(rays, down, rays.nearest(down), false);
                return truth::visibility(rays, p, l, 0.1, 1, 1).value;
            };
            QCOMPARE(open(Casting::yes, true), 0.0);
            QCOMPARE(open(Casting::front, true), up ? 0.0 : 1.0);
            QCOMPARE(open(Casting::no, true), 1.0);
            QCOMPARE(open(Casting::proxied, true), 0.0);
            QCOMPARE(open(Casting::yes, false), 1.0);
        }
    }
};

MIROLUX_TEST(caster_proxies_test)
#include "caster_proxies_test.moc"
