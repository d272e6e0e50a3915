#pragma once
#include "core/cull/light_grid.h"
#include "core/plan/draw_list.h"

namespace mirolux::cull {

/// The light lists of a frame beside their exact reference, with all that a person asks of a tile.
struct Inspection {
    View view;
    GridSettings settings;
    DepthPicture depth;
    std::vector<Light> lights; // of the view (DrawList), which the lists count
    std::vector<float> reach;  // metres, parallel to lights
    int directional = 0;       // the first lights, in no list
    LightGrid grid, exact;
    Audit audit;

    std::size_t cell(int column, int row, int slice) const {
        return (std::size_t(slice) * grid.rows + row) * grid.columns + column;
    }
};

/// Brute force over the depth picture: costs samples x lights, on all cores.
Inspection inspect(const Scene& scene, const Setup& setup, const View& view, LightGrid grid, DepthPicture depth);

/// A light of a cell: in its list, needed by a sample, or both.
struct CellLight {
    std::uint32_t index = 0;             // into Inspection::lights
    bool listed = false, needed = false; // listed alone: needless; needed alone: missed (or overflowed)
};
/// By index.
std::vector<CellLight> cell_lights(const Inspection& inspection, std::size_t cell);

/// Longest list among a tile's slices.
int tile_length(const LightGrid& grid, int column, int row);
/// Tiles (row * columns + column) by list length: entry n counts the tiles whose longest list holds n lights.
std::vector<int> length_histogram(const LightGrid& grid);
/// Cells worst first: most missed, then most surplus; cells with neither are left out.
std::vector<std::size_t> worst_cells(const Inspection& inspection);

} // namespace mirolux::cull
