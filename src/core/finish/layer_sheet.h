#pragma once
#include "core/cost/frame_record.h"
#include "core/technique/layer.h"
#include <filesystem>

// A whole frame broken into its layers: each alone, the sum so far, and what is done to the sum.
namespace mirolux {

/// What a layer is to the picture: "adds", "part of Ambient", "multiplies ambient light", "shown".
std::string role_of(const LayerInfo& layer);

struct SheetCell {
    std::string name, label, role;
    ByteImage picture; // of the cell's size
};

struct LayerSheet {
    std::vector<SheetCell> parts;  // layers that add up, in frame order; last, if it is not black: what no layer shows
    std::vector<SheetCell> sums;   // parallel to parts: the sum so far, as the picture is exposed
    std::vector<SheetCell> others; // parts of parts, factors, what the finish adds, and the picture itself
    std::vector<std::pair<std::string, FloatImage>> values; // all of them with their plain values, by name
    double rest = 0;  // what the scene before bloom has apart from the sum of its layers: share of its light
    double worst = 0; // the same at the worst pixel: over the larger of a channel and 0.05 cd/m2
};

/// The sheet's layers for a setup, in the order of its cells.
std::vector<const LayerInfo*> sheet_layers(const Setup& setup);

/// Asks for the frame once, at one sample a pixel of the view's size. grey: black and white. Errors: the session's; a
/// flat stage, whose layers do not add up.
Result<LayerSheet> layer_sheet(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                               int cellWidth, int cellHeight, bool grey);

/// All cells as one picture, named, with what they are to the picture: parts over their sums, then the others.
ByteImage sheet_picture(const LayerSheet& sheet, int columns);
/// OpenEXR 2.0 with a part for each layer, 32-bit float.
Result<void> write_sheet(const std::filesystem::path& path, const LayerSheet& sheet);

} // namespace mirolux
