#pragma once
#include "core/plan/draw_list.h"

namespace mirolux {

/// Counted work of a pass, of all eyes. Exact and the same on every run of a request.
struct Work {
    std::uint64_t draws = 0, triangles = 0;
    std::uint64_t fragments = 0;        // fragment shader invocations, helper lanes not counted
    std::uint64_t lightEvaluations = 0; // lights taken up for a fragment, in reach or not
    std::uint64_t lightsReached = 0;    // those of them in whose range and cone the fragment lies, on its lit side
    std::uint64_t textureReads = 0;     // of materials' textures, filtered
    std::uint64_t sideTests = 0;        // culling: lights against the sides of tiles, each tile's rounded up to eights
    std::uint64_t cells = 0;            // culling: tiles or clusters that were listed
    std::uint64_t cellTests = 0;        // culling: lights against the bounds of those, rounded likewise
    std::uint64_t listEntries = 0;      // culling: entries written

    bool operator==(const Work&) const = default;
};
/// Every counter with its name in JSON and CSV, in the order of the struct.
struct WorkCounter {
    const char* name;
    std::uint64_t Work::*value;
};
inline constexpr WorkCounter work_counters[] = {{"draws", &Work::draws},
                                                {"triangles", &Work::triangles},
                                                {"fragments", &Work::fragments},
                                                {"lightEvaluations", &Work::lightEvaluations},
                                                {"lightsReached", &Work::lightsReached},
                                                {"textureReads", &Work::textureReads},
                                                {"sideTests", &Work::sideTests},
                                                {"cells", &Work::cells},
                                                {"cellTests", &Work::cellTests},
                                                {"listEntries", &Work::listEntries}};
inline Work& operator+=(Work& a, const Work& b) {
    for (const WorkCounter& c : work_counters)
        a.*c.value += b.*c.value;
    return a;
}

enum class PassKind {
    depth,
    forward,
    ambient,
    lights,
    gbuffer,
    culling,
    shading,
    volumes,
    listed,
    sky,
    transparent,
    peeled,
    finish
};

struct PassTarget {
    std::string name, format; // "scene", "RGBA16F"
    int width = 0, height = 0;
    int bytesPerPixel = 0;
    int layers = 1; // 2: one for each eye
};

struct PlannedPass {
    PassKind kind;
    std::string name;   // shown everywhere: tape, record, CLI
    std::string family; // depth, opaque, lights, culling, sky, transparent, finish: the tape's colour
    std::string what;   // one line
    std::vector<std::string> reads;
    std::vector<PassTarget> writes;
    std::vector<std::string> settings; // keys that shape it
    Work expected; // draws and triangles as they will be; fragments and light evaluations are 0: they depend on the
                   // picture
    bool bothEyes = false; // one run draws both eyes, into the two layers of its targets
};
/// True for the passes that one run can draw for both eyes: those over the scene's geometry. The others have nothing
/// that two eyes could share.
bool draws_both_eyes(PassKind kind);

/// What a path is made of.
struct PathShape {
    bool additive = false, deferred = false, volumes = false, lists = false, clustered = false;
    bool peeled = false;  // blended surfaces by depth peeling
    bool prepass = false; // depth is laid by a pass of its own
    bool stencil = false; // shading passes mark pixels
};
PathShape path_shape(const Setup& setup);

/// The ordered passes of one frame, as data.
struct FramePlan {
    std::vector<PlannedPass> passes;
    std::uint64_t droppedLights = 0;
    int droppedObjects = 0, lightsInScene = 0, lightsInView = 0, lightsFaded = 0;
};

/// The passes that `setup` asks for, with the work that `list` (from build_draw_list with the same arguments) gives
/// them.
FramePlan plan_frame(const Scene& scene, const Setup& setup, const View& view, const DrawList& list);
inline FramePlan plan_frame(const Scene& scene, const Setup& setup, const View& view) {
    return plan_frame(scene, setup, view, build_draw_list(scene, setup, view));
}

/// A layer: an intermediate of the frame that can be looked at.
struct LayerInfo {
    std::string name, label, help;
};
const std::vector<LayerInfo>& all_layers();
bool is_layer(const std::string& name);

} // namespace mirolux
