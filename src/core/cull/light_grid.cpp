#include "core/cull/light_grid.h"
#include "core/base/parallel.h"
#include <algorithm>
#include <cmath>
#include <glm/gtc/constants.hpp>
#include <mutex>

namespace mirolux::cull {

std::vector<CullLight> view_lights(const std::vector<Light>& lights, const std::vector<float>& reach, int firstBounded,
                                   const Camera& camera) {
    const glm::mat4 view = view_matrix(camera);
    std::vector<CullLight> out;
    for (std::size_t i = static_cast<std::size_t>(firstBounded); i < lights.size(); ++i) {
        const Light& l = lights[i];
        CullLight c;
        c.position = glm::vec3(view * glm::vec4(l.position, 1));
        c.direction = glm::mat3(view) * l.direction;
        c.reach = reach[i];
        if (l.type == LightType::spot) {
            c.cosOuter = std::cos(l.outerConeAngle);
            c.sinOuter = std::sin(l.outerConeAngle);
        }
        const Sphere s = light_bounds(l, reach[i]);
        c.bounds = {glm::vec3(view * glm::vec4(s.center, 1)), s.radius};
        const glm::vec3 color = effective_color(l) * l.intensity;
        c.strength = std::max({color.r, color.g, color.b});
        out.push_back(c);
    }
    return out;
}

int slice_of(float depth, const GridSettings& s) {
    if (s.slices <= 1 || depth <= s.sliceNear) return 0;
    const float t =
        std::pow(std::log(depth / s.sliceNear) / std::log(s.sliceFar / s.sliceNear), 1.0f / s.sliceExponent);
    return std::clamp(static_cast<int>(t * static_cast<float>(s.slices)), 0, s.slices - 1);
}

std::pair<float, float> slice_range(int slice, const GridSettings& s, float cameraNear) {
    if (s.slices <= 1) return {cameraNear, 1e30f};
    auto edge = [&](int i) {
        return s.sliceNear * std::pow(s.sliceFar / s.sliceNear,
                                      std::pow(static_cast<float>(i) / static_cast<float>(s.slices), s.sliceExponent));
    };
    // A hair wider than the slice: float rounding of slice_of must not put a sample outside its own slice.
    return {slice == 0 ? cameraNear : edge(slice) * 0.9999f, slice == s.slices - 1 ? 1e30f : edge(slice + 1) * 1.0001f};
}

namespace {

struct Cell {
    float near = 0, far = 0;          // view depth, metres
    std::uint32_t mask = 0xFFFFFFFFu; // occupied 32nds of near..far
    bool empty = false;
    glm::vec3 low{0.0f}, high{0.0f}; // view-space box
    Sphere sphere;                   // around that box
    glm::vec3 planes[4];             // inward normals of the four sides, through the eye
};

constexpr float farthest = 1e6f; // metres that stand for infinity in boxes

struct Frame {
    float tx, ty; // half extents of the picture at depth 1
    int columns, rows;
};

Frame frame_of(const View& view, int tile) {
    const float ty = std::tan(0.5f * view.camera.fovY);
    return {ty * static_cast<float>(aspect_of(view)), ty, (view.width + tile - 1) / tile,
            (view.height + tile - 1) / tile};
}

/// Slopes (x/depth, y/depth) of the tile's edges; y up.
glm::vec4 slopes_of(const View& view, const Frame& f, int tile, int column, int row) {
    const auto x = [&](int p) {
        return (2.0f * static_cast<float>(std::min(p, view.width)) / static_cast<float>(view.width) - 1.0f) * f.tx;
    };
    const auto y = [&](int p) {
        return (1.0f - 2.0f * static_cast<float>(std::min(p, view.height)) / static_cast<float>(view.height)) * f.ty;
    };
    return {x(column * tile), x((column + 1) * tile), y((row + 1) * tile), y(row * tile)};
}

void shape(Cell& c, const glm::vec4& s) {
    const float far = std::min(c.far, farthest);
    c.low = {std::min(s.x * c.near, s.x * far), std::min(s.z * c.near, s.z * far), -far};
    c.high = {std::max(s.y * c.near, s.y * far), std::max(s.w * c.near, s.w * far), -c.near};
    c.sphere = {0.5f * (c.low + c.high), 0.5f * glm::length(c.high - c.low)};
    c.planes[0] = glm::normalize(glm::vec3(1, 0, s.x));
    c.planes[1] = glm::normalize(glm::vec3(-1, 0, -s.y));
    c.planes[2] = glm::normalize(glm::vec3(0, 1, s.z));
    c.planes[3] = glm::normalize(glm::vec3(0, -1, -s.w));
}

bool sphere_planes(const Cell& c, const Sphere& s) {
    for (const glm::vec3& n : c.planes)
        if (glm::dot(n, s.center) < -s.radius) return false;
    return -s.center.z + s.radius >= c.near && -s.center.z - s.radius <= c.far;
}

bool sphere_box(const Cell& c, const Sphere& s) {
    const glm::vec3 d = s.center - glm::clamp(s.center, c.low, c.high);
    return glm::dot(d, d) <= s.radius * s.radius;
}

/// Cone against the sphere around the cell's box (B. Wronski, Cull that cone, 2017).
bool cone_sphere(const CullLight& l, const Sphere& s) {
    const glm::vec3 v = s.center - l.position;
    const float along = glm::dot(v, l.direction), across = std::sqrt(std::max(0.0f, glm::dot(v, v) - along * along));
    const float slack = 1e-4f * (s.radius + glm::length(v)) + 1e-5f;
    return l.cosOuter * across - l.sinOuter * along <= s.radius + slack && along >= -s.radius - slack &&
           along <= s.radius + l.reach + slack;
}

/// Which of the cell's 32 depth steps the light's bounds touch.
std::uint32_t light_mask(const Cell& c, const Sphere& s) {
    const float scale = 32.0f / std::max(c.far - c.near, 1e-6f);
    const int a = std::clamp(static_cast<int>(std::floor((-s.center.z - s.radius - c.near) * scale)), 0, 31),
              b = std::clamp(static_cast<int>(std::floor((-s.center.z + s.radius - c.near) * scale)), 0, 31);
    return (0xFFFFFFFFu << a) & (0xFFFFFFFFu >> (31 - b));
}

bool passes(const CullLight& l, const Cell& c, const GridSettings& s, bool masked) {
    if (!(s.test == TileTest::spherePlanes ? sphere_planes(c, l.bounds) : sphere_box(c, l.bounds))) return false;
    if (s.coneTest && l.cosOuter > -1.0f && !cone_sphere(l, c.sphere)) return false;
    return !masked || (light_mask(c, l.bounds) & c.mask) != 0;
}

/// Samples of a tile, sorted into its slices: depth bounds and occupancy.
void bounds_from_samples(std::vector<Cell>& cells, const DepthPicture& depth, const GridSettings& s, int column,
                         int row) {
    for (Cell& c : cells) {
        c.near = 3.4e38f;
        c.far = 0;
        c.mask = 0;
    }
    const int x1 = std::min((column + 1) * s.tile, depth.width), y1 = std::min((row + 1) * s.tile, depth.height);
    for (int pass = 0; pass < 2; ++pass)
        for (int y = row * s.tile; y < y1; ++y)
            for (int x = column * s.tile; x < x1; ++x) {
                const float d = depth.metres[std::size_t(y) * depth.width + x];
                if (d <= 0) continue;
                Cell& c = cells[static_cast<std::size_t>(slice_of(d, s))];
                if (pass == 0) {
                    c.near = std::min(c.near, d);
                    c.far = std::max(c.far, d);
                } else {
                    const int bit =
                        std::clamp(static_cast<int>((d - c.near) * 32.0f / std::max(c.far - c.near, 1e-6f)), 0, 31);
                    c.mask |= 1u << bit;
                }
            }
    for (Cell& c : cells)
        c.empty = c.far == 0;
}

/// Rank on overflow: irradiance that the light could give at the nearest point of the cell.
float contribution(const CullLight& l, const Cell& c) {
    const glm::vec3 d = l.position - glm::clamp(l.position, c.low, c.high);
    return l.strength / std::max(glm::dot(d, d), 0.01f);
}

LightGrid assemble(std::vector<std::vector<std::uint32_t>>& lists, const Frame& f, const GridSettings& s) {
    LightGrid g;
    g.columns = f.columns;
    g.rows = f.rows;
    g.slices = s.slices;
    g.tile = s.tile;
    g.offsets.resize(lists.size() + 1, 0);
    for (std::size_t i = 0; i < lists.size(); ++i)
        g.offsets[i + 1] = g.offsets[i] + static_cast<std::uint32_t>(lists[i].size());
    g.indices.resize(g.offsets.back());
    for (std::size_t i = 0; i < lists.size(); ++i)
        std::copy(lists[i].begin(), lists[i].end(), g.indices.begin() + g.offsets[i]);
    return g;
}

} // namespace

namespace {

/// How the cells of a tile are bounded, for one kind of lists.
using BoundTile = void (*)(std::vector<Cell>&, const View&, const DepthPicture&, const GridSettings&, int column,
                           int row);

void bound_opaque(std::vector<Cell>& cells, const View& view, const DepthPicture& depth, const GridSettings& s,
                  int column, int row) {
    if (s.depthBounds != DepthBounds::off) return bounds_from_samples(cells, depth, s, column, row);
    for (int k = 0; k < s.slices; ++k) {
        Cell& c = cells[static_cast<std::size_t>(k)];
        std::tie(c.near, c.far) = slice_range(k, s, view.camera.near);
        c.mask = 0xFFFFFFFFu;
        c.empty = false;
    }
}

void bound_transparent(std::vector<Cell>& cells, const View& view, const DepthPicture& depth, const GridSettings& s,
                       int column, int row) {
    float far = s.depthBounds == DepthBounds::off ? 1e30f : 0.0f;
    for (int y = row * s.tile; y < std::min((row + 1) * s.tile, depth.height); ++y)
        for (int x = column * s.tile; x < std::min((column + 1) * s.tile, depth.width); ++x) {
            const float d = depth.metres[std::size_t(y) * depth.width + x];
            far = std::max(far, d > 0 ? d : 1e30f);
        }
    for (int k = 0; k < s.slices; ++k) {
        Cell& c = cells[static_cast<std::size_t>(k)];
        std::tie(c.near, c.far) = slice_range(k, s, view.camera.near);
        c.mask = 0xFFFFFFFFu;
        c.empty = c.near > far * 1.0001f;
        c.far = std::min(c.far, far * 1.0001f);
    }
}

LightGrid cull(const std::vector<CullLight>& lights, std::uint32_t firstIndex, const View& view,
               const DepthPicture& depth, const GridSettings& s, BoundTile bound) {
    const Frame f = frame_of(view, s.tile);
    const std::size_t tiles = std::size_t(f.columns) * f.rows;
    std::vector<std::vector<std::uint32_t>> lists(tiles * s.slices);
    std::mutex mutex;
    std::uint64_t overflow = 0;
    int overflowCells = 0;
    const bool masked = s.depthBounds == DepthBounds::mask && bound == bound_opaque;
    parallel_for(0, f.rows, [&](int row) {
        // Lights that miss the whole row of tiles are put aside once for all of its tiles.
        std::vector<std::uint32_t> inRow;
        const glm::vec4 edge = slopes_of(view, f, s.tile, 0, row);
        const glm::vec3 below = glm::normalize(glm::vec3(0, 1, edge.z)),
                        above = glm::normalize(glm::vec3(0, -1, -edge.w));
        for (std::uint32_t l = 0; l < lights.size(); ++l)
            if (glm::dot(below, lights[l].bounds.center) >= -lights[l].bounds.radius * 1.0001f &&
                glm::dot(above, lights[l].bounds.center) >= -lights[l].bounds.radius * 1.0001f)
                inRow.push_back(l);
        std::vector<Cell> cells(static_cast<std::size_t>(s.slices));
        std::vector<std::uint32_t> inTile;
        for (int column = 0; column < f.columns; ++column) {
            const glm::vec4 slopes = slopes_of(view, f, s.tile, column, row);
            bound(cells, view, depth, s, column, row);
            const glm::vec3 left = glm::normalize(glm::vec3(1, 0, slopes.x)),
                            right = glm::normalize(glm::vec3(-1, 0, -slopes.y));
            inTile.clear();
            for (const std::uint32_t l : inRow)
                if (glm::dot(left, lights[l].bounds.center) >= -lights[l].bounds.radius * 1.0001f &&
                    glm::dot(right, lights[l].bounds.center) >= -lights[l].bounds.radius * 1.0001f)
                    inTile.push_back(l);
            for (int k = 0; k < s.slices; ++k) {
                Cell& c = cells[static_cast<std::size_t>(k)];
                if (c.empty) continue;
                shape(c, slopes);
                auto& list = lists[(std::size_t(k) * f.rows + row) * f.columns + column];
                for (const std::uint32_t l : inTile)
                    if (passes(lights[l], c, s, masked)) list.push_back(l + firstIndex);
                if (list.size() > static_cast<std::size_t>(s.capacity)) {
                    std::stable_sort(list.begin(), list.end(), [&](std::uint32_t a, std::uint32_t b) {
                        return contribution(lights[a - firstIndex], c) > contribution(lights[b - firstIndex], c);
                    });
                    const std::lock_guard lock(mutex);
                    overflow += list.size() - static_cast<std::size_t>(s.capacity);
                    ++overflowCells;
                    list.resize(static_cast<std::size_t>(s.capacity));
                    std::sort(list.begin(), list.end());
                }
            }
        }
    });
    LightGrid g = assemble(lists, f, s);
    g.overflow = overflow;
    g.overflowCells = overflowCells;
    return g;
}

} // namespace

LightGrid cull_lights(const std::vector<CullLight>& lights, std::uint32_t firstIndex, const View& view,
                      const DepthPicture& depth, const GridSettings& s) {
    return cull(lights, firstIndex, view, depth, s, bound_opaque);
}

LightGrid cull_transparent(const std::vector<CullLight>& lights, std::uint32_t firstIndex, const View& view,
                           const DepthPicture& depth, const GridSettings& s) {
    return cull(lights, firstIndex, view, depth, s, bound_transparent);
}

std::vector<CellBounds> cell_bounds(const View&, const DepthPicture& depth, const GridSettings& s, int column,
                                    int row) {
    std::vector<Cell> cells(static_cast<std::size_t>(s.slices));
    bounds_from_samples(cells, depth, s, column, row);
    std::vector<CellBounds> out;
    for (const Cell& c : cells)
        out.push_back(c.empty ? CellBounds{} : CellBounds{c.near, c.far, c.mask});
    return out;
}

std::array<glm::vec3, 8> cell_corners(const View& view, const GridSettings& s, int column, int row, float near,
                                      float far) {
    const glm::vec4 e = slopes_of(view, frame_of(view, s.tile), s.tile, column, row);
    std::array<glm::vec3, 8> out;
    for (int i = 0; i < 8; ++i) {
        const float d = i < 4 ? near : far;
        const int k = i % 4;
        out[static_cast<std::size_t>(i)] = {(k == 0 || k == 3 ? e.x : e.y) * d, (k < 2 ? e.z : e.w) * d, -d};
    }
    return out;
}

LightGrid exact_lists(const std::vector<CullLight>& lights, std::uint32_t firstIndex, const View& view,
                      const DepthPicture& depth, const GridSettings& s) {
    const Frame f = frame_of(view, s.tile);
    const std::size_t tiles = std::size_t(f.columns) * f.rows;
    std::vector<std::vector<std::uint32_t>> lists(tiles * s.slices);
    parallel_for(0, f.rows, [&](int row) {
        std::vector<std::vector<glm::vec3>> samples(static_cast<std::size_t>(s.slices));
        for (int column = 0; column < f.columns; ++column) {
            for (auto& list : samples)
                list.clear();
            for (int y = row * s.tile; y < std::min((row + 1) * s.tile, view.height); ++y)
                for (int x = column * s.tile; x < std::min((column + 1) * s.tile, view.width); ++x) {
                    const float d = depth.metres[std::size_t(y) * depth.width + x];
                    if (d <= 0) continue;
                    const float nx = (2.0f * (static_cast<float>(x) + 0.5f) / static_cast<float>(view.width) - 1.0f) *
                                     f.tx,
                                ny = (1.0f - 2.0f * (static_cast<float>(y) + 0.5f) / static_cast<float>(view.height)) *
                                     f.ty;
                    samples[static_cast<std::size_t>(slice_of(d, s))].push_back({nx * d, ny * d, -d});
                }
            for (int k = 0; k < s.slices; ++k) {
                auto& list = lists[(std::size_t(k) * f.rows + row) * f.columns + column];
                for (std::uint32_t l = 0; l < lights.size(); ++l)
                    for (const glm::vec3& p : samples[static_cast<std::size_t>(k)]) {
                        const glm::vec3 v = p - lights[l].position;
                        const float d2 = glm::dot(v, v);
                        if (d2 > lights[l].reach * lights[l].reach) continue;
                        if (lights[l].cosOuter > -1.0f &&
                            glm::dot(v, lights[l].direction) <= lights[l].cosOuter * std::sqrt(d2))
                            continue;
                        list.push_back(l + firstIndex);
                        break;
                    }
            }
        }
    });
    return assemble(lists, f, s);
}

Audit audit(const LightGrid& grid, const LightGrid& exact) {
    Audit a;
    a.overflow = grid.overflow;
    std::vector<int> lengths;
    std::int64_t worst = -1;
    std::uint64_t unlisted = 0;
    for (std::size_t c = 0; c < grid.cells(); ++c) {
        const auto *g0 = grid.indices.data() + grid.offsets[c], *g1 = grid.indices.data() + grid.offsets[c + 1];
        const auto *e0 = exact.indices.data() + exact.offsets[c], *e1 = exact.indices.data() + exact.offsets[c + 1];
        std::int64_t missing = 0;
        for (const auto* e = e0; e != e1; ++e)
            if (!std::binary_search(g0, g1, *e)) ++missing;
        a.listed += static_cast<std::uint64_t>(g1 - g0);
        a.needed += static_cast<std::uint64_t>(e1 - e0);
        unlisted += static_cast<std::uint64_t>(missing);
        if (g1 != g0) lengths.push_back(static_cast<int>(g1 - g0));
        const std::int64_t badness = missing * 1000000 + (g1 - g0) - (e1 - e0);
        if (badness > worst) {
            worst = badness;
            a.worstCell = static_cast<int>(c);
        }
    }
    // What a full list had to leave out is said as overflow, not as a mistake of the test.
    a.missed = unlisted > grid.overflow ? unlisted - grid.overflow : 0;
    a.surplus = a.needed ? double(a.listed) / double(a.needed) - 1.0 : 0.0;
    if (!lengths.empty()) {
        std::sort(lengths.begin(), lengths.end());
        double sum = 0;
        for (const int n : lengths)
            sum += n;
        a.mean = sum / static_cast<double>(lengths.size());
        a.p95 = lengths[(lengths.size() - 1) * 95 / 100];
        a.max = lengths.back();
    }
    return a;
}

} // namespace mirolux::cull
