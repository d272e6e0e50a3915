#include "core/cull/inspection.h"
#include "core/light/proxy.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <map>

using namespace mirolux;
using namespace mirolux::test;

/// Largest signed distance of a point over the mesh's faces: 0 or less is inside a convex mesh.
static double outside(const ProxyMesh& m, const glm::dmat4& transform, const glm::dvec3& p) {
    double worst = -1e30;
    const auto at = [&](std::uint32_t i) { return glm::dvec3(transform * glm::dvec4(glm::dvec3(m.positions[i]), 1)); };
    for (std::size_t i = 0; i < m.indices.size(); i += 3) {
        const glm::dvec3 a = at(m.indices[i]),
                         n = glm::normalize(glm::cross(at(m.indices[i + 1]) - a, at(m.indices[i + 2]) - a));
        worst = std::max(worst, glm::dot(n, p - a));
    }
    return worst;
}

static double volume(const ProxyMesh& m) {
    double v = 0;
    for (std::size_t i = 0; i < m.indices.size(); i += 3)
        v += glm::dot(glm::dvec3(m.positions[m.indices[i]]), glm::cross(glm::dvec3(m.positions[m.indices[i + 1]]),
                                                                        glm::dvec3(m.positions[m.indices[i + 2]]))) /
             6;
    return v;
}

class proxy_test : public QObject {
    Q_OBJECT
private slots:
    /// Each edge belongs to two triangles, once in each direction: closed, and wound one way.
    void meshes_are_closed() {
        for (const ProxyMesh& m : {sphere_proxy(0), sphere_proxy(1), sphere_proxy(2), cone_proxy(8), cone_proxy(12)}) {
            std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
            for (std::size_t i = 0; i < m.indices.size(); i += 3)
                for (int k = 0; k < 3; ++k)
                    ++edges[{m.indices[i + k], m.indices[i + (k + 1) % 3]}];
            for (const auto& [edge, count] : edges) {
                QCOMPARE(count, 1);
                QVERIFY(edges.count({edge.second, edge.first}));
            }
            QVERIFY(volume(m) > 0); // outward
        }
    }

    void sphere_holds_the_unit_sphere_and_little_more() {
        for (const auto& [steps, most] : {std::pair(0, 2.1), {1, 1.35}, {2, 1.09}}) {
            const ProxyMesh m = sphere_proxy(steps);
            double nearest = 1e9;
            for (std::size_t i = 0; i < m.indices.size(); i += 3) {
                const glm::dvec3 a = m.positions[m.indices[i]],
                                 n = glm::cross(glm::dvec3(m.positions[m.indices[i + 1]]) - a,
                                                glm::dvec3(m.positions[m.indices[i + 2]]) - a);
                nearest = std::min(nearest, glm::dot(glm::normalize(n), a));
            }
            QVERIFY(nearest >= 1.0 && nearest < 1.001);
            const double ratio = volume(m) / (4.0 / 3.0 * 3.14159265358979);
            qInfo("%d triangles: %.3f times the sphere's volume", static_cast<int>(m.indices.size() / 3), ratio);
            QVERIFY(ratio < most);
        }
    }

    /// Random points that a light reaches lie inside its placed proxy, for all cone angles.
    void placed_proxies_hold_what_the_light_reaches() {
        std::mt19937 r(11);
        const ProxyMesh meshes[] = {sphere_proxy(volume_sphere_steps), cone_proxy(volume_cone_sides)};
        int cones = 0;
        for (int i = 0; i < 120; ++i) {
            Light l;
            l.type = i % 4 ? LightType::spot : LightType::point;
            l.outerConeAngle = glm::radians(1.0f + 88.0f * static_cast<float>(i) / 120.0f);
            l.position = {random_in(r, -9, 9), random_in(r, -9, 9), random_in(r, -9, 9)};
            l.direction = glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1)) +
                                         glm::vec3(1e-3f));
            const float reach = random_in(r, 0.2f, 20);
            const Proxy p = light_proxy(l, reach);
            cones += p.shape == ProxyShape::cone;
            QVERIFY(glm::determinant(glm::dmat4(p.transform)) > 0); // winding stays
            for (int k = 0; k < 100; ++k) {
                glm::vec3 d;
                do
                    d = glm::normalize(glm::vec3(random_in(r, -1, 1), random_in(r, -1, 1), random_in(r, -1, 1)) +
                                       l.direction * (l.type == LightType::spot ? 2.0f : 0.0f));
                while (l.type == LightType::spot && glm::dot(d, l.direction) < std::cos(l.outerConeAngle) &&
                       l.outerConeAngle > 0.5f);
                if (l.type == LightType::spot && glm::dot(d, l.direction) < std::cos(l.outerConeAngle)) d = l.direction;
                const glm::vec3 at = l.position + d * (reach * (k % 3 ? 1.0f : random01(r)));
                QVERIFY(outside(meshes[p.shape == ProxyShape::cone], glm::dmat4(p.transform), glm::dvec3(at)) <= 1e-4);
            }
        }
        QVERIFY(cones > 20);
    }

    void distance_fade_by_light_and_for_all() {
        QCOMPARE(distance_fade(5, 0, 0), 1.0);
        QCOMPARE(distance_fade(5, 10, 20), 1.0);
        QCOMPARE(distance_fade(15, 10, 20), 0.5);
        QCOMPARE(distance_fade(20, 10, 20), 0.0);
        QCOMPARE(distance_fade(7, 7, 7), 0.0);
        Scene scene;
        scene.asset = white_plane();
        for (int i = 0; i < 3; ++i) {
            Light l;
            l.id = i;
            l.position = {0, 1, -5.0f * static_cast<float>(i)};
            l.range = 4;
            l.intensity = 8;
            scene.lights.push_back(l);
        }
        const View view = view_from({0, 1, 5}, {0, 1, 0}, 64, 48); // lights at 5, 10, 15 m
        Setup s;
        QCOMPARE(build_draw_list(scene, s, view).lights.size(), std::size_t(3));
        QVERIFY(s.set("light.fadeInner", 5.0).has_value() && s.set("light.fadeOuter", 15.0).has_value());
        DrawList list = build_draw_list(scene, s, view);
        QCOMPARE(list.lights.size(), std::size_t(2));
        QCOMPARE(list.lightsFaded, 1);
        QCOMPARE(list.lights[1].intensity, 4.0f);
        scene.lights[2].fadeInner = 20;
        scene.lights[2].fadeOuter = 30; // a light's own distances go before
        list = build_draw_list(scene, s, view);
        QCOMPARE(list.lightsFaded, 0);
        QCOMPARE(list.lights[2].intensity, 8.0f);
    }

    void inspection_tells_listed_needed_and_worst() {
        cull::Inspection i;
        i.grid.columns = 2;
        i.grid.rows = 1;
        i.grid.tile = 16;
        i.exact = i.grid;
        i.grid.offsets = {0, 2, 3};
        i.grid.indices = {1, 4, 2};
        i.exact.offsets = {0, 2, 4};
        i.exact.indices = {1, 4, 2, 3};
        const auto second = cull::cell_lights(i, 1);
        QCOMPARE(second.size(), std::size_t(2));
        QVERIFY(second[0].listed && second[0].needed && second[1].needed && !second[1].listed && second[1].index == 3);
        QCOMPARE(cull::worst_cells(i), std::vector<std::size_t>{1});
        QCOMPARE(cull::length_histogram(i.grid), (std::vector<int>{0, 1, 1}));
    }
};

MIROLUX_TEST(proxy_test)
#include "proxy_test.moc"
