#pragma once
#include "core/bake/baked_index.h"
#include "core/bake/map_points.h"
#include "core/image/image.h"
#include <memory>

// What every bake by texel begins with.
namespace mirolux {

/// What of surfaces a digest is of, beside what rays ask of them.
struct SurfaceTraits {
    bool layout = true;  // how finely each lies in maps
    bool colors = false; // what it reflects and gives
};
/// Digest of what stands still and is drawn: places, shapes, materials. What is hidden has no part in it.
std::string surfaces_digest(const Scene& scene, const Setup& setup, SurfaceTraits traits);

/// The layout of a scene; the few asked for last are kept. From any thread.
std::shared_ptr<const Result<LightMapLayout>> kept_layout(const Scene& scene, const Setup& setup, float density);

/// A scene of what stands still alone, laid out, with rays through it and the points of its texels.
struct TexelWork {
    Scene scene;
    std::shared_ptr<const LightMapLayout> layout;
    std::shared_ptr<const RayScene> rays;
    std::vector<MapPoint> targets;
};
/// Errors: as lay_out_light_map; there is no folder for bakes, or it cannot be made. `what`: of the error's text.
Result<TexelWork> texel_work(const Scene& scene, const Setup& setup, float density, const std::string& what);
Result<void> make_bakes_folder(const Scene& scene, const std::string& what);

/// Texels of a chart's area that have nothing of their own take what the nearest one has: copy(from, to), numbers of
/// texels. known: by texel, 1 where it has; 2 afterwards where it was given.
void spread_in_charts(const LightMapLayout& layout, std::vector<std::uint8_t>& known,
                      const std::function<void(std::size_t from, std::size_t to)>& copy);
/// The same of all texels, over the borders of charts.
void spread_between(const LightMapLayout& layout, std::vector<std::uint8_t>& known,
                    const std::function<void(std::size_t from, std::size_t to)>& copy);

} // namespace mirolux
