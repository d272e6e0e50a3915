#pragma once
#include "core/account/surface_sample.h"
#include "core/cull/light_grid.h"
#include "core/plan/frame_plan.h"

namespace mirolux {

/// How a light of the view stands to a surface of the pixel.
enum class LightStanding {
    gives,      // adds light
    outOfRange, // farther away than its reach
    outOfCone,  // in range, outside its outer cone
    facingAway, // in range and cone, behind the surface
    otherLayer, // of a flat stage: the surface's layer is none of those that it reaches
    dropped,    // would give, but the limit of lights an object left it out
    overflowed, // would give, but the full list left it out
    missed      // would give, but culling did not list it: a fault of the culling
};
const char* word(LightStanding);

/// One light's part in one surface.
struct LightTerm {
    int light = -1; // Light::id
    std::string name;
    LightStanding standing = LightStanding::gives;
    bool listed = false;              // taken up by the surface's shader
    double metres = 0;                // from the light; 0 for directional
    double distance = 1;              // factor: window over squared distance, 1/m2 (directional: 1)
    double cone = 1;                  // factor 0..1
    double facing = 0;                // factor: cosine to the normal, negative behind
    double fade = 1;                  // factor of the distance fade, in the intensity already
    std::vector<LightFactor> factors; // of techniques: shadow, say; in `radiance` already
    std::string occluder;             // what shadows it, by name; empty: nothing, or nobody asked (name_occluders)
    glm::dvec3 intensity{0.0};        // cd or lx per channel, faded
    glm::dvec3 diffuse{0.0}, specular{0.0}; // BRDF lobes, 1/sr
    double through = -1;                    // metres of the thing that it shines through; -1: it does not
    glm::dvec3 passed{0.0};                 // share of it that comes out
    glm::dvec3 radiance{0.0};               // what it adds at the surface, cd/m2 (of `dropped` and the like: would add)
};

/// One light's part in what the air before the pixel's last surface, or the sky, sends.
struct AirTerm {
    int light = -1; // Light::id
    std::string name;
    glm::dvec3 radiance{0.0}; // cd/m2
};

/// What a cheap light does to what a surface sends.
struct ChangeTerm {
    int light = -1; // CheapLight::id
    std::string name;
    glm::dvec3 before{0.0}, after{0.0}; // cd/m2
};

/// One surface of the pixel, nearest first.
struct SurfaceAccount {
    std::string object, material;
    bool blended = false, unlit = false;
    SurfaceSample sample;
    double weight = 1; // share of the surface's radiance that the picture shows: own alpha, and what the panes before
                       // it let through
    std::vector<std::pair<std::string, double>> probes; // whose light it takes, by name, and their shares
    glm::dvec3 radiance{0.0};                           // emission, ambient and lights, cd/m2, as it leaves the surface
    std::vector<ChangeTerm> changes; // what cheap lights did to it, in their order; in `radiance` already
    AirShare air;                    // what lies between the surface and the eye does to it
    std::vector<LightTerm>
        lights; // of the view: those that give or would give first, strongest first, then the rest by name
    int listed = 0, useless = 0; // lights that its shader takes up; those of them that give nothing here
};

/// A cell's face on a Blocks stage, and what lights it.
struct CellAccount {
    glm::ivec3 cell{0}, before{0};                        // the face's own, and the one before it whose light it takes
    int face = 0;                                         // +x, -x, +y, -y, +z, -z
    std::string material, prop;                           // prop: empty: of the still world
    glm::dvec3 sky{0.0}, sun{0.0}, lamps{0.0}, glow{0.0}; // cd/m2
    std::optional<glm::ivec4> levels;                     // of red, green, blue, the sun, where light floods
    std::string why;                                      // of these levels
    std::vector<glm::ivec3> way;    // the light's way back to its lamp, where cells know it: turns
    std::optional<glm::ivec2> hits; // of rays toward the sun and away from it, where these are cast
};

/// Why a pixel has its value.
struct PixelAccount {
    glm::ivec2 pixel{0};                  // of the picture
    std::vector<SurfaceAccount> surfaces; // empty: the sky
    glm::dvec3 sky{0.0};                  // cd/m2 through the air, where no opaque surface closes the pixel
    double skyWeight = 0;
    std::vector<AirTerm> airLights; // those that the air shows, strongest first
    std::vector<AirTerm> beams;     // drawn over the pixel in place of lit air
    glm::dvec3 spread{0.0};         // what light spread beneath the last surface adds or takes, cd/m2
    glm::dvec3 shafts{0.0};         // added after them, cd/m2
    glm::dvec3 sum{0.0};            // of all parts, cd/m2
    glm::dvec3 picture{0.0};        // what the scene target holds
    double difference = 0; // largest |sum - picture| of a channel, over the largest channel (at least 0.001 cd/m2)
    std::string reason;    // one line
    std::vector<PixelStage> stages;  // PixelProbe::stages
    std::optional<CellAccount> cell; // on a Blocks stage
};

/// The account of a probed pixel, computed in double from the surfaces that the device reports, by the reference
/// definitions of light and BRDF. `grid` and `transparent` are the lists of tiled and clustered paths (columns 0:
/// none). `list` is the view's draw list with the same setup.
PixelAccount pixel_account(const Scene& scene, const Setup& setup, const View& view, const DrawList& list,
                           const PixelProbe& probe, const cull::LightGrid& grid, const cull::LightGrid& transparent);

} // namespace mirolux
