#pragma once
#include "core/light/proxy.h"
#include <string>

// Light that costs little and stands for light that does not: colour laid over surfaces by how they face the
// eye, and flat tints inside a low-poly shape. No path tracer knows it: nothing in a scene sends it.
namespace mirolux {

enum class CheapShape {
    viewLocked, // a colour ramp over the view-space normal
    ball,       // a flat tint inside a low-poly ball
    cone        // inside a low-poly cone
};
inline constexpr CheapShape cheapShapes[] = {CheapShape::viewLocked, CheapShape::ball, CheapShape::cone};
const char* word(CheapShape); // view-locked, ball, cone

/// How a ramp's colour c, of amount a and luminance w, joins the surface's radiance r.
enum class CheapBlend {
    add,      // r + a c w
    multiply, // r mix(1, c, a)
    screen,   // r + a c (w - r): never over w where r was not
    mix       // mix(r, c w, a)
};
inline constexpr CheapBlend cheapBlends[] = {CheapBlend::add, CheapBlend::multiply, CheapBlend::screen,
                                             CheapBlend::mix};
const char* word(CheapBlend);

struct RampStop {
    float at = 0;          // along the ramp: 0 faces away from `toward`, 1 faces it
    glm::vec3 color{1.0f}; // linear, Rec. 709; over 1 only where it multiplies
    float amount = 1;      // 0 to 1

    bool operator==(const RampStop&) const = default;
};
inline constexpr std::size_t most_ramp_stops = 4;

/// View-locked light or solid-shape light.
struct CheapLight {
    int id = -1; // unique among a project's cheap lights
    std::string name;
    bool enabled = true;
    CheapShape shape = CheapShape::viewLocked;
    std::vector<int> standsFor{}; // Light::id of the lights whose place it takes

    // View-locked: `toward` is unit, in the eye's axes: right, up, toward the eye.
    glm::vec3 toward{0, 1, 0};
    std::vector<RampStop> ramp{}; // ascending, one to four
    CheapBlend blend = CheapBlend::add;
    float luminance = 1;                // cd/m2 of the colour 1
    std::vector<std::string> objects{}; // ObjectName::id; empty: all

    // Ball and cone: the tip or the middle; the way that the cone opens, unit; the ball's radius or the cone's length,
    // metres; the cone's half angle, radians; what radiance inside is multiplied with.
    glm::vec3 position{0.0f}, direction{0, -1, 0};
    float reach = 3, angle = 0.5f;
    glm::vec3 tint{2.0f};

    bool operator==(const CheapLight&) const = default;
    bool solid() const { return shape != CheapShape::viewLocked; }
};

/// What is done to a surface's radiance: radiance * keeps + adds, per channel. Such changes follow each other as one.
struct RadianceChange {
    glm::dvec3 keeps{1.0}, adds{0.0};
    glm::dvec3 of(const glm::dvec3& radiance) const { return radiance * keeps + adds; }
    void then(const RadianceChange& next) {
        keeps *= next.keeps;
        adds = adds * next.keeps + next.adds;
    }
};

/// Colour and amount at a place along a ramp; straight between stops, held beyond them. No stop: nothing.
glm::dvec4 ramp_at(const std::vector<RampStop>& ramp, double at);
/// What a view-locked light does to a surface. normal: unit, in the eye's axes. The reference of
/// shaders/include/view_lights.glsl.
RadianceChange view_light_change(const CheapLight& light, const glm::dvec3& normal);

/// Ways to begin: a rim from behind, a bounce from below, a sky from above, a ball and a cone.
enum class CheapStart { rim, bounce, sky, ball, cone };
inline constexpr CheapStart cheapStarts[] = {CheapStart::rim, CheapStart::bounce, CheapStart::sky, CheapStart::ball,
                                             CheapStart::cone};
const char* word(CheapStart);
/// white: cd/m2 that exposure shows as white; at: a point on a surface that a shape stands over.
CheapLight starter(CheapStart start, double white, const glm::vec3& at);

/// A ball or cone as a point or spot of the same place and size, so that its handles are theirs; and back.
Light as_light(const CheapLight& light);
void take_place(CheapLight& light, const Light& from);

/// The mesh that bounds a ball or cone: unit mesh to world.
Proxy solid_proxy(const CheapLight& light);
/// True if the point lies inside that mesh, flat sides and all.
bool holds(const CheapLight& light, const glm::dvec3& point);

} // namespace mirolux
