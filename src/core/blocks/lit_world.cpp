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
        kept_.insert(kept_.begin(), made);
        if (kept_.size() > most) kept_.pop_back();
        return made.value;
    }

private:
    static constexpr std::size_t most = 3;
    struct Entry {
        WorldPtr world;
        Options options;
        Made value;
    };
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
    if (last)
        for (std::size_t i = 0; i < count; ++i) {
            const glm::ivec3 at = v.corner(i) / chunk_edge;
            kept[i] = same(i);
            for (const glm::ivec3& d : Neighbours::directions) {
                const glm::ivec3 n = at + d;
                if (kept[i] && n.x >= 0 && n.y >= 0 && n.z >= 0 && n.x < chunks.x && n.y < chunks.y && n.z < chunks.z)
                    kept[i] = same(v.chunk_of(n * chunk_edge));
            }
        }
    parallel_for(0, static_cast<int>(count), [&](int i) {
        if (!kept[static_cast<std::size_t>(i)])
            meshes[static_cast<std::size_t>(i)] = mesh_chunk(v, palette, static_cast<std::size_t>(i));
    });
    MeshedWorld::Part out;
    out.size = v.size();
    for (std::size_t i = 0; i < count; ++i) {
        std::array<MeshedWorld::Run, 7> runs;
        const auto enter = [&](std::size_t run, auto first, auto end) {
            runs[run] = {static_cast<std::uint32_t>(out.quads.size()), static_cast<std::uint32_t>(end - first)};
            out.quads.insert(out.quads.end(), first, end);
        };
        if (kept[i])
            for (std::size_t r = 0; r < 7; ++r) {
                const MeshedWorld::Run& from = last->chunks[i][r];
                enter(r, last->quads.begin() + from.first, last->quads.begin() + from.first + from.count);
            }
        else {
            auto at = meshes[i].opaque.begin();
            for (int face = 0; face < 6; ++face) { // they come by face
                auto end = at;
                while (end != meshes[i].opaque.end() && end->face() == face)
                    ++end;
                enter(static_cast<std::size_t>(face), at, end);
                at = end;
            }
            enter(6, meshes[i].clear.begin(), meshes[i].clear.end());
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

std::shared_ptr<const MeshedWorld> meshed(const WorldPtr& world) {
    static KeptFor<int, MeshedWorld> kept;
    return kept.of(world, 0, [&](const WorldPtr& lastWorld, const std::shared_ptr<const MeshedWorld>& last) {
        auto out = std::make_shared<MeshedWorld>();
        const bool follows = alike(lastWorld, *world);
        out->still = mesh_part(world->still, world->palette, follows ? &lastWorld->still : nullptr,
                               follows ? &last->still : nullptr);
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
static std::shared_ptr<const F> flood_of(const WorldPtr& world, const FloodOptions& options) {
    static KeptFor<FloodOptions, F> kept;
    return kept.of(world, options, [&](const WorldPtr& lastWorld, const std::shared_ptr<const F>& last) {
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
    return flood_of<Flood>(world, options);
}

std::shared_ptr<const OriginFlood> origins(const WorldPtr& world, const FloodOptions& options) {
    return flood_of<OriginFlood>(world, options);
}

std::shared_ptr<const CastWorld> casts(const WorldPtr& world, const glm::dvec3& toSun, const std::vector<double>& turns,
                                       const CastOptions& options) {
    static KeptFor<CastKey, CastWorld> kept, stillKept;
    const auto timed = [](const auto& what) {
        const auto start = std::chrono::steady_clock::now();
        what();
        return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    };
    // The still world is cast once for a sun; props whenever they have turned.
    const auto still =
        stillKept.of(world, {toSun, {}, options}, [&](const WorldPtr&, const std::shared_ptr<const CastWorld>&) {
            auto out = std::make_shared<CastWorld>();
            out->stillMs =
                timed([&] { out->still = cast_all(world->still, Bits(world->still, world->palette), toSun, options); });
            return std::shared_ptr<const CastWorld>(std::move(out));
        });
    return kept.of(world, {toSun, turns, options}, [&](const WorldPtr&, const std::shared_ptr<const CastWorld>&) {
        auto out = std::make_shared<CastWorld>(*still);
        out->propsMs = timed([&] {
            for (std::size_t i = 0; i < world->props.size(); ++i) {
                const Volume& cells = world->props[i].cells;
                out->props.push_back(cast_all(cells, Bits(cells, world->palette), into_prop(toSun, turns[i]), options));
            }
        });
        return std::shared_ptr<const CastWorld>(std::move(out));
    });
}

} // namespace mirolux::blocks
