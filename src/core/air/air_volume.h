#pragma once
#include <glm/glm.hpp>
#include <optional>
#include <string>

namespace mirolux {

enum class VolumeShape { box, sphere };
const char* word(VolumeShape);

/// A cloud of air of its own: steam over a vat, smoke under a roof.
struct AirVolume {
    int id = -1; // unique in a project
    std::string name;
    bool enabled = true;
    VolumeShape shape = VolumeShape::box;
    glm::vec3 center{0.0f};   // metres
    glm::vec3 size{4.0f};     // metres across, of a sphere along its three axes
    float turn = 0.0f;        // radians about the vertical
    float extinction = 0.2f;  // 1/m in its middle
    glm::vec3 albedo{0.95f};  // share of that which is scattered
    glm::vec3 emission{0.0f}; // cd/m2 a metre in its middle
    float falloff = 0.5f;     // metres from its side to where it is whole
    float noise = 0.0f;       // 0: even; 1: torn to nothing in places
    float grain = 1.0f;       // metres across a patch of the noise
    glm::vec3 drift{0.0f};    // metres a second that the patches move

    bool operator==(const AirVolume&) const = default;
};

/// Share of the volume's extinction that is there at a point, 0 to 1.
double density(const AirVolume& v, const glm::dvec3& point, double seconds);

/// The part of a ray that may lie within it, metres; none: it passes.
std::optional<glm::dvec2> crossed(const AirVolume& v, const glm::dvec3& origin, const glm::dvec3& direction);

/// Smooth noise, 0 to 1, the same on the device (shaders/include/air_medium.glsl): values at whole places, hashed (M.
/// Jarzynski and M. Olano, Hash Functions for GPU Rendering, 2020, the one of three words), and between them a cubic;
/// three octaves.
double air_noise(const glm::dvec3& place);

} // namespace mirolux
