#include "core/blocks/flood_audit.h"
#include "core/blocks/grid_walk.h"
#include "core/io/file.h"
#include <fmt/format.h>

namespace mirolux::blocks {

namespace {

constexpr std::size_t most_odd = 100;
const char* const channel_names[] = {"red", "green", "blue", "the sun"};
/// Where light that goes along each of Neighbours::directions comes from.
const char* const side_names[] = {"the west", "the east", "below", "above", "the north", "the south"};

void enter(FloodAudit& a, const glm::ivec3& cell, std::string what) {
    ++a.inconsistent;
    if (a.odd.size() < most_odd) a.odd.push_back({cell, std::move(what)});
}

template <class Visit>
void each_cell(const Volume& v, const Visit& visit) {
    for (int y = 0; y < v.size().y; ++y)
        for (int z = 0; z < v.size().z; ++z)
            for (int x = 0; x < v.size().x; ++x)
                visit(glm::ivec3(x, y, z));
}

/// What a cell should have by those beside it and by itself; from: the direction that it came along, -1: itself.
int explained(const Flood& f, const glm::ivec3& cell, Flood::Channel channel, int& from) {
    const std::uint8_t m = f.cells().at(cell);
    int best = f.own(channel, m);
    from = -1;
    for (int d = 0; d < Neighbours::count; ++d) {
        const glm::ivec3 beside = cell - Neighbours::directions[d];
        const int level = f.cells().holds(beside)                          ? f.at(beside, channel)
                          : channel == Flood::sun && d == Neighbours::down ? most_light
                                                                           : 0;
        if (const int gets = f.offered(channel, level, d, m); gets > best) {
            best = gets;
            from = d;
        }
    }
    return best;
}

} // namespace

FloodAudit audit(const Flood& f, const std::vector<Material>& palette) {
    FloodAudit a;
    const Flood fresh(f.cells(), palette, f.options());
    each_cell(f.cells(), [&](const glm::ivec3& c) {
        ++a.cells;
        bool wrong = false;
        for (int i = 0; i < Flood::channels; ++i) {
            const auto channel = static_cast<Flood::Channel>(i);
            const int is = f.at(c, channel);
            wrong = wrong || is != fresh.at(c, channel);
            int from;
            if (const int should = explained(f, c, channel, from); is != should)
                enter(a, c, fmt::format("level {} of {}, where its neighbours give {}", is, channel_names[i], should));
        }
        a.wrong += wrong;
    });
    return a;
}

FloodAudit audit(const OriginFlood& f, const std::vector<Material>& palette, const FloodOptions& options) {
    FloodAudit a;
    const OriginFlood fresh(f.cells(), palette, options);
    const auto open = [&](const glm::ivec3& c) {
        const std::uint8_t m = f.cells().at(c);
        return f.cells().holds(c) && (m == 0 || !palette[m].stops_light());
    };
    each_cell(f.cells(), [&](const glm::ivec3& c) {
        ++a.cells;
        const Origin o = f.at(c);
        a.wrong += !(o == fresh.at(c));
        if (o.level == 0) return;
        const glm::ivec3 lamp = c + glm::ivec3(o.lamp[0], o.lamp[1], o.lamp[2]),
                         via = c + glm::ivec3(o.via[0], o.via[1], o.via[2]);
        if (f.cells().at(lamp) != o.material || !palette[o.material].shines())
            return enter(a, c, "its origin is no such lamp");
        if (!sees(c, via, open)) return enter(a, c, "it does not see the turn that its light comes from");
        if (lamp == c) return;
        const std::uint8_t m = f.cells().at(c);
        const int loss = options.loss + (m == 0 ? 0 : std::clamp(palette[m].loss, 0, most_light));
        for (const glm::ivec3& d : Neighbours::directions)
            if (const Origin n = f.at(c + d);
                n.level == o.level + loss && c + d + glm::ivec3(n.lamp[0], n.lamp[1], n.lamp[2]) == lamp)
                return;
        enter(a, c, "no neighbour explains its level and its lamp");
    });
    return a;
}

std::string why_dark(const Flood& f, const std::vector<Material>& palette, const glm::ivec3& cell) {
    if (!f.cells().holds(cell)) return "beyond the world: the open sky";
    const std::uint8_t m = f.cells().at(cell);
    if (m != 0 && palette[m].stops_light()) return palette[m].name + " stops light";
    int strongest = 0;
    Flood::Channel of = Flood::red;
    for (int i = 0; i < 3; ++i)
        if (const int level = f.at(cell, static_cast<Flood::Channel>(i)); level > strongest) {
            strongest = level;
            of = static_cast<Flood::Channel>(i);
        }
    const int sun = f.at(cell, Flood::sun);
    std::string text;
    if (strongest == 0) {
        // The nearest lamp by the number of steps that open cells leave, or none within reach.
        int shut = 0, open = 0;
        for (const glm::ivec3& d : Neighbours::directions) {
            const std::uint8_t n = f.cells().at(cell + d);
            (n != 0 && palette[n].stops_light() ? shut : open) += 1;
        }
        text = open == 0 ? "shut in on all six sides"
                         : fmt::format("no lamp within {} open steps", (most_light - 1) / f.options().loss);
        if (shut > 0 && open > 0) text += fmt::format(", {} of its sides shut", shut);
    } else {
        int from;
        (void)explained(f, cell, of, from);
        if (from < 0)
            text = fmt::format("level {} by its own light", strongest);
        else {
            const glm::ivec3 beside = cell - Neighbours::directions[from];
            text = fmt::format("level {} of {}, from the cell to {}, which has {}", strongest, channel_names[of],
                               side_names[from], f.at(beside, of));
            if (f.cells().chunk_of(cell) != f.cells().chunk_of(beside)) text += ", across a border of chunks";
            for (int d = from + 1; d < Neighbours::count; ++d)
                if (const glm::ivec3 other = cell - Neighbours::directions[d];
                    f.cells().holds(other) && f.offered(of, f.at(other, of), d, m) == strongest)
                    text += fmt::format("; as much from {}", side_names[d]);
        }
        text += "; beside it";
        for (int d = 0; d < Neighbours::count; ++d) {
            const glm::ivec3 c = cell - Neighbours::directions[d];
            const std::uint8_t n = f.cells().at(c);
            text +=
                fmt::format("{} {} {}", d > 0 ? "," : "", side_names[d],
                            n != 0 && palette[n].stops_light() && !palette[n].shines() ? std::string("shut")
                                                                                       : std::to_string(f.at(c, of)));
        }
    }
    text += sun == most_light ? "; open to the sky" : sun > 0 ? fmt::format("; the sky's level {}", sun) : "; no sky";
    return text;
}

Result<void> write_levels(const Flood& f, const std::filesystem::path& path) {
    std::vector<std::uint8_t> out = {'M', 'R', 'X', 'L', 'V', 'L', '1', '\n'};
    const glm::ivec3 size = f.cells().size();
    for (const int edge : {size.x, size.y, size.z})
        for (int i = 0; i < 4; ++i)
            out.push_back(static_cast<std::uint8_t>(edge >> (8 * i)));
    each_cell(f.cells(), [&](const glm::ivec3& c) {
        for (int i = 0; i < Flood::channels; ++i)
            out.push_back(f.at(c, static_cast<Flood::Channel>(i)));
    });
    return write_file_atomically(path, out.data(), out.size());
}

} // namespace mirolux::blocks
