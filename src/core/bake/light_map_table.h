#pragma once
#include "core/bake/baked_light.h"
#include "core/cost/frame_record.h"

// What each way of keeping a light map takes and loses, side by side.
namespace mirolux {

/// A complete map of the scene as it stands.
struct KnownMap {
    std::filesystem::path index;
    LightMapOptions options;
    int width = 0, height = 0, layers = 1;
};
/// All that the folder of bakes holds, the densest first; of one density the one with most paths.
std::vector<KnownMap> known_maps(const Scene& scene, const Setup& setup);

/// What a picture with a map differs by from the live one: luminance, over the live picture's mean.
struct LiveDifference {
    double mean = 0;   // by pixel
    double coarse = 0; // by squares of six pixels: what noise and edges leave
    double bias = 0;   // of the whole; over 0: the map is brighter
};

struct LightMapRow {
    LightMapOptions options;
    TexelStore store = TexelStore::half;
    DirectionKind kind = DirectionKind::plain;
    int width = 0, height = 0;
    std::size_t bytes = 0;    // on the device
    double storeError = 0;    // of the map's light by its store alone, mean over its mean
    double pictureError = 0;  // of the picture against the best map's, mean of luminance over its mean
    double highlightKept = 0; // share of live lamps' specular light in the picture that is still there, 0 to 1
    bool chosen = false;      // as the setup has it
    std::optional<LiveDifference> live{};
};
struct LightMapTable {
    std::vector<LightMapRow> rows; // by map, then kind, then store
    double highlights = 0;         // mean luminance of live specular light in the picture, cd/m2
    std::vector<std::string> remarks;
    double referenceNoise = 0; // standard error of the live picture's bounced light, over its mean light
};

/// The setup that reads a row's map.
Setup setup_of(const LightMapRow& row, Setup setup);
/// Renders the view with every map that was baked, in every store and kind, and once live. Highlights are held against
/// live straight light with the setup's shadows. Errors: none was baked; the session's. `more`: called between
/// pictures with the share done; false: stop. reference: paths a pixel of the bounced light (as many bounces as the
/// setup bakes) that joins live straight light and what glows, for LightMapRow::live of maps with as many bounces; 0:
/// they have none. The scene's pictures must be read for it.
Result<LightMapTable> light_map_table(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                                      const std::function<bool(double share)>& more = {}, int reference = 0);

} // namespace mirolux
