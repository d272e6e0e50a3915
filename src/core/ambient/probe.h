#pragma once
#include <glm/glm.hpp>
#include <string>
#include <vector>

// Probes: places whose surroundings were captured, each with a box of space that takes its ambient light from there.
namespace mirolux {

/// When a probe is captured anew.
enum class Recapture {
    byHand,
    changed, // when what it was captured with is other than it is now
    inTurn   // always, one probe after the other
};
inline constexpr Recapture all_recaptures[] = {Recapture::byHand, Recapture::changed, Recapture::inTurn};
const char* word(Recapture recapture); // by-hand, changed, in-turn

struct Probe {
    int id = -1; // unique in a project
    std::string name;
    bool enabled = true;
    glm::vec3 position{0.0f}; // metres: the eye of the capture
    glm::vec3 center{0.0f};   // of its box, metres
    glm::vec3 size{6.0f};     // of its box, metres across
    float turn = 0.0f;        // of its box, radians about the vertical
    float blend = 0.5f;       // metres outside its sides over which its light comes in
    float weight = 1.0f;      // share of the surroundings that it replaces where it is whole
    Recapture recapture = Recapture::byHand;
    std::string file;     // its six faces (write_probe); empty: not captured yet
    std::string captured; // digest of the light that it was captured in (capture_digest)

    bool operator==(const Probe&) const = default;
};

/// A point or a direction in the axes of a probe's box; points from its middle.
glm::dvec3 direction_in(const Probe& probe, const glm::dvec3& direction);
glm::dvec3 point_in(const Probe& probe, const glm::dvec3& point);
/// A point of its box, -1 to 1 from side to side, in the world.
glm::vec3 place_in(const Probe& probe, const glm::vec3& unit);

/// What stands this far outside a box belongs to it still: walls that its sides lie on, metres.
inline constexpr double probe_skin = 0.01;
/// Share that a probe would take of what arrives at a point: its weight within its box, linear down to 0 over its blend
/// outside.
double claim(const Probe& probe, const glm::dvec3& point);

/// Probes that take part, those of smaller boxes first: indices into the list. They are switched on and captured.
std::vector<std::size_t> nested(const std::vector<Probe>& probes);

/// What each probe gives at a point: inner boxes take their claim first, the next ones theirs of what is left. Probes
/// that give nothing are left out; the rest up to 1 is of the surroundings.
struct ProbeShare {
    std::size_t probe = 0; // into the list
    double share = 0;
};
std::vector<ProbeShare> probe_shares(const std::vector<Probe>& probes, const glm::dvec3& point);

/// Where a probe's capture shows what a ray from a point within its box meets, if that stands on the box's sides: the
/// direction from the place of the capture to where the ray leaves the box (box projection; K. Bjorke, Image-Based
/// Lighting, 2004; S. Lagarde and A. Zanuttini, Local Image-based Lighting with Parallax-corrected Cubemaps, 2012).
glm::dvec3 box_projected(const Probe& probe, const glm::dvec3& point, const glm::dvec3& direction);

} // namespace mirolux
