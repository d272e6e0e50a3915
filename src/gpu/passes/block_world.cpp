#include "gpu/passes/block_world.h"
#include "core/base/parallel.h"
#include "gpu/passes/surface_pass.h"
#include <any>
#include <bit>
#include <cstring>
#include <glm/gtc/matrix_transform.hpp>

namespace mirolux::gpu {

using namespace blocks;

namespace {

constexpr std::uint32_t none = 0xFFFFFFFF, stops = 0x80000000;

/// What the device holds, by what it was made of.
struct HeldBlocks {
    std::shared_ptr<const MeshedWorld> mesh;
    FloodSoFar flood;
    std::shared_ptr<const OriginFlood> origins;
    std::shared_ptr<const CastWorld> casts;
    WorldPtr world;
    Way way = Way::faces;
    std::vector<std::uint32_t> firstChunk; // by part
    std::vector<std::uint32_t> firstQuad;  // by part
    std::shared_ptr<const std::vector<CellTree>> trees;
    std::vector<glm::ivec4> roots; // by part
    // With floods: entries of all chunks, and how many have words of their own, of how many there is room for.
    std::vector<BlockChunkData> chunks;
    std::size_t dense = 0, room = 0;
};

using Extra = std::function<void(std::size_t chunk, std::vector<std::uint32_t>& room)>;

/// Entries of the chunks of a part, and the words of cells that are not all alike.
class Packer {
public:
    void still(const World& world, const Flood* flood, const Extra& extra) {
        const Volume& cells = world.still;
        const std::size_t count = cells.chunk_count();
        const std::size_t first = chunks.size();
        const Stopped stopped = stopped_of(world);
        chunks.resize(first + count);
        std::vector<std::size_t> dense;
        for (std::size_t i = 0; i < count; ++i) {
            BlockChunkData& c = chunks[first + i];
            c = {none, 0, none, 0};
            if (flood) {
                bool own = cells.cells_of(i) != nullptr;
                c.all = stopped[cells.all_of(i)];
                for (int channel = 0; channel < Flood::channels; ++channel) {
                    const Levels& l = flood->levels(static_cast<Flood::Channel>(channel));
                    own = own || l.cells_of(i) != nullptr;
                    c.all |= std::uint32_t(l.all_of(i)) << (8 * channel);
                }
                if (own) {
                    c.light = static_cast<std::uint32_t>(dense.size() * chunk_cells);
                    dense.push_back(i);
                }
            }
            take_extra(c, i, extra);
        }
        light.resize(dense.size() * chunk_cells);
        parallel_for(0, static_cast<int>(dense.size()), [&](int k) {
            words_of(cells, stopped, *flood, dense[static_cast<std::size_t>(k)],
                     light.data() + std::size_t(k) * chunk_cells);
        });
    }
    using Stopped = std::array<std::uint32_t, 256>;
    static Stopped stopped_of(const World& world) {
        Stopped out{};
        for (std::size_t m = 1; m < world.palette.size(); ++m)
            out[m] = world.palette[m].stops_light() ? stops : 0;
        return out;
    }
    /// The words of a chunk's cells.
    static void words_of(const Volume& cells, const Stopped& stopped, const Flood& flood, std::size_t chunk,
                         std::uint32_t* out) {
        const Volume::Cells* own = cells.cells_of(chunk);
        for (std::size_t n = 0; n < chunk_cells; ++n)
            out[n] = stopped[own ? (*own)[n] : cells.all_of(chunk)];
        for (int channel = 0; channel < Flood::channels; ++channel) {
            const Levels& l = flood.levels(static_cast<Flood::Channel>(channel));
            const Levels::Cells* levels = l.cells_of(chunk);
            if (!levels && l.all_of(chunk) == 0) continue;
            for (std::size_t n = 0; n < chunk_cells; ++n)
                out[n] |= std::uint32_t(levels ? (*levels)[n] : l.all_of(chunk)) << (8 * channel);
        }
    }
    void prop(const Volume& cells, const Extra& extra) {
        for (std::size_t i = 0; i < cells.chunk_count(); ++i) {
            BlockChunkData c{none, 0, none, 0};
            take_extra(c, i, extra);
            chunks.push_back(c);
        }
    }
    std::vector<BlockChunkData> chunks;
    std::vector<std::uint32_t> light, extraWords;

private:
    void take_extra(BlockChunkData& c, std::size_t chunk, const Extra& extra) {
        if (!extra) return;
        std::vector<std::uint32_t> room;
        extra(chunk, room);
        if (room.empty()) return;
        c.extra = static_cast<std::uint32_t>(extraWords.size());
        extraWords.insert(extraWords.end(), room.begin(), room.end());
    }
};

Extra hits_of(const CastField& field) {
    return [&field](std::size_t chunk, std::vector<std::uint32_t>& room) {
        if (!field.chunks[chunk]) return;
        room.resize(chunk_cells);
        for (std::size_t n = 0; n < chunk_cells; ++n) {
            const CastHits& h = (*field.chunks[chunk])[n];
            room[n] = std::uint32_t(h.toward) | std::uint32_t(h.away) << 8;
        }
    };
}

Extra origins_of(const OriginFlood& flood) {
    return [&flood](std::size_t chunk, std::vector<std::uint32_t>& room) {
        const OriginFlood::Cells* cells = flood.cells_of(chunk);
        if (!cells) return;
        static_assert(sizeof(Origin) == 2 * sizeof(std::uint32_t));
        if (!flood.keeps_second()) {
            room.resize(2 * chunk_cells);
            std::memcpy(room.data(), cells->data(), sizeof(OriginFlood::Cells));
            return;
        }
        const OriginFlood::Cells* second = flood.seconds_of(chunk);
        room.resize(4 * chunk_cells);
        for (std::size_t n = 0; n < chunk_cells; ++n) {
            std::memcpy(&room[4 * n], &(*cells)[n], sizeof(Origin));
            if (second) std::memcpy(&room[4 * n + 2], &(*second)[n], sizeof(Origin));
        }
    };
}

template <class T>
void bring(PassFrame& f, const char* name, const std::vector<T>& data) {
    Buffer& b = f.store.buffer(name);
    const std::vector<T> least(1);
    const std::vector<T>& what = data.empty() ? least : data; // a buffer holds something
    b.upload(what.data(), what.size() * sizeof(T));
}

void bring_palette(PassFrame& f, const World& world) {
    std::vector<BlockMaterialData> out;
    for (const blocks::Material& m : world.palette) {
        const int most = std::max({m.light.x, m.light.y, m.light.z, 1});
        out.push_back({glm::vec4(m.color, m.opacity), glm::vec4(m.roughness, m.metallic, m.glow, 0),
                       glm::vec4(glm::vec3(m.light) / static_cast<float>(most), most)});
    }
    bring(f, "BlockPaletteBuffer", out);
}

/// All trees in one list of nodes and one of cells.
std::vector<glm::ivec4> bring_trees(PassFrame& f, const std::vector<CellTree>& trees) {
    std::vector<TreeNode> nodes;
    std::vector<std::uint8_t> cells;
    std::vector<glm::ivec4> roots;
    for (const CellTree& t : trees) {
        const auto firstNode = static_cast<std::uint32_t>(nodes.size()),
                   firstCell = static_cast<std::uint32_t>(cells.size());
        for (TreeNode n : t.nodes)
            nodes.push_back(n);
        cells.insert(cells.end(), t.cells.begin(), t.cells.end());
        if (t.nodes.empty()) {
            roots.emplace_back(0);
            continue;
        }
        // Indices become those of the joined lists, from the root down: what a node's parts are depends on its level.
        const auto move = [&](const auto& self, std::uint32_t node, int level) -> void {
            TreeNode& n = nodes[node];
            const std::uint32_t first = n.first;
            n.first += level == 1 ? firstCell : firstNode;
            if (level == 1) return;
            for (int i = 0; i < std::popcount(n.bits()); ++i)
                self(self, firstNode + first + static_cast<std::uint32_t>(i), level - 1);
        };
        move(move, static_cast<std::uint32_t>(nodes.size()) - 1, t.levels);
        roots.emplace_back(static_cast<int>(nodes.size()) - 1, t.levels, 0, 0);
    }
    cells.resize((cells.size() + 3) / 4 * 4);
    bring(f, "BlockTreeBuffer", nodes);
    bring(f, "BlockTreeCellBuffer", cells);
    return roots;
}

void bring_parts(PassFrame& f, const HeldBlocks& held) {
    const World& world = *held.world;
    std::vector<BlockPartData> parts;
    const auto part = [&](const glm::mat4& toWorld, const Volume& cells) {
        parts.push_back({toWorld, glm::inverse(toWorld),
                         glm::ivec4(cells.chunks(), static_cast<int>(held.firstChunk[parts.size()])),
                         glm::ivec4(cells.size(), 0),
                         parts.size() < held.roots.size() ? held.roots[parts.size()] : glm::ivec4(0)});
    };
    part(glm::scale(glm::mat4(1.0f), glm::vec3(world.edge)), world.still);
    const std::vector<double> turns = turns_of(world, f.inputs.view.seconds);
    for (std::size_t i = 0; i < world.props.size(); ++i)
        part(prop_matrix(world, world.props[i], turns[i]), world.props[i].cells);
    f.upload("BlockPartBuffer", parts.data(), parts.size() * sizeof(BlockPartData));
}

/// Brings the light of all cells, with room for more chunks where light still spreads.
void bring_light(PassFrame& f, HeldBlocks& now) {
    const World& world = *now.world;
    Packer packer;
    now.firstChunk = {0};
    packer.still(world, now.flood.flood.get(),
                 now.casts     ? hits_of(now.casts->still)
                 : now.origins ? origins_of(*now.origins)
                               : Extra());
    for (std::size_t i = 0; i < world.props.size(); ++i) {
        now.firstChunk.push_back(static_cast<std::uint32_t>(packer.chunks.size()));
        packer.prop(world.props[i].cells, now.casts ? hits_of(now.casts->props[i]) : Extra());
    }
    now.chunks = packer.chunks;
    now.dense = packer.light.size() / chunk_cells;
    const std::size_t more = now.flood.waiting > 0 ? world.still.chunk_count() - now.dense : 8;
    now.room = std::min(world.still.chunk_count(), now.dense + std::min(more, now.dense / 2 + 64));
    packer.light.resize(now.room * chunk_cells);
    bring(f, "BlockChunkBuffer", packer.chunks);
    bring(f, "BlockLightBuffer", packer.light);
    bring(f, "BlockExtraBuffer", packer.extraWords);
}

/// Brings no more than the chunks that a flood has changed since what the device holds; false: there is no room.
bool bring_changed(PassFrame& f, const HeldBlocks& held, HeldBlocks& now) {
    const World& world = *now.world;
    const Packer::Stopped stopped = Packer::stopped_of(world);
    now.chunks = held.chunks;
    now.dense = held.dense;
    now.room = held.room;
    Buffer& light = f.store.buffer("BlockLightBuffer");
    std::vector<std::uint32_t> words(chunk_cells);
    for (const std::size_t i : now.flood.changed) {
        BlockChunkData& c = now.chunks[i];
        if (c.light == none) {
            if (now.dense >= now.room) return false;
            c.light = static_cast<std::uint32_t>(now.dense++ * chunk_cells);
        }
        Packer::words_of(world.still, stopped, *now.flood.flood, i, words.data());
        glNamedBufferSubData(light.name(), static_cast<GLintptr>(std::size_t(c.light) * sizeof(std::uint32_t)),
                             static_cast<GLsizeiptr>(words.size() * sizeof(std::uint32_t)), words.data());
    }
    bring(f, "BlockChunkBuffer", now.chunks);
    return true;
}

} // namespace

void provide_blocks(PassFrame& f) {
    const FrameInputs& in = f.inputs;
    const WorldPtr& world = in.scene.blocks;
    HeldBlocks now;
    now.world = world;
    now.way = way_of(in.setup);
    now.mesh = meshed(world);
    const double budget = in.setup.number("flood.budget");
    if (now.way == Way::flood || now.way == Way::floodOrigin) {
        if (f.gatherMs > 0 && budget > 0)
            now.flood = flooded_so_far(world, flood_options(in.setup), budget);
        else
            now.flood.flood = flooded(world, flood_options(in.setup));
        if (now.flood.waiting > 0) f.told["flooding"] = {static_cast<double>(now.flood.waiting)};
    }
    if (now.way == Way::floodOrigin) now.origins = origins(world, flood_options(in.setup));
    if (now.way == Way::cast)
        now.casts =
            casts(world, sun_of(in.draws.lights).toward, turns_of(*world, in.view.seconds), cast_options(in.setup));
    std::any& kept = f.store.objects["blocks"];
    const HeldBlocks* held = std::any_cast<HeldBlocks>(&kept);
    if (!held || held->mesh != now.mesh) {
        std::vector<Quad> quads = now.mesh->still.all();
        now.firstQuad = {0};
        for (const MeshedWorld::Part& p : now.mesh->props) {
            now.firstQuad.push_back(static_cast<std::uint32_t>(quads.size()));
            const std::vector<Quad> own = p.all();
            quads.insert(quads.end(), own.begin(), own.end());
        }
        bring(f, "BlockQuadBuffer", quads);
        bring_palette(f, *world);
    } else
        now.firstQuad = held->firstQuad;
    if (!held || held->world != world || held->way != now.way || held->flood.flood != now.flood.flood ||
        held->flood.state != now.flood.state || held->origins != now.origins || held->casts != now.casts) {
        const bool follows = held && held->way == Way::flood && now.way == Way::flood && now.flood.since != 0 &&
                             held->flood.state == now.flood.since && held->world->still.size() == world->still.size() &&
                             held->world->props == world->props;
        if (follows && bring_changed(f, *held, now))
            now.firstChunk = held->firstChunk;
        else
            bring_light(f, now);
    } else {
        now.firstChunk = held->firstChunk;
        now.chunks = held->chunks;
        now.dense = held->dense;
        now.room = held->room;
    }
    if (in.setup.choice("blocks.draw") == "rays") {
        now.trees = trees(world);
        now.roots = held && held->trees == now.trees ? held->roots : bring_trees(f, *now.trees);
        for (const char* name : {"BlockTreeBuffer", "BlockTreeCellBuffer"})
            f.buffers[name] = {f.store.buffer(name).name(), 0, 0};
    }
    std::vector<float> curve;
    for (int level = 0; level <= most_light; ++level)
        curve.push_back(static_cast<float>(std::pow(level / double(most_light), in.setup.number("flood.falloff"))));
    f.upload("BlockCurveBuffer", curve.data(), curve.size() * sizeof(float));
    for (const char* name :
         {"BlockQuadBuffer", "BlockPaletteBuffer", "BlockChunkBuffer", "BlockLightBuffer", "BlockExtraBuffer"})
        f.buffers[name] = {f.store.buffer(name).name(), 0, 0};
    bring_parts(f, now);
    kept = std::move(now);
}

std::vector<std::string> block_defines(const PassFrame& f) {
    return {"BLOCK_WAY " + std::to_string(static_cast<int>(way_of(f.inputs.setup)))};
}

Result<Commands> prepare_block_runs(PassFrame& f, const std::string& fragment, std::vector<std::string> defines,
                                    bool clear, const PassState& state, std::function<void()> before) {
    auto stage =
        f.stage({{GL_VERTEX_SHADER, "blocks/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, fragment, ""}}, std::move(defines));
    if (!stage) return tl::unexpected(stage.error());
    std::vector<SeenRun> runs = seen_runs(f.inputs, clear);
    const std::vector<std::uint32_t>& first = std::any_cast<HeldBlocks&>(f.store.objects["blocks"]).firstQuad;
    for (SeenRun& r : runs)
        r.run.first += first[static_cast<std::size_t>(r.part + 1)];
    const GLint firstQuad = stage->uniform("firstQuad"), part = stage->uniform("part");
    return [&f, stage = std::move(*stage), runs = std::move(runs), state, before = std::move(before), firstQuad, part] {
        state.apply();
        if (before) before();
        stage.use();
        glBindVertexArray(f.emptyVertexArray);
        for (const SeenRun& r : runs) {
            glUniform1i(firstQuad, static_cast<GLint>(r.run.first));
            glUniform1i(part, r.part + 1);
            glDrawArraysInstanced(GL_TRIANGLE_STRIP, 0, 4, static_cast<GLsizei>(r.run.count));
        }
    };
}

Result<Commands> prepare_block_rays(PassFrame& f, const PlannedPass&) {
    auto stage = f.screen_stage("blocks/trace.glsl", {});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"block surface"}, "depth");
    if (!state) return tl::unexpected(state.error());
    state->depthFunc = GL_ALWAYS;
    glProgramUniform1i(stage->name(), stage->uniform("parts"),
                       1 + static_cast<GLint>(f.inputs.scene.blocks->props.size()));
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

Result<Commands> prepare_block_light(PassFrame& f, const PlannedPass&) {
    auto stage = f.screen_stage("blocks/light.glsl", block_defines(f));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"scene"});
    if (!state) return tl::unexpected(state.error());
    state->depthTest = state->depthWrite = false;
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

} // namespace mirolux::gpu
