#include "core/blocks/lamp_audit.h"
#include "core/base/parallel.h"
#include "core/blocks/grid_walk.h"
#include "core/light/luminance.h"
#include "core/plan/camera_motion.h"
#include <algorithm>
#include <chrono>

namespace mirolux::blocks {

std::vector<Lamp> lamps_of(const World& world) {
    std::vector<Lamp> out;
    const Volume& cells = world.still;
    for (std::size_t i = 0; i < cells.chunk_count(); ++i) {
        if (!cells.cells_of(i) && !world.material(cells.all_of(i)).shines()) continue;
        const glm::ivec3 low = cells.corner(i), high = glm::min(low + chunk_edge, cells.size());
        for (int y = low.y; y < high.y; ++y)
            for (int z = low.z; z < high.z; ++z)
                for (int x = low.x; x < high.x; ++x)
                    if (const std::uint8_t m = cells.at({x, y, z}); world.material(m).shines())
                        out.push_back({{x, y, z}, m});
    }
    std::sort(out.begin(), out.end(), [](const Lamp& a, const Lamp& b) {
        return std::tie(a.cell.x, a.cell.y, a.cell.z) < std::tie(b.cell.x, b.cell.y, b.cell.z);
    });
    return out;
}

namespace {

int strength(const Material& m) {
    return std::max({m.light.x, m.light.y, m.light.z});
}

/// Calls f(lamp, cells apart, level) for each lamp in reach and in sight of a cell.
template <class F>
void each_seen(const World& world, const std::vector<Lamp>& lamps, const FloodOptions& options, const glm::ivec3& cell,
               const F& f) {
    const auto open = [&](const glm::ivec3& c) { return !world.material(world.still.at(c)).stops_light(); };
    for (const Lamp& l : lamps) {
        const double apart = glm::length(glm::dvec3(l.cell - cell));
        const double level = strength(world.material(l.material)) - options.loss * apart;
        if (level > 0 && sees(cell, l.cell, open)) f(l, apart, level);
    }
}

double degrees(const glm::dvec3& a, const glm::dvec3& b) {
    const double lengths = glm::length(a) * glm::length(b);
    if (lengths <= 0) return 90; // as much from one side as from the other
    return glm::degrees(std::acos(std::clamp(glm::dot(a, b) / lengths, -1.0, 1.0)));
}

glm::dvec3 way(const Origin& o) {
    return {o.via[0], o.via[1], o.via[2]};
}

void ask_cells(const BlockLight& light, const std::vector<Lamp>& lamps, const FloodOptions& options, int most,
               DirectionAudit& out) {
    const World& world = light.world();
    const OriginFlood& origins = *light.origins();
    std::vector<glm::ivec3> cells;
    for (std::size_t i = 0; i < world.still.chunk_count(); ++i) {
        if (!origins.cells_of(i)) continue;
        const glm::ivec3 low = world.still.corner(i), high = glm::min(low + chunk_edge, world.still.size());
        for (int y = low.y; y < high.y; ++y)
            for (int z = low.z; z < high.z; ++z)
                for (int x = low.x; x < high.x; ++x) {
                    const glm::ivec3 c(x, y, z);
                    if (origins.at(c).level == 0 || way(origins.at(c)) == glm::dvec3(0.0) ||
                        world.material(world.still.at(c)).stops_light())
                        continue;
                    if (std::any_of(std::begin(Neighbours::directions), std::end(Neighbours::directions),
                                    [&](const glm::ivec3& d) {
                                        return world.still.at(c + d) != 0 &&
                                               world.material(world.still.at(c + d)).stops_light();
                                    }))
                        cells.push_back(c);
                }
    }
    const std::size_t every = std::max<std::size_t>(1, cells.size() / static_cast<std::size_t>(std::max(most, 1)));
    const auto asked = static_cast<int>((cells.size() + every - 1) / every);
    std::vector<double> one(static_cast<std::size_t>(asked), -1.0), two = one;
    parallel_for(0, asked, [&](int i) {
        const glm::ivec3 c = cells[static_cast<std::size_t>(i) * every];
        const LampLight truly = lamp_light(light, lamps, options, c);
        if (truly.lamps == 0) return;
        const Origin first = origins.at(c), second = origins.second_at(c);
        one[static_cast<std::size_t>(i)] = degrees(way(first), truly.to);
        if (!origins.keeps_second()) return;
        glm::dvec3 both = glm::normalize(way(first)) * light.lux_of(first.level);
        if (second.level > 0 && way(second) != glm::dvec3(0.0))
            both += glm::normalize(way(second)) * light.lux_of(second.level);
        two[static_cast<std::size_t>(i)] = degrees(both, truly.to);
    });
    const auto of = [](std::vector<double> all, double& mean, double& p95) {
        std::erase_if(all, [](double v) { return v < 0; });
        if (all.empty()) return;
        std::sort(all.begin(), all.end());
        for (const double v : all)
            mean += v / static_cast<double>(all.size());
        p95 = all[all.size() * 95 / 100];
    };
    out.cells = static_cast<std::uint64_t>(std::count_if(one.begin(), one.end(), [](double v) { return v >= 0; }));
    out.hidden = static_cast<std::uint64_t>(asked) - out.cells;
    of(one, out.one, out.oneP95);
    of(two, out.two, out.twoP95);
}

/// Where a pixel's ray meets the still world.
std::optional<FacePoint> met(const CellTree& tree, const World& world, const View& view, int x, int y) {
    const Ray ray = ray_through(view, x + 0.5, y + 0.5);
    const glm::dvec3 from = glm::dvec3(ray.origin) / double(world.edge), d(ray.direction);
    const TreeHit hit = trace(tree, from, d, 4096);
    if (hit.material == 0) return std::nullopt;
    return FacePoint{(from + d * hit.distance) * double(world.edge), 0, hit.face, hit.material};
}

} // namespace

LampLight lamp_light(const BlockLight& light, const std::vector<Lamp>& lamps, const FloodOptions& options,
                     const glm::ivec3& cell) {
    LampLight out;
    each_seen(light.world(), lamps, options, cell, [&](const Lamp& l, double apart, double level) {
        const double lux = light.lux_of(level);
        if (apart > 0) out.to += glm::dvec3(l.cell - cell) / apart * lux;
        out.lux += lux;
        ++out.lamps;
    });
    const double length = glm::length(out.to);
    out.to = length > 0 ? out.to / length : glm::dvec3(0.0);
    if (length == 0) out.lamps = 0;
    return out;
}

DirectionAudit audit_directions(const Scene& scene, const Setup& setup, const View& view, int most) {
    DirectionAudit out;
    const BlockLight light(scene, setup, view);
    const World& world = light.world();
    const FloodOptions options = flood_options(setup);
    const std::vector<Lamp> lamps = lamps_of(world);
    ask_cells(light, lamps, options, most, out);
    const CellTree& tree = trees(scene.blocks)->front();
    const std::size_t floats = std::size_t(3) * std::size_t(view.width) * std::size_t(view.height);
    out.is = out.truly = FloatImage{view.width, view.height, 3, std::vector<float>(floats)};
    std::atomic<int> seen = 0;
    const auto put = [&](FloatImage& image, int x, int y, const glm::dvec3& v) {
        for (int c = 0; c < 3; ++c)
            image.data[std::size_t(3) * (std::size_t(y) * std::size_t(view.width) + std::size_t(x)) + std::size_t(c)] =
                static_cast<float>(v[c]);
    };
    parallel_for(0, view.height, [&](int y) {
        for (int x = 0; x < view.width; ++x)
            if (const auto p = met(tree, world, view, x, y)) {
                put(out.is, x, y, light.at(*p).mirrored);
                ++seen;
            }
    });
    out.seen = seen;
    const auto start = std::chrono::steady_clock::now();
    parallel_for(0, view.height, [&](int y) {
        for (int x = 0; x < view.width; ++x) {
            const auto p = met(tree, world, view, x, y);
            if (!p) continue;
            glm::dvec3 sum(0.0);
            each_seen(world, lamps, options, light.before(*p), [&](const Lamp& l, double, double level) {
                const glm::dvec3 to = (glm::dvec3(l.cell) + 0.5) * double(world.edge) - p->position;
                const Material& m = world.material(l.material);
                sum += light.mirrored(*p, glm::normalize(to),
                                      glm::dvec3(m.light) / double(strength(m)) * light.lux_of(level));
            });
            put(out.truly, x, y, sum);
        }
    });
    out.ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    double is = 0, truly = 0, apart = 0;
    for (std::size_t i = 0; i < floats; i += 3) {
        const auto l = [i](const FloatImage& f) {
            return luminance(glm::dvec3(f.data[i], f.data[i + 1], f.data[i + 2]));
        };
        is += l(out.is);
        truly += l(out.truly);
        apart += std::abs(l(out.is) - l(out.truly));
    }
    if (truly > 0) {
        out.meanApart = apart / truly;
        out.bias = (is - truly) / truly;
    }
    return out;
}

CastHits cast_plainly(const Bits& bits, const glm::ivec3& cell, const glm::dvec3& toSun, const CastOptions& o) {
    const glm::dvec3 from = glm::dvec3(cell) + 0.5;
    const auto along = [&](const glm::dvec3& d) {
        int hits = 0;
        for (int y = -o.reach - 1; y <= o.reach + 1; ++y)
            for (int z = -o.reach - 1; z <= o.reach + 1; ++z)
                for (int x = -o.reach - 1; x <= o.reach + 1; ++x) {
                    const glm::ivec3 c = cell + glm::ivec3(x, y, z);
                    if (c == cell || !bits.at(c)) continue;
                    double in = -1e300, out = 1e300;
                    for (int a = 0; a < 3; ++a) {
                        const double p = (c[a] - from[a]) / d[a], q = (c[a] + 1 - from[a]) / d[a];
                        in = std::max(in, std::min(p, q));
                        out = std::min(out, std::max(p, q));
                    }
                    hits += in < out && in > 0 && in < o.reach;
                }
        return static_cast<std::uint8_t>(std::min(hits, o.clamp));
    };
    return {along(toSun), along(-toSun)};
}

namespace {

CastHits hits_in(const CastField& field, const Volume& cells, const glm::ivec3& c) {
    const auto& chunk = field.chunks[cells.chunk_of(c)];
    return chunk ? (*chunk)[place_in_chunk(c.x, c.y, c.z)] : CastHits{};
}

/// Cells of a field that were cast, every n-th.
template <class F>
void each_cast(const Volume& cells, const Bits& bits, std::size_t every, const F& f) {
    std::size_t n = 0;
    for (int y = 0; y < cells.size().y; ++y)
        for (int z = 0; z < cells.size().z; ++z)
            for (int x = 0; x < cells.size().x; ++x) {
                const glm::ivec3 c(x, y, z);
                if (bits.at(c) && !std::all_of(std::begin(Neighbours::directions), std::end(Neighbours::directions),
                                               [&](const glm::ivec3& d) { return bits.at(c + d); }))
                    if (n++ % every == 0) f(c);
            }
}

class Watch {
public:
    double ms() const {
        return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start_).count();
    }

private:
    std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
};

} // namespace

CastAudit audit_casts(const Scene& scene, const Setup& setup, const View& view, int asked, int headings) {
    CastAudit out;
    const World& world = *scene.blocks;
    CastOptions o = cast_options(setup);
    o.headings = 0;
    const glm::dvec3 toSun = sun_of(draw_list(scene, setup, view).lights).toward;
    Volume cells = world.still;
    const Watch whole;
    Bits bits(cells, world.palette);
    CastField field = cast_all(cells, bits, toSun, o);
    out.wholeMs = whole.ms();
    out.cells = field.cells();
    out.bytes = field.bytes();
    const auto every = std::max<std::size_t>(1, field.cells() / static_cast<std::size_t>(std::max(asked, 1)));
    const auto hold = [&](const CastField& is, const Volume& of, const Bits& its, const glm::dvec3& direction,
                          std::size_t step) {
        each_cast(of, its, step, [&](const glm::ivec3& c) {
            ++out.asked;
            out.wrong += !(hits_in(is, of, c) == cast_plainly(its, c, direction, o));
        });
    };
    hold(field, cells, bits, toSun, every);
    // Cells that are put and taken away, where there is ground.
    constexpr int edits = 24;
    std::vector<glm::ivec3> places;
    each_cast(cells, bits, std::max<std::size_t>(1, field.cells() / edits),
              [&](const glm::ivec3& c) { places.push_back(c); });
    const Watch changes;
    for (const glm::ivec3& c : places) {
        cells.set(c, 0);
        bits = Bits(cells, world.palette);
        field = cast_again(field, cells, bits, toSun, o, c, c + 1);
    }
    if (!places.empty()) out.editMs = changes.ms() / double(places.size());
    hold(field, cells, bits, toSun, every);
    if (world.props.empty()) return out;
    constexpr int turns = 24;
    double apart = 0, worldFrame = 0;
    std::size_t compared = 0;
    for (const Prop& p : world.props) {
        const Bits its(p.cells, world.palette);
        std::vector<CastField> baked;
        const Watch baking;
        for (int k = 0; k < headings; ++k) {
            baked.push_back(cast_all(p.cells, its, into_prop(toSun, 2 * 3.14159265358979 * k / headings), o));
            out.headingsBytes += baked.back().bytes();
        }
        out.headingsMs += baking.ms();
        const CastField byWorld = cast_all(p.cells, its, toSun, o);
        for (int k = 0; k < turns; ++k) {
            const double turn = 0.01 + 2 * 3.14159265358979 * k / turns;
            const Watch watch;
            const CastField is = cast_all(p.cells, its, into_prop(toSun, turn), o);
            out.propMs += watch.ms() / turns;
            if (k == 0) {
                out.ofProps += is.cells();
                out.bytes += is.bytes();
            }
            hold(is, p.cells, its, into_prop(toSun, turn), std::max<std::size_t>(1, is.cells() / 40));
            const CastField* nearest =
                headings > 0 ? &baked[static_cast<std::size_t>(std::lround(nearest_heading(turn, headings) * headings /
                                                                           (2 * 3.14159265358979))) %
                                      baked.size()]
                             : nullptr;
            each_cast(p.cells, its, 1, [&](const glm::ivec3& c) {
                const int hits = hits_in(is, p.cells, c).toward;
                worldFrame += std::abs(hits - int(hits_in(byWorld, p.cells, c).toward));
                if (nearest) apart += std::abs(hits - int(hits_in(*nearest, p.cells, c).toward));
                ++compared;
            });
        }
    }
    out.headings = headings;
    out.headingsApart = apart / double(std::max<std::size_t>(compared, 1));
    out.worldFrame = worldFrame / double(std::max<std::size_t>(compared, 1));
    return out;
}

} // namespace mirolux::blocks
