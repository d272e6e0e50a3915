#pragma once
#include "core/plan/settings.h"
#include "core/plan/view.h"

// Where a flat stage's units lie in a picture, and the sprites that it shows.
namespace mirolux::flat {

/// A camera of a flat stage: `span` units from the picture's bottom to its top.
Camera camera_at(const glm::vec2& center, float span, std::string name = {});

/// What a view shows of the plane.
struct Window {
    glm::dvec2 low{0.0}, high{1.0}; // units
    int width = 1, height = 1;      // pixels

    double units() const { return (high.y - low.y) / height; } // of a pixel
    /// Of a point of the picture, in pixels from its top left corner.
    glm::dvec2 at(const glm::dvec2& pixel) const;
    /// And back.
    glm::dvec2 pixel(const glm::dvec2& point) const;
    bool touches(const glm::dvec2& otherLow, const glm::dvec2& otherHigh) const;
};
Window window_of(const View& view);

/// The view in the stage's own pixels, each as large as `flat.pixelScale` of the picture's: what sprites and lights are
/// drawn in before they are shown.
View stage_view(const Setup& setup, const View& view);
/// Which of them shows at a pixel of the picture; both from the top left.
glm::ivec2 stage_pixel(const View& view, const View& stage, const glm::ivec2& pixel);

/// One cell of a sheet in the picture, as the device gets it: 96 bytes.
struct Quad {
    glm::vec2 middle{0.0f};      // units
    glm::vec2 right{0.5f, 0.0f}; // half its width, half its height
    glm::vec2 up{0.0f, 0.5f};
    glm::vec2 uvLow{0.0f}, uvSize{1.0f}; // of the sheet, from its top left
    glm::vec2 glow{1.0f, 0.0f};          // x: multiplies emission, y: normal scale
    glm::vec4 tint{1.0f};
    std::uint32_t layer = 0;  // of the world
    std::uint32_t flags = 0;  // 1: lit, 2: has normals, 4: has emission, 8: shadows fall on it
    std::uint32_t sprite = 0; // Sprite::id and one; 0: a tile
    std::uint32_t pad[5] = {};
};
static_assert(sizeof(Quad) == 96);

/// Neighbours in drawing order that take from one sheet.
struct QuadRun {
    int sheet = -1;
    std::uint32_t first = 0, count = 0;
};

struct Quads {
    std::vector<Quad> quads; // back to front
    std::vector<QuadRun> runs;
};

/// What the view shows at its time; sprites that it does not touch are left out.
Quads quads_of(const World& world, const View& view);

/// Half a sprite's width and height in units, before it is scaled.
glm::dvec2 half_size(const World& world, const Sprite& sprite);
/// How far a layer lies from where its sprites say, for this camera.
glm::dvec2 shift_of(const Layer& layer, const Camera& camera);

} // namespace mirolux::flat
