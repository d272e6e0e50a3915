#pragma once
#include "core/light/falloff.h"
#include "core/plan/view.h"
#include <array>
#include <cstdint>
#include <vector>

// Light lists of screen tiles and of clusters: the same definitions as the GPU's kernels
// (gpu/shaders/cull_compute.glsl), in C++.
namespace mirolux::cull {

enum class DepthBounds { off, minMax, mask };
enum class TileTest { spherePlanes, sphereBox };

struct GridSettings {
    int tile = 16; // pixels: 8, 16, 32, 64
    DepthBounds depthBounds = DepthBounds::mask;
    TileTest test = TileTest::sphereBox;
    bool coneTest = true;
    int slices = 1; // clusters: depth slices; 1 = tiles
    float sliceNear = 0.5f,
          sliceFar = 120.0f; // metres: the exponential slices lie between; nearer and farther go to the first and last
    float sliceExponent = 1.0f; // slice i begins at near * (far / near)^((i / slices)^exponent)
    int capacity = 256;         // most lights that a list holds; the least contributing leave first
};

/// View-space depths (metres, 0 = nothing there) of a picture, rows from the top.
struct DepthPicture {
    int width = 0, height = 0;
    std::vector<float> metres;
};

/// A light in view space: what the tests need of it.
struct CullLight {
    glm::vec3 position{0.0f}; // metres, camera looks along -z
    float reach = 0.0f;
    glm::vec3 direction{0.0f, 0.0f, -1.0f};
    float cosOuter = -1.0f, sinOuter = 0.0f; // of spots; -1: a point
    Sphere bounds;                           // view space
    float strength = 0.0f;                   // strongest channel, cd: ranks contributions on overflow
};

/// Lists of all cells. Cell index: (slice * rows + row) * columns + column. Lights ascend within a list.
struct LightGrid {
    int columns = 0, rows = 0, slices = 1, tile = 16;
    std::vector<std::uint32_t> offsets; // cells + 1
    std::vector<std::uint32_t> indices;
    std::uint64_t overflow = 0; // lights that did not fit, summed over cells
    int overflowCells = 0;

    std::size_t cells() const { return offsets.empty() ? 0 : offsets.size() - 1; }
    std::uint32_t count(std::size_t cell) const { return offsets[cell + 1] - offsets[cell]; }
};

std::vector<CullLight> view_lights(const std::vector<Light>& lights, const std::vector<float>& reach, int firstBounded,
                                   const Camera& camera);

/// The slice that a view depth (metres, positive) falls in: exponential between near and far (Olsson, Billeter,
/// Assarsson, Clustered Deferred and Forward Shading, 2012) for a slice exponent of 1.
int slice_of(float depth, const GridSettings& settings);
/// Near and far of a slice, metres; the first starts at `cameraNear`, the last ends at infinity (1e30).
std::pair<float, float> slice_range(int slice, const GridSettings& settings, float cameraNear);

/// Conservative lists by the settings' tests: a light that reaches a visible sample of a cell is in the cell's list,
/// unless it overflowed. `depth` is used by min-max and mask (mask: M. Harada, A 2.5D Culling for Forward+, 2012);
/// cells without any sample get empty lists then. Lights are numbered by their place in `lights` plus `firstIndex`.
/// Runs over cells in parallel; costs cells x lights sphere tests, less what whole tile rows and columns reject.
LightGrid cull_lights(const std::vector<CullLight>& lights, std::uint32_t firstIndex, const View& view,
                      const DepthPicture& depth, const GridSettings& settings);

/// The lists of blended surfaces: as cull_lights, but without a near bound from opaque depth. A tile reaches from the
/// eye to its farthest sample, or to infinity where a pixel is open or depth bounds are off; slices are cut there.
LightGrid cull_transparent(const std::vector<CullLight>& lights, std::uint32_t firstIndex, const View& view,
                           const DepthPicture& depth, const GridSettings& settings);

/// What the depth bounds know of one slice of a tile.
struct CellBounds {
    float near = 0, far = 0; // metres of view depth; far 0: no sample
    std::uint32_t mask = 0;  // which 32nds of near..far hold samples
};
/// The samples of a tile by slice: bounds and occupancy, whatever the settings make of them.
std::vector<CellBounds> cell_bounds(const View& view, const DepthPicture& depth, const GridSettings& settings,
                                    int column, int row);

/// The eight corners of a cell, view space: near four, then far four (counter-clockwise from the left bottom).
std::array<glm::vec3, 8> cell_corners(const View& view, const GridSettings& settings, int column, int row, float near,
                                      float far);

/// The exact reference: lights whose range and cone hold at least one visible sample of the cell, by brute force over
/// the picture.
LightGrid exact_lists(const std::vector<CullLight>& lights, std::uint32_t firstIndex, const View& view,
                      const DepthPicture& depth, const GridSettings& settings);

/// A grid held against the exact reference.
struct Audit {
    std::uint64_t missed = 0; // needed, not listed, and not counted as overflow
    std::uint64_t listed = 0, needed = 0;
    double surplus = 0; // listed / needed - 1
    std::uint64_t overflow = 0;
    double mean = 0; // of list lengths over cells that hold samples
    int p95 = 0, max = 0;
    int worstCell = -1; // most missed, else most surplus
};
Audit audit(const LightGrid& grid, const LightGrid& exact);

} // namespace mirolux::cull
