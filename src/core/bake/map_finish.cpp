#include "core/bake/map_finish.h"
#include "core/base/parallel.h"
#include "core/light/luminance.h"
#include <Eigen/SparseCholesky>
#include <algorithm>
#include <cmath>
#include <cstring>
#include <map>

namespace mirolux {

namespace {

glm::vec3 rgb(const FloatImage& image, std::size_t texel) {
    const float* p = image.data.data() + texel * static_cast<std::size_t>(image.channels);
    return {p[0], p[1], p[2]};
}

/// The four texels of a lookup between them, and their shares.
struct Lookup {
    std::size_t texel[4]; // y * width + x
    float share[4];
};
Lookup lookup(const glm::vec2& place, int width, int height) {
    const glm::vec2 at = place - 0.5f, low = glm::floor(at), f = at - low;
    Lookup out{};
    for (int k = 0; k < 4; ++k) {
        const int x = std::clamp(static_cast<int>(low.x) + k % 2, 0, width - 1),
                  y = std::clamp(static_cast<int>(low.y) + k / 2, 0, height - 1);
        out.texel[k] = static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x);
        out.share[k] = (k % 2 ? f.x : 1 - f.x) * (k / 2 ? f.y : 1 - f.y);
    }
    return out;
}

/// Both lookups of places along a seam, half a texel apart at most.
std::vector<std::pair<Lookup, Lookup>> along(const Seam& s, const glm::vec2& from, int width, int height) {
    const float texels = std::max(glm::distance(s.a[0], s.a[1]), glm::distance(s.b[0], s.b[1]));
    const int steps = std::max(2, static_cast<int>(std::ceil(2 * texels)) + 1);
    std::vector<std::pair<Lookup, Lookup>> out;
    for (int i = 0; i < steps; ++i) {
        const float t = static_cast<float>(i) / static_cast<float>(steps - 1);
        out.emplace_back(lookup(from + glm::mix(s.a[0], s.a[1], t), width, height),
                         lookup(from + glm::mix(s.b[0], s.b[1], t), width, height));
    }
    return out;
}

constexpr double held = 1e-4; // how much a texel stays as it is, for how much a seam's places agree

/// Of one mesh: texels that its seams' lookups touch, and what makes them agree.
struct Stitching {
    std::vector<Seam> seams;
    std::vector<std::size_t> texels; // of its rectangle, y * width + x
    Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> solver;
};

std::unique_ptr<Stitching> stitching_of(const MappedMesh& m) {
    auto out = std::make_unique<Stitching>();
    out->seams = seams_of(m);
    if (out->seams.empty()) return out;
    std::map<std::size_t, int> number;
    const auto of = [&](std::size_t texel) {
        const auto [it, fresh] = number.emplace(texel, static_cast<int>(out->texels.size()));
        if (fresh) out->texels.push_back(texel);
        return it->second;
    };
    std::vector<Eigen::Triplet<double>> entries;
    for (const Seam& s : out->seams)
        for (const auto& [a, b] : along(s, glm::vec2(0.0f), m.width, m.height)) {
            int unknown[8];
            double share[8];
            for (int k = 0; k < 4; ++k) {
                unknown[k] = of(a.texel[k]);
                share[k] = double(a.share[k]);
                unknown[4 + k] = of(b.texel[k]);
                share[4 + k] = -double(b.share[k]);
            }
            for (int i = 0; i < 8; ++i)
                for (int j = 0; j < 8; ++j)
                    if (share[i] != 0 && share[j] != 0)
                        entries.emplace_back(unknown[i], unknown[j], share[i] * share[j]);
        }
    const auto count = static_cast<Eigen::Index>(out->texels.size());
    for (int i = 0; i < static_cast<int>(count); ++i)
        entries.emplace_back(i, i, held);
    Eigen::SparseMatrix<double> matrix(count, count);
    matrix.setFromTriplets(entries.begin(), entries.end());
    out->solver.compute(matrix);
    return out;
}

} // namespace

std::vector<Seam> seams_of(const MappedMesh& m) {
    using Corner = std::array<float, 6>; // position and normal
    const auto corner = [&](std::uint32_t v) {
        const Vertex& x = m.mesh.vertices[v];
        return Corner{x.position.x, x.position.y, x.position.z, x.normal.x, x.normal.y, x.normal.z};
    };
    struct Side {
        std::uint32_t chart, from, to;
    };
    std::map<std::pair<Corner, Corner>, std::vector<Side>> edges;
    for (std::size_t i = 0; i < m.mesh.indices.size(); ++i) {
        const std::size_t t = i / 3;
        if (m.flat.chartOf[t] == Unwrapping::none) continue;
        std::uint32_t a = m.mesh.indices[i], b = m.mesh.indices[3 * t + (i + 1) % 3];
        Corner ca = corner(a), cb = corner(b);
        if (cb < ca) {
            std::swap(a, b);
            std::swap(ca, cb);
        }
        edges[{ca, cb}].push_back({m.flat.chartOf[t], a, b});
    }
    std::vector<Seam> out;
    for (const auto& [key, sides] : edges)
        for (std::size_t k = 1; k < sides.size(); ++k)
            if (sides[k].chart != sides[0].chart)
                out.push_back({{m.places[sides[0].from], m.places[sides[0].to]},
                               {m.places[sides[k].from], m.places[sides[k].to]}});
    return out;
}

void stitch(FloatImage& light, const LightMapLayout& layout) {
    std::vector<std::vector<const LightMapLayout::Place*>> places(layout.meshes.size());
    for (const LightMapLayout::Place& p : layout.places)
        places[static_cast<std::size_t>(p.mesh)].push_back(&p);
    const auto width = static_cast<std::size_t>(light.width), channels = static_cast<std::size_t>(light.channels);
    parallel_for(0, static_cast<int>(layout.meshes.size()), [&](int i) {
        const auto which = static_cast<std::size_t>(i);
        if (places[which].empty()) return;
        const MappedMesh& m = layout.meshes[which];
        const auto s = stitching_of(m);
        if (s->seams.empty() || s->solver.info() != Eigen::Success) return;
        for (const LightMapLayout::Place* p : places[which])
            for (std::size_t c = 0; c < 3; ++c) {
                const auto at = [&](std::size_t texel) -> float& {
                    const std::size_t x = texel % static_cast<std::size_t>(m.width) + static_cast<std::size_t>(p->x),
                                      y = texel / static_cast<std::size_t>(m.width) + static_cast<std::size_t>(p->y);
                    return light.data[channels * (y * width + x) + c];
                };
                Eigen::VectorXd wanted(static_cast<Eigen::Index>(s->texels.size()));
                for (std::size_t k = 0; k < s->texels.size(); ++k)
                    wanted[static_cast<Eigen::Index>(k)] = held * double(at(s->texels[k]));
                const Eigen::VectorXd found = s->solver.solve(wanted);
                for (std::size_t k = 0; k < s->texels.size(); ++k)
                    at(s->texels[k]) = std::max(0.0f, static_cast<float>(found[static_cast<Eigen::Index>(k)]));
            }
    });
}

SeamStep seam_step(const FloatImage& light, const LightMapLayout& layout) {
    std::map<int, std::vector<Seam>> seams;
    SeamStep out;
    double lightThere = 0;
    for (const LightMapLayout::Place& p : layout.places) {
        auto it = seams.find(p.mesh);
        if (it == seams.end())
            it = seams.emplace(p.mesh, seams_of(layout.meshes[static_cast<std::size_t>(p.mesh)])).first;
        for (const Seam& s : it->second)
            for (const auto& [a, b] : along(s, glm::vec2(p.x, p.y), light.width, light.height)) {
                glm::dvec3 x(0.0), y(0.0);
                for (int k = 0; k < 4; ++k) {
                    x += double(a.share[k]) * glm::dvec3(rgb(light, a.texel[k]));
                    y += double(b.share[k]) * glm::dvec3(rgb(light, b.texel[k]));
                }
                lightThere += 0.5 * (luminance(x) + luminance(y));
                out.mean += std::abs(luminance(x) - luminance(y));
                ++out.places;
            }
    }
    out.mean = lightThere > 0 ? out.mean / lightThere : 0;
    return out;
}

void denoise(LightOfMap& light, const LightMapLayout& layout, const std::vector<MapPoint>& points) {
    const std::size_t all = static_cast<std::size_t>(layout.width) * static_cast<std::size_t>(layout.height);
    std::vector<std::uint32_t> chart(all, 0), point(all, 0); // from 1; which chart of all places, which point
    for (std::size_t i = 0; i < points.size(); ++i)
        point[points[i].texel] = static_cast<std::uint32_t>(i + 1);
    std::uint32_t next = 0;
    for (const LightMapLayout::Place& p : layout.places)
        for (const MappedMesh::Area& a : layout.meshes[static_cast<std::size_t>(p.mesh)].areas) {
            ++next;
            for (int y = p.y + a.y; y < p.y + a.y + a.height; ++y)
                for (int x = p.x + a.x; x < p.x + a.x + a.width; ++x)
                    chart[static_cast<std::size_t>(y) * static_cast<std::size_t>(layout.width) +
                          static_cast<std::size_t>(x)] = next;
        }
    const auto known = [&](std::size_t t) { return point[t] != 0 && light.indirect.data[4 * t + 3] == 1.0f; };
    // Noise of each texel: how its neighbours' light differs from a plane through them.
    std::vector<float> noise(all, 0.0f);
    const auto bright = [&](std::size_t t) {
        return static_cast<float>(luminance(glm::dvec3(rgb(light.indirect, t))));
    };
    parallel_for(1, layout.height - 1, [&](int y) {
        for (int x = 1; x + 1 < layout.width; ++x) {
            const std::size_t t =
                static_cast<std::size_t>(y) * static_cast<std::size_t>(layout.width) + static_cast<std::size_t>(x);
            if (!known(t)) continue;
            float sum = 0;
            int pairs = 0;
            for (const std::size_t step : {std::size_t(1), static_cast<std::size_t>(layout.width)})
                if (known(t - step) && known(t + step) && chart[t - step] == chart[t] && chart[t + step] == chart[t]) {
                    const float d = 0.5f * (bright(t - step) + bright(t + step)) - bright(t);
                    sum += d * d / 1.5f;
                    ++pairs;
                }
            noise[t] = pairs ? sum / static_cast<float>(pairs) : bright(t) * bright(t);
        }
    });
    constexpr float kernel[3] = {3.0f / 8, 1.0f / 4, 1.0f / 16};
    for (int round = 0, step = 1; round < 5; ++round, step *= 2) {
        FloatImage out = light.indirect;
        std::vector<float> left = noise;
        parallel_for(0, layout.height, [&](int y) {
            for (int x = 0; x < layout.width; ++x) {
                const std::size_t t =
                    static_cast<std::size_t>(y) * static_cast<std::size_t>(layout.width) + static_cast<std::size_t>(x);
                if (!known(t)) continue;
                const SurfacePoint& here = points[point[t] - 1].point;
                // Its noise as those around it have it too, so that one lucky texel does not stay alone.
                float around = 0, shares = 0;
                for (int dy = -1; dy <= 1; ++dy)
                    for (int dx = -1; dx <= 1; ++dx) {
                        const int u = x + dx, v = y + dy;
                        if (u < 0 || v < 0 || u >= layout.width || v >= layout.height) continue;
                        const std::size_t s = static_cast<std::size_t>(v) * static_cast<std::size_t>(layout.width) +
                                              static_cast<std::size_t>(u);
                        if (!known(s) || chart[s] != chart[t]) continue;
                        around += noise[s];
                        shares += 1;
                    }
                const float spread = 3.0f * std::sqrt(around / std::max(shares, 1.0f)) + 1e-6f;
                glm::vec3 sum(0.0f);
                float weights = 0, variance = 0;
                const float own = bright(t);
                for (int dy = -2; dy <= 2; ++dy)
                    for (int dx = -2; dx <= 2; ++dx) {
                        const int u = x + dx * step, v = y + dy * step;
                        if (u < 0 || v < 0 || u >= layout.width || v >= layout.height) continue;
                        const std::size_t s = static_cast<std::size_t>(v) * static_cast<std::size_t>(layout.width) +
                                              static_cast<std::size_t>(u);
                        if (!known(s) || chart[s] != chart[t]) continue;
                        const SurfacePoint& there = points[point[s] - 1].point;
                        const float alike = std::max(0.0f, glm::dot(here.normal, there.normal));
                        const glm::vec3 way = there.position - here.position;
                        const float off = glm::dot(way, here.normal), far2 = glm::dot(way, way);
                        const float w = kernel[std::abs(dx)] * kernel[std::abs(dy)] * std::pow(alike, 64.0f) *
                                        std::exp(-off * off / (0.02f * far2 + 1e-6f)) *
                                        std::exp(-std::abs(bright(s) - own) / spread);
                        sum += w * rgb(light.indirect, s);
                        variance += w * w * noise[s];
                        weights += w;
                    }
                if (!(weights > 0)) continue;
                for (int c = 0; c < 3; ++c)
                    out.data[4 * t + static_cast<std::size_t>(c)] = sum[c] / weights;
                left[t] = variance / (weights * weights);
            }
        });
        light.indirect = std::move(out);
        noise = std::move(left);
    }
}

} // namespace mirolux
