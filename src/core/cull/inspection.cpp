#include "core/cull/inspection.h"
#include "core/cull/light_lists.h"
#include "core/finish/render_scale.h"
#include <algorithm>

namespace mirolux::cull {

Inspection inspect(const Scene& scene, const Setup& setup, const View& view, LightGrid grid, DepthPicture depth) {
    Inspection i;
    const View rendered = rendered_view(setup, view);
    i.view = eye_views(rendered).front(); // with stereo the lists that are looked at are the left eye's
    i.settings = grid_settings(setup);
    i.depth = std::move(depth);
    i.grid = std::move(grid);
    DrawList list = build_draw_list(scene, setup, rendered);
    i.exact = exact_lists(view_lights(list.lights, list.reach, list.directional, i.view.camera),
                          static_cast<std::uint32_t>(list.directional), i.view, i.depth, i.settings);
    i.audit = audit(i.grid, i.exact);
    i.lights = std::move(list.lights);
    i.reach = std::move(list.reach);
    i.directional = list.directional;
    return i;
}

std::vector<CellLight> cell_lights(const Inspection& i, std::size_t cell) {
    std::vector<CellLight> out;
    auto g = i.grid.indices.begin() + i.grid.offsets[cell], gEnd = i.grid.indices.begin() + i.grid.offsets[cell + 1];
    auto e = i.exact.indices.begin() + i.exact.offsets[cell],
         eEnd = i.exact.indices.begin() + i.exact.offsets[cell + 1];
    while (g != gEnd || e != eEnd) { // both ascend
        const std::uint32_t next = g == gEnd ? *e : e == eEnd ? *g : std::min(*g, *e);
        CellLight l{next, g != gEnd && *g == next, e != eEnd && *e == next};
        if (l.listed) ++g;
        if (l.needed) ++e;
        out.push_back(l);
    }
    return out;
}

int tile_length(const LightGrid& grid, int column, int row) {
    std::uint32_t most = 0;
    for (int s = 0; s < grid.slices; ++s)
        most = std::max(most, grid.count((std::size_t(s) * grid.rows + row) * grid.columns + column));
    return static_cast<int>(most);
}

std::vector<int> length_histogram(const LightGrid& grid) {
    std::vector<int> out;
    for (int y = 0; y < grid.rows; ++y)
        for (int x = 0; x < grid.columns; ++x) {
            const auto n = static_cast<std::size_t>(tile_length(grid, x, y));
            if (out.size() <= n) out.resize(n + 1, 0);
            ++out[n];
        }
    return out;
}

std::vector<std::size_t> worst_cells(const Inspection& i) {
    std::vector<std::pair<std::pair<int, int>, std::size_t>> bad;
    for (std::size_t c = 0; c < i.grid.cells(); ++c) {
        int missed = 0, needless = 0;
        for (const CellLight& l : cell_lights(i, c)) {
            missed += l.needed && !l.listed;
            needless += l.listed && !l.needed;
        }
        if (missed || needless) bad.push_back({{missed, needless}, c});
    }
    std::stable_sort(bad.begin(), bad.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<std::size_t> out;
    for (const auto& [rank, c] : bad)
        out.push_back(c);
    return out;
}

} // namespace mirolux::cull
