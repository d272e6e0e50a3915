#pragma once
#include "core/technique/technique.h"
#include <functional>

namespace mirolux {

/// A cone of mesh that stands for a spot's light in the air, or a round halo for a point's.
struct Beam {
    int light = -1; // into DrawList::lights
    bool halo = false;
    glm::vec3 tip{0.0f};         // of the cone, or the halo's middle, metres
    glm::vec3 axis{0, -1, 0};    // unit, the way the light travels
    float length = 1;            // metres along the axis; the halo's radius
    float tangent = 1;           // of the outer angle
    glm::vec3 intensity{0.0f};   // cd per channel
    float strength = 0.02f;      // 1/m: as air that scatters so much to all sides alike
    float along = 1, across = 1; // exponents of the falloff to the end, and to the sides
};
inline constexpr int beam_sides = 64; // of a cone's mesh

/// How all beams of a setup look.
struct BeamLook {
    bool on = false, blended = false;
    double soft = 1;    // metres before a surface over which a beam fades
    double near = 1.5;  // metres before the eye over which it fades
    double texture = 0; // 0: even; 1: torn to nothing in places
    double grain = 2;   // metres across a patch
    double drift = 0.5; // metres a second that patches move along x
};
BeamLook beam_look(const Setup& setup);
/// The beams of a frame, cones before halos and the farthest first: of the lights that shine strongest where the eye
/// is.
std::vector<Beam> beams_of(const FrameInputs& in);

/// What one beam adds along a ray from the eye, cd/m2, and what it leaves of what lies behind. scene: metres to the
/// nearest surface; air: what comes through it from a point to the eye. Both of a cone's sides count half of what air
/// of even thinness would show across its middle. The reference of shaders/beams, but for the mesh's flat sides.
struct BeamShare {
    glm::dvec3 added{0.0};
    double through = 1;
};
BeamShare beam_share(const Beam& beam, const BeamLook& look, const glm::dvec3& eye, const glm::dvec3& direction,
                     double scene, double seconds, const std::function<glm::dvec3(const glm::dvec3&)>& air = {});

} // namespace mirolux
