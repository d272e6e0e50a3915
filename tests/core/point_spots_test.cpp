#include "core/shadow/point_spots.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <cmath>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// Directions spread over the sphere that satisfy a test.
template <class Wanted>
std::vector<UsedDirection> directions(int n, Wanted wanted) {
    std::vector<UsedDirection> out;
    for (int i = 0; i < n; ++i) {
        const double z = 1 - (2.0 * i + 1) / n, r = std::sqrt(1 - z * z), turn = 2.39996322972865 * i;
        const glm::dvec3 d(r * std::cos(turn), r * std::sin(turn), z);
        if (wanted(d)) out.push_back({d, 1});
    }
    return out;
}

} // namespace

/// Spots that cover the directions which a point light uses.
class point_spots_test : public QObject {
    Q_OBJECT
private slots:
    /// Two caps apart: two cones find them, whole and once.
    void two_caps_take_two_cones() {
        std::mt19937 random(3);
        std::normal_distribution<double> normal;
        for (int run = 0; run < 12; ++run) {
            const glm::dvec3 a = glm::normalize(glm::dvec3(normal(random), normal(random), normal(random)));
            const glm::dvec3 side =
                glm::normalize(glm::cross(a, std::abs(a.x) < 0.7 ? glm::dvec3(1, 0, 0) : glm::dvec3(0, 1, 0)));
            const double apart = 2.2; // radians
            const glm::dvec3 b = std::cos(apart) * a + std::sin(apart) * side;
            const auto used = directions(3000, [&](const glm::dvec3& d) {
                return glm::dot(d, a) > std::cos(0.6) || glm::dot(d, b) > std::cos(0.8);
            });
            const SpotCover c = cover_by_spots(used, 2);
            QVERIFY2(c.cones.size() == 2 && c.covered > 0.99 && c.doubled < 0.005,
                     qPrintable(QString("%1 %2").arg(c.covered).arg(c.doubled)));
        }
    }

    /// The whole sphere: no count of disjoint cones covers more than its caps can, and more cones leave less.
    void a_sphere_is_covered_as_far_as_caps_can() {
        const auto used = directions(4000, [](const glm::dvec3&) { return true; });
        // Area of the best disjoint caps: opposite, on a great circle 120 degrees apart, at a tetrahedron's corners;
        // no wider than a spot may be.
        const double bounds[] = {2 * (1 - std::cos(double(widest_spot))) / 2, 1.5 * (1 - std::cos(1.0471976)),
                                 2 * (1 - std::cos(0.9553166))};
        double last = 0;
        for (int count = 2; count <= 4; ++count) {
            const SpotCover c = cover_by_spots(used, count);
            const double net = c.covered - c.doubled, bound = bounds[count - 2];
            QVERIFY2(net > 0.97 * std::max(bound, last) - 0.005,
                     qPrintable(QString("%1: %2 of %3").arg(count).arg(net).arg(bound)));
            for (const SpotCone& cone : c.cones)
                QVERIFY(cone.angle <= double(widest_spot) + 1e-9 && std::abs(glm::length(cone.axis) - 1) < 1e-9);
            last = net;
        }
    }

    /// A lamp over a floor uses the half below it, as far as it reaches; the spots shine as the point does.
    void a_lamp_over_a_floor_uses_what_lies_below() {
        SceneAsset asset;
        asset.materials.push_back(plain_material(glm::vec3(0.8f), 0, 1));
        add_quad(asset, 0, {-50, 0, 50}, {100, 0, 0}, {0, 0, -100});
        Scene scene;
        scene.asset = finished(std::move(asset));
        Light l;
        l.id = 5;
        l.name = "lamp";
        l.position = {0, 2, 0};
        l.intensity = 100;
        l.range = 8;
        const RayScene rays(scene);
        const auto used = used_directions(rays, l, 8, RangeWindow::squared);
        // Reached: a cone of directions up to acos(2 / 8) from straight down.
        QVERIFY2(std::abs(double(used.size()) / 2048 - 0.5 * (1 - 0.25)) < 0.01,
                 qPrintable(QString::number(used.size())));
        for (const UsedDirection& u : used)
            QVERIFY(u.direction.y < -0.24 && u.weight > 0 && u.weight <= 1);
        const SpotCover one = cover_by_spots(used, 1), two = cover_by_spots(used, 2);
        QVERIFY2(one.covered > 0.8 && one.cones[0].axis.y < -0.95,
                 qPrintable(QString("%1 %2").arg(one.covered).arg(one.cones[0].axis.y))); // most of it, straight down
        QVERIFY(two.covered - two.doubled > 0.8);
        const std::vector<Light> spots = spots_in_place(l, two);
        QCOMPARE(spots.size(), std::size_t(2));
        for (const Light& s : spots) {
            QVERIFY(s.type == LightType::spot && s.position == l.position && s.intensity == l.intensity &&
                    s.range == l.range);
            QVERIFY(s.innerConeAngle < s.outerConeAngle && s.outerConeAngle <= widest_spot); // each has one map
        }
        std::vector<Light> lights = {l};
        std::vector<Motion> motions = {{5, MotionKind::blink, 3}};
        const int first = put_in_place(lights, motions, 5, spots);
        QVERIFY(first == 1000000 && lights.size() == 3 && !lights[0].enabled && lights[2].id == first + 1);
        QVERIFY(motions.size() == 3 && motions[2].light == first + 1 && motions[2].kind == MotionKind::blink);
        QVERIFY(cover_by_spots({}, 2).cones.empty());
    }
};

MIROLUX_TEST(point_spots_test)
#include "point_spots_test.moc"
