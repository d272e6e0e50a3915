#include "core/path/path_kind.h"
#include "core/technique/plan_builder.h"

namespace mirolux {

static constexpr PathKind kinds[] = {
    {"forward", false, false, false},         {"additive", false, false, false},
    {"deferred", true, false, false},         {"volumes", true, false, false},
    {"tiled-deferred", true, true, false},    {"tiled-forward", false, true, false},
    {"clustered-deferred", true, true, true}, {"clustered-forward", false, true, true},
};

const PathKind& path_kind(const Setup& setup) {
    const std::string& word = setup.choice("path.kind");
    for (const PathKind& k : kinds)
        if (word == k.word) return k;
    return kinds[0];
}

std::vector<std::string> path_words(bool (*test)(const PathKind&)) {
    std::vector<std::string> out;
    for (const PathKind& k : kinds)
        if (test(k)) out.push_back(k.word);
    return out;
}

bool lays_depth_first(const Setup& setup) {
    const PathKind& path = path_kind(setup);
    return setup.flag("path.depthPrepass") ||
           (!path.deferred && (path.lists || marches_contact(setup) || masks_shadows(setup)));
}

bool marches_contact(const Setup& setup) {
    return setup.flag("shadow.maps") && setup.flag("shadow.contact");
}

bool masks_shadows(const Setup& setup) {
    return setup.flag("shadow.maps") && setup.choice("shadow.resolve") != "shading";
}

namespace technique {

/// What all paths share: the choice of one, and the targets that the picture grows in.
static void plan_path(const FrameInputs& in, PlanBuilder& b) {
    ResourceSpec scene{.name = "scene", .sampler = "sceneTexture", .kept = true};
    scene.format = in.setup.choice("path.targetFormat") == "rgba16f" ? Format::rgba16f : Format::rgba32f;
    b.resource(scene);
    b.resource({.name = "depth", .sampler = "depthTexture", .format = Format::depth32f, .kept = true});
}

const Technique& path() {
    static const Technique technique{
        .name = "path",
        .settings = {choice_setting("path.kind", "Path", "Path", path_words([](const PathKind&) { return true; }),
                                    "forward",
                                    "forward: up to K lights an object; additive: one blended pass a light; deferred: "
                                    "every light for every pixel; volumes: each light's proxy mesh; tiled, clustered: "
                                    "lists of lights for tiles or depth slices of tiles."),
                     choice_setting("path.targetFormat", "Scene target", "Path", {"rgba16f", "rgba32f"}, "rgba16f",
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
        .plan = plan_path,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
