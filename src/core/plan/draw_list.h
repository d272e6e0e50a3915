#pragma once
#include "core/light/falloff.h"
#include "core/plan/settings.h"
#include "core/plan/view.h"

namespace mirolux {

/// One object to draw, with its slice of DrawList::lightIndices.
struct Draw {
    int object = -1;
    std::uint32_t lightOffset = 0, lightCount = 0; // into DrawList::lightIndices
    float depth = 0.0f;                            // metres from the eye to the bounds' centre
};

/// What one light of the additive path draws: a screen rectangle and the opaque draws that its bounds touch.
struct LightDraws {
    int light = -1; // into DrawList::lights
    PixelRect rect;
    std::vector<std::uint32_t> draws; // into DrawList::opaque
};

/// What a view shows, found on the CPU before any GL: visible objects, the lights that count, and which light goes to
/// which object.
struct DrawList {
    std::vector<Light> lights; // enabled, of some intensity (distance fade applied), touching the view; directional
                               // first, then in the scene's order
    std::vector<float> reach;  // metres, parallel to lights; 0 for directional
    std::vector<float> fade;   // parallel to lights: what the distance fade left of each, 0 to 1
    /// Parallel to lights: 1 of those whose shadows all come from baked masks here, so that they need no map.
    std::vector<std::uint8_t> masked;
    int directional = 0;                      // how many of them are directional
    std::vector<Draw> opaque;                 // opaque and masked, by material
    std::vector<Draw> blended;                // farthest first
    std::vector<std::uint32_t> lightIndices;  // ascending within each draw
    std::vector<LightDraws> perLight;         // additive only
    int lightsInScene = 0, lightsOutside = 0; // enabled lights; those of them that the view does not touch
    int lightsFaded = 0;                      // in view but too far from the eye to be rendered
    std::uint64_t droppedLights = 0;          // forward: sum over draws of the lights that K cut off
    int droppedObjects = 0;                   // draws that lost at least one
    std::uint64_t triangles = 0;              // over all draws
    std::vector<int> leftOut;     // objects in the view's frustum that visibility.kind leaves out, found beforehand
    int lightsBehind = 0;         // lights that no open door lets in
    int lightsBaked = 0;          // lights left out: all that they would reach here has their light from a map
    std::string visibilityNote{}; // why visibility.kind could do no more than the frustum; empty: it did
};

/// True if the light can reach a point of the box: sphere against box, and for spots cone against the box's bounding
/// sphere. Conservative: never false for a box that is lit.
bool reaches(const Light& light, float reach, const Box& box);

/// Visible draws with their lights. forward: at most K non-directional lights a draw, the rest counted as dropped;
/// directional lights always apply and are not counted against K. additive: no limit; blended draws carry full lists.
/// Costs objects x lights box tests.
DrawList build_draw_list(const Scene& scene, const Setup& setup, const View& view);
/// The same with only these objects (by number in the scene); lights stay.
DrawList with_only(const DrawList& list, const Scene& scene, const std::vector<bool>& objects);

} // namespace mirolux
