#pragma once
#include "core/blocks/lit_world.h"
#include "core/technique/plan_builder.h"

// What the ways of lighting a Blocks stage have in common.
namespace mirolux::blocks {

/// `blocks.light`.
enum class Way { faces, cast, flood, floodOrigin };
Way way_of(const Setup& setup);
FloodOptions flood_options(const Setup& setup);
CastOptions cast_options(const Setup& setup);

/// Toward the sun or the moon: the first directional light that shines; what arrives of it, lux.
struct Sun {
    glm::dvec3 toward{0, 1, 0};
    glm::vec3 lux{0.0f};
};
Sun sun_of(const std::vector<Light>& lights);
/// Turns of all props at the view's time, radians.
std::vector<double> turns_of(const World& world, double seconds);
/// From a prop's own cells to the world, metres.
glm::mat4 prop_matrix(const World& world, const Prop& prop, double turn);

/// What a view of a Blocks scene draws beside its cells: nothing; the lights that shine in it.
DrawList draw_list(const Scene& scene, const Setup& setup, const View& view);

/// Runs of rectangles that a view may see: of chunks in its frustum, of faces that look toward the eye, joined where
/// they lie side by side. part: -1 the still world, else a prop.
struct SeenRun {
    int part = -1;
    MeshedWorld::Run run;
};
std::vector<SeenRun> seen_runs(const FrameInputs& inputs, bool clear);
/// Draws and triangles of runs.
Work work_of(const std::vector<SeenRun>& runs);

/// The pass that lights what is seen, by a way; what it is called and what shapes it.
PlannedPass light_pass(const char* what, std::vector<std::string> keys);
/// reads: of cells' light, a pixel.
void price_light_pass(const FramePlan& plan, const Work& work, double reads, double operations, CostTerms& terms);

} // namespace mirolux::blocks
