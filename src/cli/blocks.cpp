#include "cli/commands.h"
#include "core/blocks/block_stage.h"
#include "core/blocks/flood_audit.h"
#include <chrono>
#include <fmt/format.h>
#include <random>

// audit flood: the light of cells against a fresh flood, after edits.
namespace mirolux::cli {

namespace {

/// Blocks and lamps put in and taken away, one by one: what a hand would do, only more of it.
std::vector<blocks::Flood::Edit> edits_of(const blocks::World& world, int count, std::uint32_t seed) {
    std::mt19937 r(seed);
    const glm::ivec3 size = world.still.size();
    std::vector<blocks::Flood::Edit> out;
    for (int i = 0; i < count; ++i) {
        const auto of = [&](int edge) { return static_cast<int>(r() % static_cast<std::uint32_t>(edge)); };
        const auto m = r() % 2 ? static_cast<std::uint8_t>(r() % world.palette.size()) : std::uint8_t(0);
        out.push_back({{of(size.x), of(size.y), of(size.z)}, m});
    }
    return out;
}

Json odd_cells(const blocks::FloodAudit& a) {
    Json list = Json::array();
    for (const blocks::OddCell& o : a.odd)
        list.push_back({{"cell", {o.cell.x, o.cell.y, o.cell.z}}, {"what", o.what}});
    return list;
}

} // namespace

int audit_flood(const Common& c, const FloodArguments& a) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (!s->open.project.blocks)
        return complain({"light floods on a Blocks stage only", c.scene, "Name a .blocks file or its project."},
                        badInput);
    const blocks::World& world = *s->open.project.blocks;
    const blocks::FloodOptions options = blocks::flood_options(s->setup);
    const auto start = std::chrono::steady_clock::now();
    const auto ms = [](auto from) {
        return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count();
    };
    blocks::Flood flood(world.still, world.palette, options);
    double wholeMs = ms(start);
    const std::vector<blocks::Flood::Edit> edits = edits_of(world, a.edits, a.seed);
    const auto begun = std::chrono::steady_clock::now();
    for (const blocks::Flood::Edit& e : edits)
        flood.change({e});
    double editsMs = ms(begun);
    blocks::FloodAudit audit = blocks::audit(flood, world.palette);
    std::size_t bytes = flood.bytes();
    if (blocks::way_of(s->setup) == blocks::Way::floodOrigin) {
        const auto again = std::chrono::steady_clock::now();
        blocks::OriginFlood origins(world.still, world.palette, options);
        wholeMs += ms(again);
        const auto changes = std::chrono::steady_clock::now();
        for (const blocks::Flood::Edit& e : edits)
            origins.change({e});
        editsMs += ms(changes);
        const blocks::FloodAudit more = blocks::audit(origins, world.palette, options);
        audit.wrong += more.wrong;
        audit.inconsistent += more.inconsistent;
        audit.odd.insert(audit.odd.end(), more.odd.begin(), more.odd.end());
        bytes += origins.bytes();
    }
    if (!a.dump.empty())
        if (auto ok = blocks::write_levels(flood, a.dump); !ok) return complain(ok.error(), badInput);
    std::string text = fmt::format("{} cells lit in {:.0f} ms, {:.1f} MiB, {:.2f} bytes a cell\n", audit.cells, wholeMs,
                                   double(bytes) / 1048576.0, double(bytes) / double(audit.cells));
    if (a.edits > 0) text += fmt::format("{} edits, {:.3f} ms each\n", a.edits, editsMs / a.edits);
    text += fmt::format("{} wrong against a fresh flood, {} inconsistent\n", audit.wrong, audit.inconsistent);
    for (const blocks::OddCell& o : audit.odd)
        text += fmt::format("  {}, {}, {}: {}\n", o.cell.x, o.cell.y, o.cell.z, o.what);
    const int code = deliver(c, text,
                             {{"schema", "mirolux.auditFlood"},
                              {"version", 1},
                              {"cells", audit.cells},
                              {"wrong", audit.wrong},
                              {"inconsistent", audit.inconsistent},
                              {"odd", odd_cells(audit)},
                              {"bytes", bytes},
                              {"wholeMs", wholeMs},
                              {"edits", a.edits},
                              {"editMs", a.edits > 0 ? editsMs / a.edits : 0.0}});
    if (code != done) return code;
    return audit.wrong + audit.inconsistent > 0 ? int(gateMissed) : int(done);
}

} // namespace mirolux::cli
