#pragma once
#include <cstdint>
#include <glm/glm.hpp>
#include <string>
#include <vector>

namespace mirolux {

/// One surface that covers a pixel, as its shader sees it.
struct SurfaceSample {
    glm::vec3 position{0.0f};                      // world, metres
    glm::vec3 normal{0.0f};                        // world, unit
    glm::vec3 baseColor{0.0f};                     // linear
    glm::vec3 emissive{0.0f};                      // cd/m2; of unlit surfaces their base colour
    glm::vec3 ambient{0.0f};                       // reflected ambient light, cd/m2
    glm::vec3 mirrored{0.0f};                      // the part of it that is mirrored surroundings
    glm::vec3 reflected{0.0f};                     // the part of that which the screen answers
    glm::vec3 probes{0.0f};                        // the part of ambient that probes give
    glm::vec3 baked{0.0f};                         // sent on of light from a map, cd/m2
    bool mapped = false;                           // it has a place in one: no light of the map is live there
    int answer = 0;                                // ScreenAnswer to its mirrored ray
    float bakedOcclusion = 1, screenOcclusion = 1; // shares of ambient light, the material's and the screen's
    float depth = 0;                               // as the depth buffer holds it: reversed, 1 at the near plane
    float alpha = 1;
    float metallic = 0, roughness = 1;
    float thickness = 0; // metres, as its material tells it; 0: it does not
    bool unlit = false;
    std::uint32_t draw = 0;            // into DrawList: opaque draws, then blended ones
    std::uint32_t triangle = 0;        // within the draw: orders surfaces of one draw
    std::vector<float> lightFactors{}; // by the view's lights: what techniques leave of each; empty: all of them
    /// By the view's lights: metres that each has gone through the thing (-1: it does not come through), and what
    /// techniques leave of it where it goes in. Empty: of none.
    std::vector<glm::vec2> lightThrough{};
    glm::vec4 air{0, 0, 0, -1}; // of cells of air before it: what they add, cd/m2, and let through; -1: none

    bool operator==(const SurfaceSample&) const = default;
};

/// The value of the shown pixel after a stage that follows the surfaces.
struct PixelStage {
    std::string name;      // "frames joined", "bloom", "exposed", "tone curve"
    glm::vec3 value{0.0f}; // cd/m2 until it is exposed; then 1 is white; at last the codes over 255

    bool operator==(const PixelStage&) const = default;
};

/// All that covers one pixel, in no order, and the pixel's radiance in the scene target.
struct PixelProbe {
    glm::ivec2 pixel{0};      // of what is rendered: column, row from the top
    glm::ivec2 shown{0};      // of the picture
    glm::vec3 radiance{0.0f}; // cd/m2 per channel, before exposure
    std::vector<SurfaceSample> samples;
    glm::vec4 airBeforeSky{0, 0, 0, -1}; // as SurfaceSample::air
    glm::vec3 spread{0.0f};              // what light spread beneath the last surface adds or takes, cd/m2
    glm::vec3 shafts{0.0f};              // what shafts add, cd/m2
    std::vector<PixelStage> stages{};    // in their order, the first what the surfaces left
    std::vector<glm::vec3> airByLight{}; // of the view's lights what these cells show before what ends the pixel, cd/m2
};

/// What one light costs and gives in a frame.
struct LightShare {
    int light = -1;                // Light::id
    std::uint64_t evaluations = 0; // times it was taken up for a fragment
    double luminance = 0;          // sum over pixels of what it adds, cd/m2, through the panes before it
    std::uint64_t shadowTaps = 0;  // depths of its shadow maps compared or searched
    double shadowMs = 0;           // fenced, of drawing its maps
    std::uint64_t airCells = 0;    // cells of air that it was taken up for
    double airLuminance = 0;       // sum over pixels of what the air shows of it, cd/m2
};

/// What one cheap light costs and gives in a frame.
struct CheapShare {
    int light = -1;              // CheapLight::id
    std::uint64_t fragments = 0; // that it lies on
    double ms = 0;               // fenced, of drawing it alone
    double luminance = 0;        // sum over pixels of what it changes, cd/m2; under 0: it darkens
};

/// What one object costs in a frame.
struct ObjectShare {
    int object = -1;               // into Scene::objects()
    std::uint64_t fragments = 0;   // shaded for its draws, hidden ones included
    std::uint64_t evaluations = 0; // lights taken up for its fragments
};

} // namespace mirolux
