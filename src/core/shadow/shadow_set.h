#pragma once
#include "core/plan/draw_list.h"
#include "core/shadow/cascades.h"
#include "core/shadow/shadow_atlas.h"

// Which lights of a frame have shadow maps, where these lie in the atlas, how the world falls on them, and what is
// drawn into each.
namespace mirolux {

/// How a shadow map is looked up. In the order of shaders/shadow_maps/lookup.glsl.
enum class ShadowFilter {
    hard,        // one texel
    bilinear,    // four, weighed
    disc,        // taps on a disc of fixed size, turned from pixel to pixel
    pcss,        // the same, as wide as the light's source makes the penumbra (R. Fernando, Percentage-Closer Soft
                 // Shadows, 2005)
    variance,    // by blurred depths and their squares: core/shadow/filterable_depth.h
    exponential, // the same of depths warped by exponentials
    moments      // by four moments of depth
};
inline bool is_filterable(ShadowFilter f) {
    return f >= ShadowFilter::variance;
}

/// What surfaces that are seen through cast.
enum class BlendedCasters { nothing, whole, dithered };

/// When maps are drawn anew.
enum class ShadowUpdate {
    always,  // each frame
    changed, // when the light, what casts into it, or its place has changed
    inTurn   // the oldest few of a frame; they lag behind what moves
};

/// What one light's shadow is made with: the setup's values, or the light's own.
struct ShadowLook {
    ShadowFilter filter = ShadowFilter::hard;
    double bias = 0;         // metres toward the light
    double slopeBias = 0;    // texels: by what the surface's depth changes over so many
    double normalOffset = 0; // texels along the normal, times the sine of its angle to the map's axis
    double opacity = 1;
    double near = 0.3;  // metres from the light where casters begin
    int resolution = 0; // texels along a side of each map; 0: by importance

    bool operator==(const ShadowLook&) const = default;
};

/// Outer angle of a spot beyond which it takes six maps like a point: one would be coarse in its middle. As lights hold
/// it.
inline constexpr float widest_spot = 1.2f; // radians

enum class MapKind { none, cascades, single, faces };

/// One map. Its matrix takes the world to x and y from -1 to 1 and to a depth that is 1 at the near end and falls away
/// from the light: near / w of spots and points (reversed, endless), evenly over `range` metres of a cascade.
struct ShadowMap {
    int light = -1, face = 0;    // into DrawList::lights; cascade, or face of a cube
    int x = 0, y = 0, size = 0;  // texels of the atlas, from its lower left
    int layer = -1;              // of the cubes, where it is a face of one; -1: it lies in the atlas
    glm::dmat4 toMap{1.0};       // clip space
    bool perspective = false;    // a spot's or a point's
    double near = 0, range = 0;  // metres: perspective, or not
    double reach = 0;            // metres along the axis, beyond which nothing is asked
    double tangent = 1;          // half the map's width at distance 1, or in metres
    Cascade cascade{};           // of a directional light
    std::vector<int> casters{};  // objects, into Scene::objects()
    std::uint64_t triangles = 0; // of them

    /// Width of a texel in metres at a distance along the map's axis (perspective).
    double texel(double distance) const { return 2 * tangent / size * (perspective ? distance : 1); }
};

/// A light that has maps.
struct ShadowedLight {
    int light = -1; // into DrawList::lights
    MapKind kind = MapKind::none;
    int first = 0, count = 0; // into ShadowSet::maps
    ShadowLook look;
    double importance = 0;
};

struct ShadowSet {
    int width = 0, height = 0;   // texels of the atlas; 0: none is needed
    int cubes = 0, cubeSize = 0; // points whose maps are cubes, all of one size
    std::vector<ShadowMap> maps;
    std::vector<ShadowedLight> lights; // by their place in DrawList::lights
    std::vector<MapRefused> refused;   // lights of the view that would cast and have no map
    CascadeChoices cascades;

    const ShadowedLight* of(int light) const; // into DrawList::lights; null: has none
};

/// What a texel of the atlas takes with all that is made of it.
double bytes_of_texel(const Setup& setup);
/// True if depths of still casters are kept beside the maps.
bool keeps_still_apart(const Setup& setup);
ShadowFilter shadow_filter(const Setup& setup);
BlendedCasters blended_casters(const Setup& setup);
ShadowUpdate shadow_update(const Setup& setup);
CascadeChoices cascade_choices(const Setup& setup);
/// A light's own values where it has them, else the setup's.
ShadowLook shadow_look(const Light& light, const Setup& setup);

/// The maps of a frame; none when the setup has none. Directional lights go first, the rest by projected size times
/// intensity. With stereo one set serves both eyes. Costs maps x objects box tests.
ShadowSet shadow_set(const Scene& scene, const Setup& setup, const View& view, const DrawList& draws);

} // namespace mirolux
