#include "core/bake/unwrap.h"
#include "core/bake/flat_triangles.h"
#include <Eigen/Sparse>
#include <algorithm>
#include <array>
#include <cstring>
#include <map>
#include <optional>
#include <queue>
#include <unordered_map>

namespace mirolux {

namespace {

using Triangle = std::array<std::uint32_t, 3>;

/// The mesh with vertices of one place as one.
struct Welded {
    std::vector<glm::dvec3> places;
    std::vector<Triangle> triangles;
    std::vector<glm::dvec3> normals; // unit; 0 of a triangle without an area
    std::vector<double> areas;
    std::vector<std::array<std::uint32_t, 3>> beyond; // the triangle past each edge (k to k + 1); none: an end, or many

    explicit Welded(const Primitive& mesh) {
        struct Hash {
            std::size_t operator()(const std::array<std::uint32_t, 3>& w) const {
                std::uint64_t h = 1469598103934665603ull;
                for (const std::uint32_t x : w)
                    h = (h ^ x) * 1099511628211ull;
                return h ^ (h >> 29);
            }
        };
        std::unordered_map<std::array<std::uint32_t, 3>, std::uint32_t, Hash> known;
        std::vector<std::uint32_t> of;
        for (const Vertex& v : mesh.vertices) {
            const glm::vec3 p = v.position + 0.0f; // one zero
            std::array<std::uint32_t, 3> bits;
            std::memcpy(bits.data(), &p, sizeof bits);
            const auto [it, fresh] = known.emplace(bits, static_cast<std::uint32_t>(places.size()));
            if (fresh) places.emplace_back(p);
            of.push_back(it->second);
        }
        for (std::size_t i = 0; i + 2 < mesh.indices.size(); i += 3) {
            const Triangle t{of[mesh.indices[i]], of[mesh.indices[i + 1]], of[mesh.indices[i + 2]]};
            const glm::dvec3 a = places[t[0]], cross = glm::cross(places[t[1]] - a, places[t[2]] - a);
            const double length = glm::length(cross);
            triangles.push_back(t);
            areas.push_back(length > 1e-20 ? 0.5 * length : 0);
            normals.push_back(length > 1e-20 ? cross / length : glm::dvec3(0.0));
        }
        join();
    }

private:
    void join() {
        std::unordered_map<std::uint64_t, std::pair<std::uint32_t, int>> edges; // triangle, how many
        const auto key = [](std::uint32_t a, std::uint32_t b) { return std::uint64_t(a) << 32 | b; };
        for (std::uint32_t t = 0; t < triangles.size(); ++t)
            for (std::size_t k = 0; areas[t] > 0 && k < 3; ++k) {
                auto& e = edges[key(triangles[t][k], triangles[t][(k + 1) % 3])];
                e.first = t;
                ++e.second;
            }
        beyond.assign(triangles.size(), {Unwrapping::none, Unwrapping::none, Unwrapping::none});
        for (std::uint32_t t = 0; t < triangles.size(); ++t)
            for (std::size_t k = 0; areas[t] > 0 && k < 3; ++k) {
                const std::uint32_t a = triangles[t][k], b = triangles[t][(k + 1) % 3];
                const auto own = edges.find(key(a, b)), other = edges.find(key(b, a));
                if (other != edges.end() && other->second.second == 1 && own->second.second == 1)
                    beyond[t][k] = other->second.first;
            }
    }
};

struct Flat {
    std::vector<std::array<glm::dvec2, 3>> corners; // by the chart's triangles, metres
    double stretch = 1;
};

/// How much a triangle is stretched: of the map from its plane to the flat, and back. Infinite: it is turned over.
double stretch_of(const std::array<glm::dvec3, 3>& p, const std::array<glm::dvec2, 3>& q) {
    const glm::dvec3 e1 = p[1] - p[0], e2 = p[2] - p[0];
    const double length = glm::length(e1);
    const glm::dvec3 x = e1 / length, y = glm::normalize(e2 - glm::dot(e2, x) * x);
    const double a = length, b = glm::dot(e2, x), c = glm::dot(e2, y); // corners (0,0) (a,0) (b,c)
    const glm::dvec2 du = (q[1] - q[0]) / a, dv = (q[2] - q[0] - du * b) / c;
    const double det = du.x * dv.y - du.y * dv.x;
    if (!(det > 0)) return std::numeric_limits<double>::infinity();
    const double sum = glm::dot(du, du) + glm::dot(dv, dv), root = std::sqrt(std::max(0.0, sum * sum - 4 * det * det));
    const double largest = std::sqrt(0.5 * (sum + root)), smallest = det / largest;
    return std::max(largest, 1 / smallest);
}

/// Lays the charts of one mesh flat.
class Flattening {
public:
    Flattening(const Primitive& mesh, const UnwrapOptions& options) : mesh_(mesh), welded_(mesh), options_(options) {
        out_.corners.assign(3 * welded_.triangles.size(), glm::vec2(0.0f));
        out_.chartOf.assign(welded_.triangles.size(), Unwrapping::none);
    }
    Unwrapping run() {
        std::vector<bool> taken(welded_.triangles.size(), false);
        for (std::vector<std::uint32_t>& island : islands())
            if (settle_given(island))
                for (const std::uint32_t t : island)
                    taken[t] = true;
        for (std::vector<std::uint32_t>& chart : grown(std::move(taken)))
            settle(std::move(chart));
        std::stable_sort(out_.charts.begin(), out_.charts.end(),
                         [](const Chart& a, const Chart& b) { return a.size.x * a.size.y > b.size.x * b.size.y; });
        for (std::size_t c = 0; c < out_.charts.size(); ++c)
            for (const std::uint32_t t : out_.charts[c].triangles)
                out_.chartOf[t] = static_cast<std::uint32_t>(c);
        return std::move(out_);
    }

private:
    glm::dvec2 given(std::uint32_t t, std::size_t corner) const {
        return glm::dvec2(mesh_.secondUv[mesh_.indices[3 * t + corner]]);
    }
    /// Triangles in pieces of the file's own layout: those that share an edge there.
    std::vector<std::vector<std::uint32_t>> islands() const {
        std::vector<std::vector<std::uint32_t>> out;
        if (mesh_.secondUv.size() != mesh_.vertices.size()) return out;
        std::vector<bool> taken(welded_.triangles.size(), false);
        const auto joined = [&](std::uint32_t a, std::uint32_t b) {
            int same = 0;
            for (std::size_t i = 0; i < 3; ++i)
                for (std::size_t k = 0; k < 3; ++k)
                    same += welded_.triangles[a][i] == welded_.triangles[b][k] &&
                            glm::distance(given(a, i), given(b, k)) < 1e-6;
            return same >= 2;
        };
        for (std::uint32_t seed = 0; seed < welded_.triangles.size(); ++seed) {
            if (taken[seed] || !(welded_.areas[seed] > 0)) continue;
            std::vector<std::uint32_t> island{seed};
            taken[seed] = true;
            for (std::size_t i = 0; i < island.size(); ++i)
                for (const std::uint32_t n : welded_.beyond[island[i]])
                    if (n != Unwrapping::none && !taken[n] && joined(island[i], n)) {
                        taken[n] = true;
                        island.push_back(n);
                    }
            out.push_back(std::move(island));
        }
        return out;
    }
    /// A piece as the file lays it, made as large as it is; false: it overlaps itself, or stretches too far.
    bool settle_given(const std::vector<std::uint32_t>& island) {
        std::vector<std::array<glm::dvec2, 3>> flat;
        double area = 0;
        for (const std::uint32_t t : island) {
            flat.push_back({given(t, 0), given(t, 1), given(t, 2)});
            const auto& q = flat.back();
            area += (q[1].x - q[0].x) * (q[2].y - q[0].y) - (q[1].y - q[0].y) * (q[2].x - q[0].x);
        }
        if (area < 0)
            for (auto& q : flat)
                for (glm::dvec2& c : q)
                    c.x = -c.x;
        glm::dvec2 size(0.0);
        const auto best = checked(island, std::move(flat), size);
        if (!best) return false;
        take(island, *best, size);
        return true;
    }

    /// Triangles that are not taken yet in charts, by their normals.
    std::vector<std::vector<std::uint32_t>> grown(std::vector<bool> taken) const {
        std::vector<std::uint32_t> order;
        for (std::uint32_t t = 0; t < welded_.triangles.size(); ++t)
            if (welded_.areas[t] > 0) order.push_back(t);
        std::stable_sort(order.begin(), order.end(),
                         [&](std::uint32_t a, std::uint32_t b) { return welded_.areas[a] > welded_.areas[b]; });
        const double least = std::cos(glm::radians(double(options_.bend)));
        std::vector<std::vector<std::uint32_t>> charts;
        using Next = std::pair<double, std::uint32_t>; // cosine to the seed's normal, triangle
        for (const std::uint32_t seed : order) {
            if (taken[seed]) continue;
            std::vector<std::uint32_t> chart;
            glm::dvec3 sum(0.0);
            std::priority_queue<Next> open;
            open.push({1, seed});
            while (!open.empty()) {
                const std::uint32_t t = open.top().second;
                open.pop();
                if (taken[t] || (!chart.empty() && glm::dot(welded_.normals[t], glm::normalize(sum)) < least)) continue;
                taken[t] = true;
                chart.push_back(t);
                sum += welded_.areas[t] * welded_.normals[t];
                for (const std::uint32_t n : welded_.beyond[t])
                    if (n != Unwrapping::none && !taken[n])
                        open.push({glm::dot(welded_.normals[n], glm::normalize(sum)), n});
            }
            charts.push_back(std::move(chart));
        }
        return charts;
    }

    std::array<glm::dvec3, 3> places(std::uint32_t t) const {
        const Triangle& v = welded_.triangles[t];
        return {welded_.places[v[0]], welded_.places[v[1]], welded_.places[v[2]]};
    }
    double area_of(const std::vector<std::uint32_t>& chart) const {
        double area = 0;
        for (const std::uint32_t t : chart)
            area += welded_.areas[t];
        return area;
    }

    /// As it is seen along the mean of its normals.
    std::vector<std::array<glm::dvec2, 3>> by_plane(const std::vector<std::uint32_t>& chart) const {
        glm::dvec3 n(0.0);
        for (const std::uint32_t t : chart)
            n += welded_.areas[t] * welded_.normals[t];
        n = glm::normalize(n);
        const glm::dvec3 x = glm::normalize(std::abs(n.y) < 0.9 ? glm::cross(glm::dvec3(0, 1, 0), n)
                                                                : glm::cross(glm::dvec3(1, 0, 0), n)),
                         y = glm::cross(n, x);
        std::vector<std::array<glm::dvec2, 3>> out;
        for (const std::uint32_t t : chart) {
            std::array<glm::dvec2, 3> q;
            const auto p = places(t);
            for (std::size_t k = 0; k < 3; ++k)
                q[k] = {glm::dot(p[k], x), glm::dot(p[k], y)};
            out.push_back(q);
        }
        return out;
    }

    /// Least squares conformal: two places are held where their plane has them, the others follow. None: no solution.
    std::optional<std::vector<std::array<glm::dvec2, 3>>>
    conformally(const std::vector<std::uint32_t>& chart, const std::vector<std::array<glm::dvec2, 3>>& start) const {
        std::unordered_map<std::uint32_t, int> number;
        std::vector<glm::dvec2> at;
        for (std::size_t i = 0; i < chart.size(); ++i)
            for (std::size_t k = 0; k < 3; ++k)
                if (number.emplace(welded_.triangles[chart[i]][k], static_cast<int>(at.size())).second)
                    at.push_back(start[i][k]);
        const auto count = static_cast<int>(at.size());
        const auto farthest = [&](const glm::dvec2& from) {
            return static_cast<int>(std::max_element(at.begin(), at.end(),
                                                     [&](const glm::dvec2& a, const glm::dvec2& b) {
                                                         return glm::length(a - from) < glm::length(b - from);
                                                     }) -
                                    at.begin());
        };
        const int first = farthest(at[0]), second = farthest(at[static_cast<std::size_t>(first)]);
        if (first == second || count < 3) return std::nullopt;
        std::vector<int> column(at.size(), -1);
        int free = 0;
        for (int v = 0; v < count; ++v)
            if (v != first && v != second) column[static_cast<std::size_t>(v)] = free++;
        const auto rows = static_cast<Eigen::Index>(2 * chart.size());
        std::vector<Eigen::Triplet<double>> entries;
        Eigen::VectorXd right = Eigen::VectorXd::Zero(rows);
        for (std::size_t i = 0; i < chart.size(); ++i) {
            const auto p = places(chart[i]);
            const glm::dvec3 x = glm::normalize(p[1] - p[0]), y = glm::cross(welded_.normals[chart[i]], x);
            std::array<glm::dvec2, 3> q;
            for (std::size_t k = 0; k < 3; ++k)
                q[k] = {glm::dot(p[k] - p[0], x), glm::dot(p[k] - p[0], y)};
            const double scale = 1 / std::sqrt(2 * welded_.areas[chart[i]]);
            const auto r = static_cast<Eigen::Index>(2 * i);
            for (std::size_t k = 0; k < 3; ++k) {
                const glm::dvec2 w = scale * (q[(k + 2) % 3] - q[(k + 1) % 3]);
                const int v = number[welded_.triangles[chart[i]][k]], c = column[static_cast<std::size_t>(v)];
                if (c >= 0) {
                    entries.emplace_back(r, 2 * c, w.x);
                    entries.emplace_back(r, 2 * c + 1, -w.y);
                    entries.emplace_back(r + 1, 2 * c, w.y);
                    entries.emplace_back(r + 1, 2 * c + 1, w.x);
                } else {
                    const glm::dvec2 u = at[static_cast<std::size_t>(v)];
                    right[r] -= w.x * u.x - w.y * u.y;
                    right[r + 1] -= w.y * u.x + w.x * u.y;
                }
            }
        }
        Eigen::SparseMatrix<double> m(rows, 2 * free);
        m.setFromTriplets(entries.begin(), entries.end());
        const Eigen::SparseMatrix<double> squared = m.transpose() * m;
        const Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> solver(squared);
        if (solver.info() != Eigen::Success) return std::nullopt;
        const Eigen::VectorXd solved = solver.solve(m.transpose() * right);
        if (solver.info() != Eigen::Success || !solved.allFinite()) return std::nullopt;
        for (int v = 0; v < count; ++v)
            if (const int c = column[static_cast<std::size_t>(v)]; c >= 0)
                at[static_cast<std::size_t>(v)] = {solved[2 * c], solved[2 * c + 1]};
        std::vector<std::array<glm::dvec2, 3>> out;
        for (const std::uint32_t t : chart) {
            std::array<glm::dvec2, 3> q;
            for (std::size_t k = 0; k < 3; ++k)
                q[k] = at[static_cast<std::size_t>(number[welded_.triangles[t][k]])];
            out.push_back(q);
        }
        return out;
    }

    /// Made as large as its triangles, turned so that its rectangle is smallest, and moved into that. None: it overlaps
    /// itself or stretches too far.
    std::optional<Flat> checked(const std::vector<std::uint32_t>& chart, std::vector<std::array<glm::dvec2, 3>> flat,
                                glm::dvec2& size) const {
        double area = 0;
        for (const auto& q : flat)
            area += 0.5 * ((q[1].x - q[0].x) * (q[2].y - q[0].y) - (q[1].y - q[0].y) * (q[2].x - q[0].x));
        if (!(area > 0)) return std::nullopt;
        const double scale = std::sqrt(area_of(chart) / area);
        std::vector<glm::dvec2> all;
        for (auto& q : flat)
            for (glm::dvec2& c : q)
                all.push_back(c *= scale);
        const glm::dvec2 way = narrowest_way(std::move(all));
        glm::dvec2 low(1e300), high(-1e300);
        for (auto& q : flat)
            for (glm::dvec2& c : q) {
                c = {glm::dot(c, way), way.x * c.y - way.y * c.x};
                low = glm::min(low, c);
                high = glm::max(high, c);
            }
        size = high - low;
        Flat out;
        for (std::size_t i = 0; i < flat.size(); ++i) {
            for (glm::dvec2& c : flat[i])
                c -= low;
            out.stretch = std::max(out.stretch, stretch_of(places(chart[i]), flat[i]));
        }
        if (chart.size() > 1 && out.stretch > double(options_.stretch)) return std::nullopt;
        const double grain = on_grain(flat, size);
        if (chart.size() > 1 && overlap_within(flat, grain)) return std::nullopt;
        out.corners = std::move(flat);
        return out;
    }

    void settle(std::vector<std::uint32_t> chart) {
        const auto plane = by_plane(chart);
        glm::dvec2 size(0.0), other(0.0);
        std::optional<Flat> best = checked(chart, plane, size);
        if (!best || best->stretch > 1.02)
            if (const auto conformal = conformally(chart, plane))
                if (auto flat = checked(chart, *conformal, other); flat && (!best || flat->stretch < best->stretch)) {
                    best = std::move(flat);
                    size = other;
                }
        if (!best) {
            ++out_.cuts;
            for (std::vector<std::uint32_t>& part : halves(chart))
                settle(std::move(part));
            return;
        }
        take(std::move(chart), *best, size);
    }
    void take(std::vector<std::uint32_t> chart, const Flat& flat, const glm::dvec2& size) {
        for (std::size_t i = 0; i < chart.size(); ++i)
            for (std::size_t k = 0; k < 3; ++k)
                out_.corners[3 * chart[i] + k] = glm::vec2(flat.corners[i][k]);
        out_.charts.push_back({std::move(chart), glm::vec2(size), static_cast<float>(flat.stretch)});
    }

    /// Two parts of a chart, and what each holds apart: triangles go to the nearer of the two that lie farthest apart.
    std::vector<std::vector<std::uint32_t>> halves(const std::vector<std::uint32_t>& chart) const {
        const auto middle = [&](std::uint32_t t) {
            const auto p = places(t);
            return (p[0] + p[1] + p[2]) / 3.0;
        };
        const auto farthest = [&](const glm::dvec3& from) {
            return *std::max_element(chart.begin(), chart.end(), [&](std::uint32_t a, std::uint32_t b) {
                return glm::length(middle(a) - from) < glm::length(middle(b) - from);
            });
        };
        const std::uint32_t a = farthest(middle(chart[0]));
        std::uint32_t b = farthest(middle(a));
        if (a == b) b = chart[0] == a ? chart[1] : chart[0]; // all of one middle
        std::map<std::uint32_t, int> side;                   // 1 or 2; then 0: it is in a part already
        for (const std::uint32_t t : chart)
            side[t] =
                t == b || (t != a && glm::length(middle(t) - middle(b)) < glm::length(middle(t) - middle(a))) ? 2 : 1;
        std::vector<std::vector<std::uint32_t>> parts;
        for (const std::uint32_t seed : chart) {
            const int own = side[seed];
            if (own == 0) continue;
            std::vector<std::uint32_t> part{seed};
            side[seed] = 0;
            for (std::size_t i = 0; i < part.size(); ++i)
                for (const std::uint32_t n : welded_.beyond[part[i]])
                    if (const auto it = side.find(n); it != side.end() && it->second == own) {
                        it->second = 0;
                        part.push_back(n);
                    }
            parts.push_back(std::move(part));
        }
        return parts;
    }

    const Primitive& mesh_;
    Welded welded_;
    UnwrapOptions options_;
    Unwrapping out_;
};

} // namespace

float Unwrapping::stretch() const {
    float most = 1;
    for (const Chart& c : charts)
        most = std::max(most, c.stretch);
    return most;
}

Unwrapping unwrap(const Primitive& mesh, const UnwrapOptions& options) {
    return Flattening(mesh, options).run();
}

} // namespace mirolux
