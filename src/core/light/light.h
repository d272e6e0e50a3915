#pragma once
#include <cstdint>
#include <glm/glm.hpp>
#include <optional>
#include <string>
#include <vector>

namespace mirolux {

enum class LightType { directional, point, spot };
enum class IntensityUnit { candela, lumen, lux };
enum class RangeWindow { squared, unsquared }; // Karis 2013 squares the window; glTF recommends it unsquared

enum class ShadowMode {
    asAll, // as the setup says
    none,  // it shines through everything
    hard,  // one lookup, a sharp edge
    soft   // at least as soft as its source's size makes it
};

/// How one light's shadow differs from what the setup says; empty: it does not.
struct LightShadow {
    ShadowMode mode = ShadowMode::asAll;
    int resolution = 0;                  // texels along a side of each of its maps; 0: by importance
    std::optional<float> bias{};         // metres
    std::optional<float> slopeBias{};    // texels
    std::optional<float> normalOffset{}; // texels
    std::optional<float> near{};         // metres
    std::optional<float> opacity{};      // 0 to 1

    bool operator==(const LightShadow&) const = default;
};

/// How the beam of mesh of one light differs from what the setup says (`beams.kind`); empty: it does not.
struct LightBeam {
    bool on = true;
    std::optional<float> strength{};        // 1/m
    std::optional<float> length{};          // metres; its range, or the setup's halo
    std::optional<float> along{}, across{}; // exponents of the falloff

    bool operator==(const LightBeam&) const = default;
};

/// What makes a light of the Flat stage: how far its edge is counted from.
enum class FlatShape {
    round,   // a point; spots and directional lights as well
    line,    // a straight tube
    picture, // a sheet's first cell is its profile
    text     // what is written shines
};

/// What a light has on the Flat stage beside its other fields. There its place is position.xy, its height above the
/// stage position.z, its range and all lengths are in units, and intensity has no unit: 1 shows a sheet as it is.
struct LightFlat {
    FlatShape shape = FlatShape::round;
    std::string picture{}; // Sheet::name
    std::string text{};
    float length = 32.0f;              // of a line
    float size = 16.0f;                // of a picture or a text: its height
    float turn = 0.0f;                 // radians, of a line, picture or text
    float falloff = 2.0f;              // exponent of 1 - (d/range)^2
    float strongest = 0.0f;            // it lifts the sum of lights no higher than this; 0: no limit
    std::vector<std::string> layers{}; // that it reaches; empty: all
    bool casts = true;                 // shadows

    bool operator==(const LightFlat&) const = default;
};

/// What of a light is computed beforehand, where surfaces take light from a light map (`indirect.kind`).
enum class Mobility {
    still,    // all of it
    switched, // all of it, in a layer of the map of its own: it may be dimmed, coloured and switched
    mixed,    // its bounced light; what comes straight from it is live
    moving    // nothing
};
inline constexpr Mobility all_mobilities[] = {Mobility::still, Mobility::switched, Mobility::mixed, Mobility::moving};

/// A punctual light in world space, fields as in glTF KHR_lights_punctual.
struct Light {
    int id = -1; // unique in a project; lights of the scene file carry their glTF node index
    std::string name;
    LightType type = LightType::point;
    bool enabled = true;
    glm::vec3 color{1.0f};                       // scene-linear, Rec. 709 primaries; used when kelvin is 0
    float kelvin = 0.0f;                         // colour temperature; 0 = use color
    float intensity = 1.0f;                      // candela (point, spot) or lux (directional)
    IntensityUnit unit = IntensityUnit::candela; // the unit it is shown and edited in
    float range = 0.0f;                          // metres, 0 = unbounded
    glm::vec3 position{0.0f};                    // metres
    glm::vec3 direction{0.0f, -1.0f, 0.0f};      // unit; the way the light travels
    float innerConeAngle = 0.0f;                 // radians from the axis
    float outerConeAngle = 0.7853982f;           // radians from the axis
    float fadeInner = 0.0f,
          fadeOuter =
              0.0f; // metres from the eye: full up to inner, not rendered from outer on; outer 0: as the setup says
    float sourceSize = 0.0f; // what shines: the diameter of a ball in metres; of a directional light, radians across
    float diffuseShare = 1.0f, specularShare = 1.0f; // of what its two lobes give; specular 0 hides a highlight
    LightShadow shadow{};
    std::optional<float> airShare{}; // what of its light the air shows; empty: as all
    LightBeam beam{};
    LightFlat flat{};
    Mobility mobility = Mobility::still;
    float indirectShare = 1.0f; // of its bounced light, in what is computed beforehand

    bool operator==(const Light&) const = default;
};

enum class MotionKind { sweep, shuttle, blink, pulse, flicker, turn, path };

/// How a light changes with the scene's time.
struct Motion {
    int light = -1; // Light::id
    MotionKind kind = MotionKind::sweep;
    float period = 4.0f;          // seconds
    float phase = 0.0f;           // 0 to 1 of a period
    float angle = 6.2831853f;     // sweep: radians about the vertical; a whole turn goes round, less swings to and fro
    glm::vec3 travel{0.0f};       // shuttle: metres to and fro from the light's place
    float duty = 0.5f;            // blink: share of the period that it is lit
    float depth = 0.5f;           // pulse, flicker: share of its intensity that goes, 0 to 1
    std::uint32_t seed = 1;       // flicker: which noise; the period is that of its slowest octave
    std::vector<glm::vec3> way{}; // path: places beside the light's own, gone round in one period at one speed

    bool operator==(const Motion&) const = default;
};

const char* word(LightType);
const char* word(IntensityUnit);
const char* word(MotionKind);
const char* word(FlatShape);
const char* word(ShadowMode); // as-all, none, hard, soft
const char* word(Mobility);

/// The lights as they stand at a time in seconds; lights without motion are copied.
std::vector<Light> lights_at(const std::vector<Light>& lights, const std::vector<Motion>& motions, double seconds);

/// Intensity in the light's own unit, and back. lm of a point = 4 pi cd; of a spot = 2 pi (1 - cos outer) cd.
float intensity_in(const Light& light, IntensityUnit unit);
float intensity_from(const Light& light, IntensityUnit unit, float value);

/// Scene-linear Rec. 709 colour of a black body, largest channel 1.
/// Planckian locus after Kim et al. 2002 (cubic spline in CIE xy, 1667 K to 25000 K; clamped outside).
glm::vec3 color_of_kelvin(float kelvin);

/// Most that sourceSize may be: metres, or radians of a directional light.
inline float most_source_size(LightType type) {
    return type == LightType::directional ? 1.0471976f : 20.0f;
}

/// The colour the light shines with: its temperature's if it has one, else `color`.
inline glm::vec3 effective_color(const Light& light) {
    return light.kelvin > 0.0f ? color_of_kelvin(light.kelvin) : light.color;
}

} // namespace mirolux
