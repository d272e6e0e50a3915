#include "core/ambient/reflection.h"
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
           (!path.deferred && (path.lists || marches_contact(setup) || masks_shadows(setup) ||
                               occludes_ambient(setup) || reflects_screen(setup)));
}

bool marches_contact(const Setup& setup) {
    return setup.flag("shadow.maps") && setup.flag("shadow.contact");
}

bool masks_shadows(const Setup& setup) {
    return setup.flag("shadow.maps") && setup.choice("shadow.resolve") != "shading";
}

bool occludes_ambient(const Setup& setup) {
    return setup.choice("occlusion.kind") != "none" && setup.choice("ambient.kind") != "none";
}

namespace technique {

/// What all paths share: the choice of one, and the depth that they lay.
static void plan_path(const FrameInputs&, PlanBuilder& b) {
    b.resource({.name = "depth", .sampler = "depthTexture", .format = Format::depth32f, .kept = true});
    if (b.wanted(mirror_share_resource))
        b.resource({.name = mirror_share_resource,
                    .sampler = "mirrorShares",
                    .format = Format::rgba8,
                    .formatNote = "roots, roughness"});
}

const Technique& path() {
    static const Technique technique{
        .name = "path",
        .settings = {choice_setting("path.kind", "Path", "Path", path_words([](const PathKind&) { return true; }),
                                    "forward",
                                    "forward: up to K lights an object; additive: one blended pass a light; deferred: "
                                    "every light for every pixel; volumes: each light's proxy mesh; tiled, clustered: "
                                    "lists of lights for tiles or depth slices of tiles.")},
        .plan = plan_path,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
