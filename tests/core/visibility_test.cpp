#include "core/flat/visibility.h"
#include "support/test_main.h"
#include <QElapsedTimer>
#include <QtTest>
#include <random>

using namespace mirolux;
using namespace mirolux::flat;

namespace {

double between(std::mt19937& r, double low, double high) {
    return low + (high - low) * double(r() >> 8) / 16777216.0;
}

double area(const std::vector<glm::dvec2>& polygon) {
    double sum = 0;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const glm::dvec2 &a = polygon[i], &b = polygon[(i + 1) % polygon.size()];
        sum += 0.5 * (a.x * b.y - a.y * b.x);
    }
    return sum;
}

/// Polygons that cross themselves and each other. on_grid: corners at multiples of 8, so that they touch, and edges lie
/// on one another.
std::vector<Occluder> tangle(std::mt19937& r, int count, bool on_grid) {
    std::vector<Occluder> all;
    for (int i = 0; i < count; ++i) {
        Occluder o;
        const glm::dvec2 middle(between(r, -90, 90), between(r, -90, 90));
        for (int k = 0, n = 3 + static_cast<int>(r() % 6); k < n; ++k) {
            const glm::dvec2 p = middle + glm::dvec2(between(r, -30, 30), between(r, -30, 30));
            o.points.push_back(on_grid ? glm::round(p / 8.0) * 8.0 : p);
        }
        o.closed = r() % 4 != 0;
        all.push_back(o);
    }
    return all;
}

} // namespace

class visibility_test : public QObject {
    Q_OBJECT
private slots:
    /// 10,000 points over 200 scenes: in the polygon exactly where no edge crosses the way there.
    void the_polygon_is_what_rays_reach() {
        int seen = 0, hidden = 0;
        for (unsigned scene = 0; scene < 200; ++scene) {
            std::mt19937 r(scene);
            const bool grid = scene % 3 == 0;
            const std::vector<Edge> edges = edges_of(tangle(r, 3 + static_cast<int>(scene % 12), grid));
            glm::dvec2 from(between(r, -50, 50), between(r, -50, 50));
            if (grid) from = glm::round(from / 8.0) * 8.0;               // on corners and edges now and then
            if (scene % 10 == 1) from = 0.5 * (edges[0].a + edges[0].b); // on an edge
            const auto polygon = visible_polygon(edges, from, 100);
            for (int i = 0; i < 50; ++i) {
                const glm::dvec2 p = from + glm::dvec2(between(r, -99, 99), between(r, -99, 99));
                const bool wanted = sees(edges, from, p);
                (wanted ? seen : hidden) += 1;
                QVERIFY2(within(polygon, from, p) == wanted,
                         qPrintable(QString("scene %1: %2, %3").arg(scene).arg(p.x).arg(p.y)));
            }
        }
        QVERIFY(seen > 2000 && hidden > 2000);
    }

    void nothing_in_the_way_leaves_the_square() {
        const auto polygon = visible_polygon({}, {3, -2}, 10);
        QVERIFY(std::abs(area(polygon) - 400) < 1e-9);
        QVERIFY(visible_polygon({{{50, 50}, {60, 70}}}, {3, -2}, 10) == polygon); // out of reach
    }

    /// A wall from corner to corner of a square room hides what lies behind it: areas in closed form.
    void areas_are_those_of_triangles() {
        // From (0,0), reach 10: a wall at x = 5 from y = -5 to 5 hides the strip behind it within its cone.
        const std::vector<Edge> wall = {{{5, -5}, {5, 5}}};
        // The cone of 90 degrees reaches the side x = 10: a triangle of area 100, of which 25 lie before the wall.
        QVERIFY(std::abs(area(visible_polygon(wall, {0, 0}, 10)) - (400 - 75)) < 1e-9);
        // Two walls, one behind the other, hide no more than the first.
        QVERIFY(std::abs(area(visible_polygon({wall[0], {{7, -3}, {7, 3}}}, {0, 0}, 10)) - 325) < 1e-9);
        // Walls that cross: an X before the eye shows its near arms alone.
        const std::vector<Edge> crossed = {{{4, -4}, {8, 4}}, {{4, 4}, {8, -4}}};
        const auto polygon = visible_polygon(crossed, {0, 0}, 10);
        QVERIFY(within(polygon, {0, 0}, {5.9, 0}) && !within(polygon, {0, 0}, {6.1, 0}));
    }

    /// Corners that touch let nothing through; edges on one another are one; an edge through the light stops nothing.
    void touching_and_lying_on_each_other_is_defined() {
        const std::vector<Edge> closed = {{{5, -5}, {5, 0}}, {{5, 0}, {5, 5}}}, one = {{{5, -5}, {5, 5}}};
        QVERIFY(std::abs(area(visible_polygon(closed, {0, 0}, 10)) - area(visible_polygon(one, {0, 0}, 10))) < 1e-9);
        QVERIFY(!sees(closed, {0, 0}, {9, 0}));
        const std::vector<Edge> twice = {one[0], {{5, -2}, {5, 5}}, {{5, 5}, {5, -5}}};
        QVERIFY(std::abs(area(visible_polygon(twice, {0, 0}, 10)) - 325) < 1e-9);
        const std::vector<Edge> through = {{{-8, 0}, {8, 0}}};
        QVERIFY(std::abs(area(visible_polygon(through, {2, 0}, 10)) - 400) < 1e-9);
        QVERIFY(sees(through, {2, 0}, {3, 5}) && sees(through, {2, 0}, {3, -5}) && sees(through, {2, 0}, {7, 0}));
        QVERIFY(std::abs(area(visible_polygon(through, {-9.5, 0}, 10)) - 400) < 1e-9); // along its length
    }

    void pieces_of_no_length_and_open_runs() {
        QCOMPARE(edges_of({{{{0, 0}, {0, 0}, {1, 0}, {1, 1}}, true}}).size(), std::size_t(3));
        QCOMPARE(edges_of({{{{0, 0}, {1, 0}, {1, 1}}, false}}).size(), std::size_t(2));
        QCOMPARE(edges_of({{{{0, 0}, {1, 0}}, true}}).size(), std::size_t(1));
        QCOMPARE(edges_of({{{{0, 0}}, true}, {{}, true}}).size(), std::size_t(0));
    }

    /// A coast of 100,000 points is no reason to wait.
    void a_hundred_thousand_points_are_swept_in_seconds() {
        Occluder coast;
        std::mt19937 r(3);
        for (int i = 0; i < 100000; ++i) {
            const double a = 6.283185307179586 * i / 100000, out = 60 + between(r, 0, 8);
            coast.points.push_back({out * std::cos(a), out * std::sin(a)});
        }
        QElapsedTimer clock;
        clock.start();
        const auto polygon = visible_polygon(edges_of({coast}), {1, 2}, 100);
        QVERIFY2(clock.elapsed() < 20000, qPrintable(QString::number(clock.elapsed())));
        QVERIFY(polygon.size() > 10000 && area(polygon) > 3.14 * 60 * 60 && area(polygon) < 3.15 * 68 * 68);
        qInfo("%lld ms, %zu corners", static_cast<long long>(clock.elapsed()), polygon.size());
    }
};

MIROLUX_TEST(visibility_test)
#include "visibility_test.moc"
