#include "core/bake/chart_layout.h"
#include "core/bake/pack.h"
#include "core/scene/project.h"
#include "core/scene/shapes.h"
#include "support/test_main.h"
#include <QElapsedTimer>
#include <QtTest>
#include <map>
#include <random>
#include <set>

using namespace mirolux;

namespace mirolux::test_unwrap {

/// A closed surface of rings about an axis: `bumps` of its radius.
Primitive blob(int around, int rings, double bumps, double phase) {
    std::vector<Vertex> v;
    std::vector<std::uint32_t> at;
    for (int j = 0; j <= rings; ++j)
        for (int i = 0; i < around; ++i) {
            const double u = 2 * M_PI * i / around, w = M_PI * j / rings,
                         r = 1 + bumps * std::sin(3 * u + phase) * std::sin(4 * w);
            Vertex x;
            x.position = glm::vec3(r * std::sin(w) * std::cos(u), r * std::cos(w), r * std::sin(w) * std::sin(u));
            if (j == 0 || j == rings) x.position = {0, j == 0 ? 1 : -1, 0};
            v.push_back(x);
        }
    for (int j = 0; j < rings; ++j)
        for (int i = 0; i < around; ++i) {
            const auto n = [&](int ring, int k) { return static_cast<std::uint32_t>(ring * around + k % around); };
            for (const std::uint32_t k : {n(j, i), n(j, i + 1), n(j + 1, i), n(j, i + 1), n(j + 1, i + 1), n(j + 1, i)})
                at.push_back(k);
        }
    Primitive p;
    p.vertices = v;
    p.indices = at;
    return p;
}

/// Ground of random heights.
Primitive ground(int cells, float height, std::mt19937& random) {
    std::vector<Vertex> v;
    std::vector<std::uint32_t> at;
    for (int z = 0; z <= cells; ++z)
        for (int x = 0; x <= cells; ++x) {
            Vertex n;
            n.position = {x, height * static_cast<float>(random() % 1000) / 1000.0f, z};
            v.push_back(n);
        }
    for (int z = 0; z < cells; ++z)
        for (int x = 0; x < cells; ++x) {
            const auto a = static_cast<std::uint32_t>(z * (cells + 1) + x),
                       b = a + static_cast<std::uint32_t>(cells) + 1;
            for (const std::uint32_t k : {a, b, a + 1, a + 1, b, b + 1})
                at.push_back(k);
        }
    Primitive p;
    p.vertices = v;
    p.indices = at;
    return p;
}

/// Triangles anywhere, some without an area, some of them twice and back to back.
Primitive heap(int triangles, std::mt19937& random) {
    std::vector<Vertex> v;
    std::vector<std::uint32_t> at;
    const auto part = [&] { return static_cast<float>(random() % 64) / 16.0f; };
    for (int t = 0; t < triangles; ++t) {
        const auto first = static_cast<std::uint32_t>(v.size());
        for (int k = 0; k < 3; ++k) {
            Vertex n;
            n.position = t % 7 == 3 && k == 2 ? v[first].position : glm::vec3(part(), part(), part());
            v.push_back(n);
        }
        for (const std::uint32_t k : {0u, 1u, 2u})
            at.push_back(first + k);
        if (t % 5 == 0)
            for (const std::uint32_t k : {0u, 2u, 1u})
                at.push_back(first + k);
    }
    Primitive p;
    p.vertices = v;
    p.indices = at;
    return p;
}

std::vector<Primitive> generated() {
    std::mt19937 random(5);
    std::vector<Primitive> out;
    for (const ShapeKind kind : all_shapes)
        for (const float scale : {1.0f, 0.2f}) {
            Shape s = usual_shape(kind);
            s.size *= scale;
            out.push_back(make_shape(s));
        }
    for (int i = 0; i < 12; ++i)
        out.push_back(blob(8 + 4 * i, 6 + 2 * i, 0.04 * i, 0.7 * i));
    for (int i = 0; i < 12; ++i)
        out.push_back(ground(3 + i, 0.4f * static_cast<float>(i), random));
    for (int i = 0; i < 12; ++i)
        out.push_back(heap(5 + 9 * i, random));
    return out;
}

using Whole = std::array<long long, 2>;
long long turn(const Whole& a, const Whole& b, const Whole& c) {
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
}
/// The insides of two triangles meet, found otherwise than by lines that part them: edges that cross, or a corner or
/// the middle (three times the coordinates) of one inside the other.
bool meet(const std::array<Whole, 3>& a, const std::array<Whole, 3>& b) {
    const auto sign = [](long long x) { return (x > 0) - (x < 0); };
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j) {
            const Whole &p = a[i], &q = a[(i + 1) % 3], &r = b[j], &s = b[(j + 1) % 3];
            if (sign(turn(p, q, r)) * sign(turn(p, q, s)) < 0 && sign(turn(r, s, p)) * sign(turn(r, s, q)) < 0)
                return true;
        }
    const auto inside = [&](const std::array<Whole, 3>& t, const Whole& p, long long by) {
        for (std::size_t k = 0; k < 3; ++k) {
            const Whole from{t[k][0] * by, t[k][1] * by}, to{t[(k + 1) % 3][0] * by, t[(k + 1) % 3][1] * by};
            if (turn(from, to, p) <= 0) return false;
        }
        return true;
    };
    for (const auto& [one, other] : {std::pair(a, b), std::pair(b, a)}) {
        for (const Whole& p : one)
            if (inside(other, p, 1)) return true;
        const Whole middle{one[0][0] + one[1][0] + one[2][0], one[0][1] + one[1][1] + one[2][1]};
        if (inside(other, middle, 3)) return true;
        for (std::size_t k = 0; k < 3; ++k) { // and the middles of its edges
            const Whole half{one[k][0] + one[(k + 1) % 3][0], one[k][1] + one[(k + 1) % 3][1]};
            if (inside(other, half, 2)) return true;
        }
    }
    return false;
}

/// Pairs of triangles of one chart whose insides meet, by all pairs; corners are exact multiples of a power of two.
int overlaps(const Unwrapping& u) {
    int found = 0;
    for (const Chart& c : u.charts) {
        if (c.triangles.size() > 3000) continue; // all pairs would take minutes
        const double extent = std::max(c.size.x, c.size.y), grain = std::exp2(std::floor(std::log2(extent)) - 23);
        std::vector<std::array<Whole, 3>> all;
        for (const std::uint32_t t : c.triangles) {
            std::array<Whole, 3> w;
            for (std::size_t k = 0; k < 3; ++k) {
                const glm::dvec2 p = glm::dvec2(u.corners[3 * t + k]) / grain;
                w[k] = {std::llround(p.x), std::llround(p.y)};
                if (glm::dvec2(w[k][0], w[k][1]) != p) qFatal("a corner is not on the grain");
            }
            if (turn(w[0], w[1], w[2]) < 0) std::swap(w[1], w[2]);
            if (turn(w[0], w[1], w[2]) > 0) all.push_back(w);
        }
        for (std::size_t i = 0; i < all.size(); ++i)
            for (std::size_t j = 0; j < i; ++j)
                found += meet(all[i], all[j]);
    }
    return found;
}

/// Twice the area of a mesh, and of what lies flat, over triangles that have one.
std::pair<double, double> areas(const Primitive& mesh, const Unwrapping& u) {
    double own = 0, flat = 0;
    for (std::size_t t = 0; t < u.chartOf.size(); ++t) {
        if (u.chartOf[t] == Unwrapping::none) continue;
        const glm::dvec3 a(mesh.vertices[mesh.indices[3 * t]].position),
            b(mesh.vertices[mesh.indices[3 * t + 1]].position), c(mesh.vertices[mesh.indices[3 * t + 2]].position);
        own += glm::length(glm::cross(b - a, c - a));
        const glm::dvec2 p(u.corners[3 * t]), q(u.corners[3 * t + 1]), r(u.corners[3 * t + 2]);
        flat += (q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x);
    }
    return {own, flat};
}

/// Texels that lookups in more than one chart touch, each lookup at a point of a triangle's border or inside.
int shared_texels(const MappedMesh& m) {
    std::map<std::pair<int, int>, std::uint32_t> owner;
    std::set<std::pair<int, int>> shared;
    for (std::size_t t = 0; t < m.flat.chartOf.size(); ++t) {
        if (m.flat.chartOf[t] == Unwrapping::none) continue;
        glm::dvec2 c[3];
        for (std::size_t k = 0; k < 3; ++k)
            c[k] = glm::dvec2(m.places[m.mesh.indices[3 * t + k]]);
        for (int i = 0; i <= 12; ++i)
            for (int j = 0; i + j <= 12; ++j) {
                const glm::dvec2 p = (double(i) * c[0] + double(j) * c[1] + double(12 - i - j) * c[2]) / 12.0;
                const glm::dvec2 low = glm::floor(p - 0.5), f = p - 0.5 - low;
                for (int y = 0; y < 2; ++y)
                    for (int x = 0; x < 2; ++x) {
                        if ((x ? f.x : 1 - f.x) * (y ? f.y : 1 - f.y) < 1e-4) continue; // it has no share
                        const std::pair<int, int> at(static_cast<int>(low.x) + x, static_cast<int>(low.y) + y);
                        if (at.first < 0 || at.second < 0 || at.first >= m.width || at.second >= m.height) {
                            shared.insert(at); // beyond the rectangle
                            continue;
                        }
                        const auto [it, fresh] = owner.emplace(at, m.flat.chartOf[t]);
                        if (!fresh && it->second != m.flat.chartOf[t]) shared.insert(at);
                    }
            }
    }
    return static_cast<int>(shared.size());
}

} // namespace mirolux::test_unwrap
using namespace mirolux::test_unwrap;

/// Meshes laid flat: charts, their rectangles and texels.
class unwrap_test : public QObject {
    Q_OBJECT
private slots:
    void shapes_have_the_charts_that_one_would_cut() {
        Shape box = usual_shape(ShapeKind::box);
        box.size = {2, 1, 3};
        const Unwrapping b = unwrap(make_shape(box));
        QCOMPARE(b.charts.size(), std::size_t(6));
        QCOMPARE(b.cuts, 0);
        QVERIFY(b.stretch() < 1.0001f);
        double sides = 0;
        for (const Chart& c : b.charts)
            sides += double(c.size.x) * double(c.size.y);
        QVERIFY(std::abs(sides - 22) < 1e-4); // 2 (2 + 6 + 3)
        const Unwrapping p = unwrap(make_shape(usual_shape(ShapeKind::plane)));
        QCOMPARE(p.charts.size(), std::size_t(1));
        // A quarter of a cylinder's mantle at most lies in a chart; flattened it keeps its lengths.
        Shape pipe = usual_shape(ShapeKind::cylinder);
        pipe.segments = 64;
        const Unwrapping c = unwrap(make_shape(pipe));
        QVERIFY2(c.charts.size() >= 5 && c.charts.size() <= 12, qPrintable(QString::number(c.charts.size())));
        QVERIFY2(c.stretch() < 1.01f, qPrintable(QString::number(c.stretch())));
    }

    /// Fifty generated meshes: all of their area lies flat, nothing twice, and no texel belongs to two charts.
    void nothing_overlaps_and_no_texel_is_shared() {
        const std::vector<Primitive> meshes = generated();
        QVERIFY2(meshes.size() >= 50, qPrintable(QString::number(meshes.size())));
        double worst = 1;
        int cuts = 0, charts = 0;
        for (std::size_t i = 0; i < meshes.size(); ++i) {
            const Unwrapping u = unwrap(meshes[i]);
            QCOMPARE(overlaps(u), 0);
            const auto [own, flat] = areas(meshes[i], u);
            QVERIFY2(std::abs(flat / own - 1) < 1e-3,
                     qPrintable(QString("mesh %1: %2 of %3").arg(i).arg(flat).arg(own)));
            worst = std::max(worst, double(u.stretch()));
            cuts += u.cuts;
            charts += static_cast<int>(u.charts.size());
            for (const float density : {3.0f, 16.0f}) {
                const MappedMesh m = mapped(meshes[i], density);
                QCOMPARE(shared_texels(m), 0);
                QCOMPARE(m.mesh.indices.size(), meshes[i].indices.size());
                for (std::size_t k = 0; k < m.mesh.indices.size(); ++k)
                    QVERIFY(m.mesh.vertices[m.mesh.indices[k]].position ==
                            meshes[i].vertices[meshes[i].indices[k]].position);
            }
        }
        qInfo("%zu meshes: %d charts, %d cuts, stretch %.2f at most", meshes.size(), charts, cuts, worst);
        QVERIFY(worst <= 2.0001);
    }

    /// All of the demo's meshes.
    void the_demo_lies_flat() {
        const auto open = open_project(MIROLUX_DEMO);
        QVERIFY(open.has_value());
        QElapsedTimer clock;
        clock.start();
        std::size_t triangles = 0, charts = 0;
        float worst = 1;
        for (const Primitive& p : open->asset->primitives) {
            const MappedMesh m = mapped(p, 8);
            triangles += p.indices.size() / 3;
            charts += m.flat.charts.size();
            worst = std::max(worst, m.flat.stretch());
        }
        qInfo("the demo: %zu triangles in %zu charts, stretch %.2f at most, %lld ms", triangles, charts, double(worst),
              static_cast<long long>(clock.elapsed()));
        for (const Primitive& p : open->asset->primitives) {
            if (p.indices.size() > 3000) continue; // all pairs of texels and triangles
            const MappedMesh m = mapped(p, 8);
            QCOMPARE(overlaps(m.flat), 0);
            QCOMPARE(shared_texels(m), 0);
        }
    }

    /// Every texel that a lookup may touch and that lies over a chart is covered, at a point of the surface.
    void texels_stand_for_points_of_the_surface() {
        const float size = usual_shape(ShapeKind::ball).size.x;
        const Primitive ball = make_shape(usual_shape(ShapeKind::ball));
        const MappedMesh m = mapped(ball, 24);
        const std::vector<Texel> texels = covered_texels(m);
        double off = 0;
        std::set<std::pair<int, int>> there;
        for (const Texel& t : texels) {
            QVERIFY(there.insert({t.x, t.y}).second);
            QVERIFY(std::abs(t.weights.x + t.weights.y + t.weights.z - 1) < 1e-5f);
            glm::vec3 p(0.0f);
            for (std::size_t k = 0; k < 3; ++k)
                p += t.weights[static_cast<int>(k)] * m.mesh.vertices[m.mesh.indices[3 * t.triangle + k]].position;
            p.y -= 0.5f * size; // it stands on the ground
            off = std::max(off, std::abs(double(glm::length(p)) / double(size) * 2 - 1));
        }
        QVERIFY2(off < 0.02, qPrintable(QString::number(off))); // chords of its segments
        // Middles of texels that lie in a triangle are covered by that.
        std::size_t within = 0;
        for (std::size_t t = 0; t < m.flat.chartOf.size(); ++t) {
            glm::dvec2 c[3];
            for (std::size_t k = 0; k < 3; ++k)
                c[k] = glm::dvec2(m.places[m.mesh.indices[3 * t + k]]);
            const glm::dvec2 middle = (c[0] + c[1] + c[2]) / 3.0;
            within += there.count({static_cast<int>(std::floor(middle.x)), static_cast<int>(std::floor(middle.y))});
        }
        QVERIFY(double(within) > 0.99 * double(m.flat.chartOf.size()));
        const double surface = M_PI * double(size) * double(size) * 24 * 24;
        QVERIFY(double(texels.size()) > surface && double(texels.size()) < 1.6 * surface);
    }

    void rectangles_are_packed_densely_and_never_on_each_other() {
        std::mt19937 random(9);
        for (const int count : {1, 2, 7, 60, 400}) {
            std::vector<PackedRect> rects;
            double area = 0;
            for (int i = 0; i < count; ++i) {
                rects.push_back({1 + int(random() % 40), 1 + int(random() % (i % 9 == 0 ? 120 : 20))});
                area += double(rects.back().width) * rects.back().height;
            }
            const glm::ivec2 size = pack(rects);
            QVERIFY(size.x % 4 == 0 && size.y % 4 == 0);
            std::vector<int> owner(std::size_t(size.x) * std::size_t(size.y), -1);
            for (std::size_t i = 0; i < rects.size(); ++i) {
                const PackedRect& r = rects[i];
                QVERIFY(r.x >= 0 && r.y >= 0 && r.x + r.across() <= size.x && r.y + r.up() <= size.y);
                for (int y = r.y; y < r.y + r.up(); ++y)
                    for (int x = r.x; x < r.x + r.across(); ++x) {
                        int& o = owner[std::size_t(y) * std::size_t(size.x) + std::size_t(x)];
                        QCOMPARE(o, -1);
                        o = int(i);
                    }
            }
            if (count >= 60)
                QVERIFY2(area > 0.85 * double(size.x) * size.y, qPrintable(QString::number(area / size.x / size.y)));
        }
    }

    /// A strip that is folded twice at right angles is three charts by its normals; a second layout of its own that
    /// holds it in one piece makes it one, and one that lies on itself is not taken.
    void a_layout_of_the_files_own_is_taken() {
        Primitive p;
        std::vector<Vertex> vertices;
        std::vector<glm::vec2> own, folded;
        const glm::vec3 line[] = {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {2, 1, 0}};
        for (int i = 0; i < 4; ++i)
            for (int k = 0; k < 2; ++k) {
                Vertex v;
                v.position = line[i] + glm::vec3(0, 0, -2 * k);
                vertices.push_back(v);
                own.emplace_back(0.1f * static_cast<float>(i), 0.2f * static_cast<float>(k));
                folded.emplace_back(i == 3 ? 0.1f : 0.1f * static_cast<float>(i), 0.2f * static_cast<float>(k));
            }
        std::vector<std::uint32_t> at;
        for (std::uint32_t i = 0; i < 3; ++i)
            for (const std::uint32_t k : {0u, 2u, 1u, 1u, 2u, 3u})
                at.push_back(2 * i + k);
        p.vertices = vertices;
        p.indices = at;
        QCOMPARE(unwrap(p).charts.size(), std::size_t(3));
        p.secondUv = SharedList<glm::vec2>(own);
        const Unwrapping one = unwrap(p);
        QCOMPARE(one.charts.size(), std::size_t(1));
        QVERIFY(std::abs(one.charts[0].size.x * one.charts[0].size.y - 6) < 1e-3f); // three strips of 1 x 2 metres
        QVERIFY(one.stretch() < 1.001f);
        p.secondUv = SharedList<glm::vec2>(folded); // the last strip lies on the one before
        QCOMPARE(unwrap(p).charts.size(), std::size_t(3));
        for (glm::vec2& uv : own) // mirrored, and far away: as good
            uv = {7 - uv.x, uv.y};
        p.secondUv = SharedList<glm::vec2>(own);
        QCOMPARE(unwrap(p).charts.size(), std::size_t(1));
    }
};

MIROLUX_TEST(unwrap_test)
#include "unwrap_test.moc"
