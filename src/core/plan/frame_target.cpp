#include "core/technique/plan_builder.h"

namespace mirolux::technique {

/// What frames of every stage share: the target that the picture grows in.
static void plan_frame_target(const FrameInputs& in, PlanBuilder& b) {
    ResourceSpec scene{.name = "scene", .sampler = "sceneTexture", .kept = true};
    scene.format = in.setup.choice("path.targetFormat") == "rgba16f" ? Format::rgba16f : Format::rgba32f;
    b.resource(scene);
}

const Technique& frame_target() {
    static const Technique technique{
        .name = "frame_target",
        .stages = Stages::all,
        .settings = {choice_setting("path.targetFormat", "Scene target", "Path", {"rgba16f", "rgba32f"}, "rgba16f",
                                    "Format of the scene-linear target: half floats, or full floats as a reference at "
                                    "twice the bandwidth.")},
        .counters = {{"draws", "Draws", "draw commands"},
                     {"triangles", "Triangles", "triangles of those draws"},
                     {"fragments", "Fragments", "fragment shader invocations, helper lanes not counted"},
                     {"lightEvaluations", "Light evaluations", "lights taken up for a fragment, in reach or not"},
                     {"lightsReached", "Lights in reach",
                      "those of them in whose range and cone the fragment lies, on its lit side"},
                     {"textureReads", "Texture reads", "filtered reads of materials' textures"}},
        .terms = {{"run", "a pass started and waited for", {}},
                  {"draw", "a draw command", {}},
                  {"vertex", "a vertex shaded", {}},
                  {"triangle", "a triangle set up", {}},
                  {"fragment", "a fragment launched", {}},
                  {"hidden", "a pixel that a full-screen pass covers and the depth test refuses", {}},
                  {"operation", "a dependent multiply-add", {}},
                  {"fetch", "a texel read without filter", {}},
                  {"filteredRead", "a texel read with trilinear filter", {}},
                  {"writeUnorm", "a byte written as 8- or 16-bit fixed point", {}},
                  {"writeHalf", "a byte written as half float", {}},
                  {"writeFloat", "a byte written as float", {}},
                  {"writeDepth", "a byte of depth tested and written", {}},
                  {"blendHalf", "a byte blended into half floats", {}},
                  {"blendFloat", "a byte blended into floats", {}},
                  {"clear", "a byte cleared", {}},
                  {"copy", "a byte copied", {}},
                  {"atomic", "an atomic operation on a buffer", {}},
                  {"group", "a compute group", {}}},
        .layers = {{"final", "Final", "The picture: everything, after exposure and tone curve.", LayerView::radiance,
                    "scene"}},
        .plan = plan_frame_target,
    };
    return technique;
}

} // namespace mirolux::technique
