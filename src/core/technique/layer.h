#pragma once
#include "core/technique/setting.h"
#include <string>
#include <vector>

namespace mirolux {

/// How the values of a layer become a picture.
enum class LayerView {
    radiance, // cd/m2: exposure and tone curve
    color,    // linear 0..1: sRGB
    vector,   // -1..1 shown as 0..1
    plain,    // 0..1 as it is
    depth,    // near white to far black, ranged to what is in view
    motion,   // pixels: direction as hue, length as brightness
    grey,     // the first channel, 0..1 as it is
    bands,    // the picture's own codes, drawn apart; steps between wide bands marked
    stops,    // cd/m2: stops of luminance about middle grey, a colour each
    clips,    // cd/m2: shown in grey, with what the display clips and crushes marked
    dither    // what is added to the picture's pixels before they are rounded: grey is nothing
};

/// What the sky adds to a layer: its own light as it comes through the air, or what the air before it sends.
enum class SkyPart { none, own, scattered };

/// An intermediate of the frame that can be looked at. Either a resource of the plan, or a value of the surfaces that
/// the layers pass draws: then the shader `file` holds `vec4 layer_<name>(LayerInput)`.
struct LayerInfo {
    std::string name{}, label{}, help{};
    LayerView view = LayerView::plain;
    std::string resource{};    // of the plan; empty: drawn by the layers pass
    std::string file{};        // shader that holds the layer's function
    bool throughGlass = false; // blended surfaces join it by their alpha; else it shows the nearest opaque surface
    SkyPart sky = SkyPart::none;
    bool addsUp = false;             // one of the parts whose sum is the picture's radiance
    bool panes = false;              // blended surfaces cover what lies behind them, from `least_cover` on
    bool exact = false;              // drawn in full floats, for numbers that half floats do not hold
    bool ofLight = false;            // belongs to one light, which RenderOptions::light names
    std::string role{};              // on a sheet of layers, of one that does not add up: "multiplies ambient light"
    std::vector<Condition> when{};   // as of settings: when it shows anything of its own; none: always
    std::vector<Condition> orWhen{}; // where not empty: it shows under these as well
    Stages stages = Stages::solid;   // of its technique
};

/// Every layer of every technique, in frame order.
const std::vector<LayerInfo>& all_layers();
/// The layer of this name, or null.
const LayerInfo* find_layer(const std::string& name);

} // namespace mirolux
