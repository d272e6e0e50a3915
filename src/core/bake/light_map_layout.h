#pragma once
#include "core/bake/chart_layout.h"
#include "core/plan/settings.h"

// Where each surface that stands still lies in a scene's light map.
namespace mirolux {

struct LightMapLayout {
    struct Place {
        int object = -1;   // into Scene::objects()
        int mesh = -1;     // into meshes
        int x = 0, y = 0;  // of the mesh's rectangle, texels
        float density = 0; // texels a metre of its surface in the world, on the mean
    };
    std::vector<MappedMesh> meshes; // a mesh once for each density that its objects need
    std::vector<Place> places;      // by object, ascending
    int width = 0, height = 0;      // texels
    std::size_t covered = 0;        // texels that surfaces lie on
    double area = 0;                // of those surfaces, square metres
    std::vector<std::string> remarks;

    /// Share of the map that surfaces lie on.
    double filled() const { return width > 0 ? double(covered) / (double(width) * height) : 0; }
    float stretch() const; // the largest of all charts
};

/// Lays out all that stands still, is drawn, is not seen through, is no skin and has map detail. density: texels a
/// metre asked for, times each object's detail: a mesh is laid out at the next lower step of a factor of 1.41, so that
/// objects of about one size share a layout; a single object has `most` texels a side at most, and a lower density
/// where that does not do, which is said. Errors: nothing stands still; the map would be larger than 16384 texels a
/// side.
Result<LightMapLayout> lay_out_light_map(const Scene& scene, const Setup& setup, float density, int most = 2048);

} // namespace mirolux
