#include "core/blocks/lit_world.h"
#include "core/base/parallel.h"
#include <chrono>
#include <mutex>

namespace mirolux::blocks {

std::vector<Flood::Edit> edits_between(const Volume& a, const Volume& b) {
    std::vector<Flood::Edit> out;
    for (std::size_t chunk = 0; chunk < a.chunk_count(); ++chunk) {
        if (a.cells_of(chunk) == b.cells_of(chunk) && (a.cells_of(chunk) || a.all_of(chunk) == b.all_of(chunk)))
            continue;
        const glm::ivec3 low = a.corner(chunk), high = glm::min(low + chunk_edge, a.size());
        for (int y = low.y; y < high.y; ++y)
            for (int z = low.z; z < high.z; ++z)
                for (int x = low.x; x < high.x; ++x)
                    if (const std::uint8_t m = b.at({x, y, z}); m != a.at({x, y, z})) out.push_back({{x, y, z}, m});
    }
    return out;
}

namespace {

constexpr std::size_t most_edits = 20000; // beyond, all is made anew

/// The last few values made for worlds, by what else they depend on.
template <class Options, class Value>
class KeptFor {
public:
    using Made = std::shared_ptr<const Value>;
    /// make(last world or null, its value or null).
    template <class Make>
    Made of(const WorldPtr& world, const Options& options, const Make& make) {
        const std::lock_guard lock(mutex_);
        const Entry* last = nullptr;
        for (const Entry& e : kept_) {
            if (!(e.options == options)) continue;
            if (e.world == world) return e.value;
            if (!last) last = &e;
        }
        Entry made{world, options, make(last ? last->world : nullptr, last ? last->value : nullptr)};
        enter(made);
        return made.value;
    }
    Made find(const WorldPtr& world, const Options& options) {
        const std::lock_guard lock(mutex_);
        for (const Entry& e : kept_)
            if (e.options == options && e.world == world) return e.value;
        return nullptr;
    }
    /// The newest that was made by these options.
    std::pair<WorldPtr, Made> newest(const Options& options) {
        const std::lock_guard lock(mutex_);
        for (const Entry& e : kept_)
            if (e.options == options) return {e.world, e.value};
        return {};
    }
    void keep(const WorldPtr& world, const Options& options, Made value) {
        const std::lock_guard lock(mutex_);
        enter({world, options, std::move(value)});
    }

private:
    static constexpr std::size_t most = 3;
    struct Entry {
        WorldPtr world;
        Options options;
        Made value;
    };
    void enter(Entry made) {
        kept_.insert(kept_.begin(), std::move(made));
        if (kept_.size() > most) kept_.pop_back();
    }
    std::mutex mutex_;
    std::vector<Entry> kept_; // the newest first
};

bool alike(const WorldPtr& a, const World& b) {
    return a && a->still.size() == b.still.size() && a->palette == b.palette;
}

MeshedWorld::Part mesh_part(const Volume& v, const std::vector<Material>& palette, const Volume* lastCells,
                            const MeshedWorld::Part* last) {
    const std::size_t count = v.chunk_count();
    std::vector<ChunkMesh> meshes(count);
    std::vector<bool> kept(count, false);
    const glm::ivec3 chunks = v.chunks();
    const auto same = [&](std::size_t i) {
        return v.cells_of(i) == lastCells->cells_of(i) && (v.cells_of(i) || v.all_of(i) == lastCells->all_of(i));
    };
    // Of a chunk beside, only the cells that touch matter.
    const auto touches_alike = [&](const glm::ivec3& beside, int direction) {
        const int axis = direction / 2;
        glm::ivec3 c = beside * chunk_edge;
        c[axis] += direction % 2 == 0 ? 0 : chunk_edge - 1;
        for (int a = 0; a < chunk_edge; ++a)
            for (int b = 0; b < chunk_edge; ++b) {
                glm::ivec3 at = c;
                at[(axis + 1) % 3] += a;
                at[(axis + 2) % 3] += b;
                if (v.at(at) != lastCells->at(at)) return false;
            }
        return true;
    };
    if (last)
        for (std::size_t i = 0; i < count; ++i) {
            const glm::ivec3 at = v.corner(i) / chunk_edge;
            kept[i] = same(i);
            for (int d = 0; d < Neighbours::count; ++d) {
                const glm::ivec3 n = at + Neighbours::directions[d];
                if (kept[i] && n.x >= 0 && n.y >= 0 && n.z >= 0 && n.x < chunks.x && n.y < chunks.y && n.z < chunks.z &&
                    !same(v.chunk_of(n * chunk_edge)))
                    kept[i] = touches_alike(n, d);
            }
        }
    parallel_for(0, static_cast<int>(count), [&](int i) {
        if (!kept[static_cast<std::size_t>(i)])
            meshes[static_cast<std::size_t>(i)] = mesh_chunk(v, palette, static_cast<std::size_t>(i));
    });
    MeshedWorld::Part out;
    out.size = v.size();
    out.quads.reserve(count);
    out.chunks.reserve(count);
    out.corners.reserve(count);
    std::uint32_t first = 0;
    for (std::size_t i = 0; i < count; ++i) {
        std::array<std::uint32_t, 7> counts{};
        if (kept[i]) {
            out.quads.push_back(last->quads[i]);
            for (std::size_t r = 0; r < 7; ++r)
                counts[r] = last->chunks[i][r].count;
        } else {
            for (const Quad& q : meshes[i].opaque) // they come by face
                ++counts[static_cast<std::size_t>(q.face())];
            counts[6] = static_cast<std::uint32_t>(meshes[i].clear.size());
            std::vector<Quad> all = std::move(meshes[i].opaque);
            all.insert(all.end(), meshes[i].clear.begin(), meshes[i].clear.end());
            out.quads.push_back(all.empty() ? nullptr : std::make_shared<const std::vector<Quad>>(std::move(all)));
        }
        std::array<MeshedWorld::Run, 7> runs;
        for (std::size_t r = 0; r < 7; ++r) {
            runs[r] = {first, counts[r]};
            first += counts[r];
        }
        out.chunks.push_back(runs);
        out.corners.push_back(v.corner(i));
    }
    return out;
}

struct CastKey {
    glm::dvec3 toSun{0.0};
    std::vector<double> turns;
    CastOptions options;
    bool operator==(const CastKey&) const = default;
};

} // namespace

std::vector<Quad> MeshedWorld::Part::all() const {
    std::vector<Quad> out;
    for (const auto& own : quads)
        if (own) out.insert(out.end(), own->begin(), own->end());
    return out;
}

std::shared_ptr<const MeshedWorld> meshed(const WorldPtr& world) {
    static KeptFor<int, MeshedWorld> kept;
    return kept.of(world, 0, [&](const WorldPtr& lastWorld, const std::shared_ptr<const MeshedWorld>& last) {
        auto out = std::make_shared<MeshedWorld>();
        const bool follows = alike(lastWorld, *world);
        out->still = mesh_part(world->still, world->palette, follows ? &lastWorld->still : nullptr,
                               follows ? &last->still : nullptr);
        if (follows && lastWorld->props == world->props)
            out->props = last->props;
        else
            for (const Prop& p : world->props)
                out->props.push_back(mesh_part(p.cells, world->palette, nullptr, nullptr));
        return std::shared_ptr<const MeshedWorld>(std::move(out));
    });
}

std::shared_ptr<const std::vector<CellTree>> trees(const WorldPtr& world) {
    using Trees = std::vector<CellTree>;
    static KeptFor<int, Trees> kept;
    return kept.of(world, 0, [&](const WorldPtr&, const std::shared_ptr<const Trees>&) {
        auto out = std::make_shared<Trees>();
        out->push_back(cell_tree(world->still, world->palette));
        for (const Prop& p : world->props)
            out->push_back(cell_tree(p.cells, world->palette));
        return std::shared_ptr<const Trees>(std::move(out));
    });
}

/// A flood of a kind, by the change of cells from the last world where that is small.
template <class F>
static KeptFor<FloodOptions, F>& kept_floods() {
    static KeptFor<FloodOptions, F> kept;
    return kept;
}
template <class F>
static std::shared_ptr<const F> flood_of(const WorldPtr& world, const FloodOptions& options) {
    return kept_floods<F>().of(world, options, [&](const WorldPtr& lastWorld, const std::shared_ptr<const F>& last) {
        if (alike(lastWorld, *world)) {
            const std::vector<Flood::Edit> edits = edits_between(lastWorld->still, world->still);
            if (edits.empty()) return last;
            if (edits.size() < most_edits) {
                auto next = std::make_shared<F>(*last);
                next->change(edits);
                return std::shared_ptr<const F>(std::move(next));
            }
        }
        return std::make_shared<const F>(world->still, world->palette, options);
    });
}

std::shared_ptr<const Flood> flooded(const WorldPtr& world, const FloodOptions& options) {
    return flood_of<Flood>(world, {options.loss});
}

std::shared_ptr<const OriginFlood> origins(const WorldPtr& world, const FloodOptions& options) {
    return flood_of<OriginFlood>(world, options);
}

FloodSoFar flooded_so_far(const WorldPtr& world, const FloodOptions& all, double ms) {
    struct Work {
        WorldPtr world;
        FloodOptions options;
        std::shared_ptr<Flood> flood;       // under way; null: none is
        std::shared_ptr<const Flood> whole; // the last that became whole here
        std::uint64_t state = 0;            // of what was returned last
    };
    static Work work;
    const FloodOptions options{all.loss};
    if (auto whole = kept_floods<Flood>().find(world, options)) {
        if (whole != work.whole || work.flood) { // another than was returned last
            work.flood.reset();
            work.whole = whole;
            ++work.state;
        }
        return {std::move(whole), 0, work.state, 0, {}};
    }
    const auto start = std::chrono::steady_clock::now();
    std::uint64_t since = work.state;
    if (!work.flood || work.world != world || !(work.options == options)) {
        // From what is under way, from what was whole last, or from nothing.
        auto [lastWorld, last] = kept_floods<Flood>().newest(options);
        std::shared_ptr<Flood> next;
        const auto follow = [&](const WorldPtr& from, std::shared_ptr<Flood> flood, const Flood& was) {
            if (!alike(from, *world)) return;
            const std::vector<Flood::Edit> edits = edits_between(from->still, world->still);
            if (edits.size() >= most_edits) return;
            next = flood ? std::move(flood) : std::make_shared<Flood>(was);
            next->begin(edits);
        };
        if (work.flood && work.options == options) follow(work.world, work.flood, *work.flood);
        if (!next && last) {
            follow(lastWorld, nullptr, *last);
            if (last != work.whole || work.flood) since = 0; // what was returned last was another
        }
        if (!next) {
            next = std::make_shared<Flood>(world->still, world->palette, options, Flood::Start::seeds);
            since = 0;
        }
        work = {world, options, std::move(next), nullptr, work.state};
    }
    ++work.state;
    const bool whole = work.flood->go_on([&] {
        return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count() < ms;
    });
    FloodSoFar out{work.flood, whole ? 0 : work.flood->waiting(), work.state, since, work.flood->take_changed()};
    if (whole) {
        work.whole = work.flood;
        kept_floods<Flood>().keep(world, options, work.whole);
        work.flood.reset();
    }
    return out;
}

std::shared_ptr<const CastWorld> casts(const WorldPtr& world, const glm::dvec3& toSun, const std::vector<double>& turns,
                                       const CastOptions& options) {
    using Made = std::shared_ptr<const CastWorld>;
    using Headings = std::vector<std::vector<CastField>>; // by prop and heading
    struct Baked {
        Headings fields;
        double ms = 0;
        std::size_t bytes = 0;
    };
    static KeptFor<CastKey, CastWorld> kept, stillKept;
    static KeptFor<CastKey, Baked> bakedKept;
    const auto timed = [](const auto& what) {
        const auto start = std::chrono::steady_clock::now();
        what();
        return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    };
    const auto cast_prop = [&](std::size_t i, double turn) {
        const Volume& cells = world->props[i].cells;
        return cast_all(cells, Bits(cells, world->palette), into_prop(toSun, turn), options);
    };
    // The still world is cast once for a sun, and again only where it changed; props whenever they have turned.
    CastOptions ofStill = options;
    ofStill.headings = 0;
    const Made still = stillKept.of(world, {toSun, {}, ofStill}, [&](const WorldPtr& lastWorld, const Made& last) {
        auto out = std::make_shared<CastWorld>();
        out->stillMs = timed([&] {
            const Bits bits(world->still, world->palette);
            if (alike(lastWorld, *world)) {
                const std::vector<Flood::Edit> edits = edits_between(lastWorld->still, world->still);
                glm::ivec3 low(largest_edge), high(0);
                for (const Flood::Edit& e : edits) {
                    low = glm::min(low, e.cell);
                    high = glm::max(high, e.cell + 1);
                }
                out->still = edits.empty() ? last->still
                                           : cast_again(last->still, world->still, bits, toSun, options, low, high);
            } else
                out->still = cast_all(world->still, bits, toSun, options);
        });
        return Made(std::move(out));
    });
    std::vector<double> taken = turns;
    std::shared_ptr<const Baked> baked;
    if (options.headings > 0) {
        for (double& t : taken)
            t = nearest_heading(t, options.headings);
        baked = bakedKept.of(world, {toSun, {}, options}, [&](const WorldPtr&, const std::shared_ptr<const Baked>&) {
            auto out = std::make_shared<Baked>();
            out->ms = timed([&] {
                for (std::size_t i = 0; i < world->props.size(); ++i) {
                    out->fields.emplace_back();
                    for (int k = 0; k < options.headings; ++k) {
                        const double heading = 2 * 3.14159265358979323846 * k / options.headings;
                        out->fields.back().push_back(cast_prop(i, heading));
                        out->bytes += out->fields.back().back().bytes();
                    }
                }
            });
            return std::shared_ptr<const Baked>(std::move(out));
        });
    }
    return kept.of(world, {toSun, taken, options}, [&](const WorldPtr&, const Made&) {
        auto out = std::make_shared<CastWorld>(*still);
        out->propsMs = timed([&] {
            for (std::size_t i = 0; i < world->props.size(); ++i) {
                if (!baked) {
                    out->props.push_back(cast_prop(i, taken[i]));
                    continue;
                }
                const auto k = std::lround(taken[i] * options.headings / (2 * 3.14159265358979323846));
                out->props.push_back(baked->fields[i][static_cast<std::size_t>(k) % baked->fields[i].size()]);
            }
        });
        if (baked) {
            out->bakedMs = baked->ms;
            out->bakedBytes = baked->bytes;
        }
        return Made(std::move(out));
    });
}

} // namespace mirolux::blocks
