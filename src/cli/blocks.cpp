#include "cli/commands.h"
#include "core/blocks/block_stage.h"
#include "core/blocks/flood_audit.h"
#include "core/blocks/lamp_audit.h"
#include "core/blocks/make_blocks.h"
#include "core/image/image_io.h"
#include <chrono>
#include <fmt/format.h>
#include <random>

// audit flood: the light of cells against a fresh flood, after edits. audit origin: directions against every lamp.
// blocks: worlds of what is none.
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
    std::size_t bytes = flood.bytes(); // before edits strew lamps about
    const std::vector<blocks::Flood::Edit> edits = edits_of(world, a.edits, a.seed);
    const auto begun = std::chrono::steady_clock::now();
    for (const blocks::Flood::Edit& e : edits)
        flood.change({e});
    double editsMs = ms(begun);
    blocks::FloodAudit audit = blocks::audit(flood, world.palette);
    if (blocks::way_of(s->setup) == blocks::Way::floodOrigin) {
        const auto again = std::chrono::steady_clock::now();
        blocks::OriginFlood origins(world.still, world.palette, options);
        wholeMs += ms(again);
        bytes += origins.bytes();
        const auto changes = std::chrono::steady_clock::now();
        for (const blocks::Flood::Edit& e : edits)
            origins.change({e});
        editsMs += ms(changes);
        const blocks::FloodAudit more = blocks::audit(origins, world.palette, options);
        audit.wrong += more.wrong;
        audit.inconsistent += more.inconsistent;
        audit.odd.insert(audit.odd.end(), more.odd.begin(), more.odd.end());
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

int audit_cast(const Common& c, int headings) {
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (!s->open.project.blocks)
        return complain({"cells cast rays on a Blocks stage only", c.scene, "Name a .blocks file or its project."},
                        badInput);
    const blocks::CastAudit a = blocks::audit_casts(scene_of(s->open), s->setup, s->view, 2000, headings);
    std::string text = fmt::format("{} cells cast in {:.1f} ms, {:.1f} MiB; a cell changed {:.2f} ms\n", a.cells,
                                   a.wholeMs, double(a.bytes) / 1048576, a.editMs);
    if (a.ofProps > 0)
        text += fmt::format("{} cells of props: {:.2f} ms a turn; {} headings beforehand: {:.1f} ms, {:.2f} MiB, "
                            "{:.3f} hits apart; in the world's frame {:.3f} hits apart\n",
                            a.ofProps, a.propMs, a.headings, a.headingsMs, double(a.headingsBytes) / 1048576,
                            a.headingsApart, a.worldFrame);
    text += fmt::format("{} of {} wrong against a test of every cell\n", a.wrong, a.asked);
    const glm::ivec3 size = s->open.project.blocks->still.size();
    const int code = deliver(c, text,
                             {{"schema", "mirolux.auditCast"},
                              {"version", 1},
                              {"cells", std::int64_t(size.x) * size.y * size.z},
                              {"cast", a.cells + a.ofProps},
                              {"asked", a.asked},
                              {"wrong", a.wrong},
                              {"bytes", a.bytes},
                              {"wholeMs", a.wholeMs},
                              {"editMs", a.editMs},
                              {"propMs", a.propMs},
                              {"worldFrameApart", a.worldFrame},
                              {"headings", a.headings},
                              {"headingsMs", a.headingsMs},
                              {"headingsBytes", a.headingsBytes},
                              {"headingsApart", a.headingsApart}});
    if (code != done) return code;
    return a.wrong > 0 ? int(gateMissed) : int(done);
}

static FloatImage beside(const std::vector<FloatImage>& pictures) {
    const int width = pictures.front().width, height = pictures.front().height, count = int(pictures.size());
    FloatImage out{width * count, height, 3, {}};
    for (int y = 0; y < height; ++y)
        for (const FloatImage& p : pictures)
            for (int x = 0; x < 3 * width; ++x)
                out.data.push_back(p.data[std::size_t(3) * std::size_t(width) * std::size_t(y) + std::size_t(x)]);
    return out;
}

/// So bright that a two-hundredth of what shows anything is white.
static ByteImage exposed(const FloatImage& f) {
    std::vector<float> values;
    for (const float v : f.data)
        if (v > 0) values.push_back(v);
    float white = 1;
    if (!values.empty()) {
        const auto at = values.begin() + static_cast<std::ptrdiff_t>(values.size() * 199 / 200);
        std::nth_element(values.begin(), at, values.end());
        white = *at;
    }
    ByteImage out{f.width, f.height, {}};
    for (std::size_t i = 0; i < f.data.size(); i += 3) {
        for (std::size_t c = 0; c < 3; ++c)
            out.rgba.push_back(static_cast<std::uint8_t>(
                std::lround(255 * srgb_encode(std::clamp(double(f.data[i + c] / white), 0.0, 1.0)))));
        out.rgba.push_back(255);
    }
    return out;
}

int audit_origin(const Common& c, const std::string& picture) {
    if (auto ok = can_write({picture, c.json}); !ok) return complain(ok.error(), badInput);
    auto s = subject_of(c);
    if (!s) return complain(s.error(), badInput);
    if (!s->open.project.blocks)
        return complain({"cells know where light comes from on a Blocks stage only", c.scene,
                         "Name a .blocks file or its project."},
                        badInput);
    if (auto ok = s->setup.set_text("blocks.light", "flood-origin"); !ok) return complain(ok.error(), badInput);
    const Scene scene = scene_of(s->open);
    const blocks::DirectionAudit a = blocks::audit_directions(scene, s->setup, s->view);
    if (!picture.empty()) {
        FloatImage apart = a.is;
        for (std::size_t i = 0; i < apart.data.size(); ++i)
            apart.data[i] = std::abs(a.is.data[i] - a.truly.data[i]);
        if (auto ok = write_png(picture, exposed(beside({a.truly, a.is, apart}))); !ok)
            return complain(ok.error(), badInput);
    }
    const bool two = blocks::flood_options(s->setup).second;
    const std::size_t lamps = blocks::lamps_of(*scene.blocks).size();
    std::string text = fmt::format("{} lamps; {} cells beside something, in sight of one (and {} round a corner): "
                                   "their direction against all lamps "
                                   "that they see\none lamp a cell: mean {:.2f} degrees, p95 {:.2f}\n",
                                   lamps, a.cells, a.hidden, a.one, a.oneP95);
    if (two) text += fmt::format("two lamps a cell: mean {:.2f} degrees, p95 {:.2f}\n", a.two, a.twoP95);
    text +=
        fmt::format("specular light of the picture, over the true mean: apart {:.1f} %, bias {:+.1f} %; all lamps took "
                    "{:.0f} ms\n",
                    100 * a.meanApart, 100 * a.bias, a.ms);
    return deliver(c, text,
                   {{"schema", "mirolux.auditOrigin"},
                    {"version", 1},
                    {"lamps", lamps},
                    {"cells", a.cells},
                    {"hidden", a.hidden},
                    {"meanAngle", two ? a.two : a.one},
                    {"p95Angle", two ? a.twoP95 : a.oneP95},
                    {"specularApart", a.meanApart},
                    {"specularBias", a.bias},
                    {"lampsMs", a.ms}});
}

int make_blocks(const Common& c, const BlocksArguments& a) {
    if (std::filesystem::path(a.output).extension() != ".blocks")
        return complain({"the world's file has another ending", a.output, "End the name in .blocks."}, badInput);
    if (auto ok = can_write({a.output, c.json}); !ok) return complain(ok.error(), badInput);
    const auto start = std::chrono::steady_clock::now();
    Result<blocks::Contents> made = tl::unexpected(Error{});
    if (std::filesystem::is_directory(c.scene))
        made = blocks::read_slices(c.scene, static_cast<float>(a.edge));
    else {
        auto s = solid_subject_of(c, true);
        if (!s) return complain(s.error(), badInput);
        made = blocks::make_blocks(scene_of(s->open), {static_cast<float>(a.edge), !a.noLamps, a.materials});
    }
    if (!made) return complain(made.error(), badInput);
    if (auto ok = blocks::write_blocks(*made, a.output); !ok) return complain(ok.error(), badInput);
    const double ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    const blocks::Volume& v = made->world.still;
    const std::size_t lamps = blocks::lamps_of(made->world).size();
    return deliver(c,
                   fmt::format("{}: {} x {} x {} cells of {} m, {} solid, {} materials, {} lamps, {:.1f} s\n", a.output,
                               v.size().x, v.size().y, v.size().z, a.edge, v.solid(), made->world.palette.size() - 1,
                               lamps, ms / 1000),
                   {{"schema", "mirolux.blocks"},
                    {"version", 1},
                    {"size", {v.size().x, v.size().y, v.size().z}},
                    {"edge", a.edge},
                    {"solid", v.solid()},
                    {"materials", made->world.palette.size() - 1},
                    {"lamps", lamps},
                    {"ms", ms}});
}

} // namespace mirolux::cli
