#pragma once
#include "core/cost/frame_record.h"
#include "core/motion/scene_at.h"

namespace mirolux {

/// One light of the scene: what it costs and what it gives in a view.
struct LedgerRow {
    int light = -1; // Light::id
    std::string name;
    LightType type = LightType::point;
    bool enabled = true, inView = false; // in view: taken into the frame at all
    std::uint64_t evaluations = 0;
    double costShare = 0; // of all light evaluations, and so of the time that goes into shading
    double ms =
        0; // costShare times the time of the passes that shade, and its time in the air; 0 when nothing was timed
    double contributionShare = 0; // of the picture's summed luminance, before exposure
    double ratio = 0;             // contribution over cost; 0 where it costs nothing
    std::uint64_t shadowTaps = 0; // depths of its maps that were compared or searched
    double shadowMs = 0;          // fenced, of drawing all of its maps once; 0: it has none
    std::uint64_t airCells = 0;   // cells of air that it was taken up for
    double airCostShare = 0;      // of all those
    double airMs = 0;             // that share of the time of the pass that lights the air; part of `ms`
    double airContribution = 0;   // of the picture's luminance, what the air shows of it; part of `contributionShare`
};

/// One object: what it costs in a view.
struct ObjectRow {
    int object = -1; // into Scene::objects()
    std::string id, name, material;
    std::uint64_t triangles = 0;
    bool hidden = false, inView = false;
    Moves moves = Moves::still;
    std::uint64_t fragments = 0, evaluations = 0; // ObjectShare
    double costShare = 0;                         // of all light evaluations
};

/// One cheap light, beside the lights that it stands for.
struct CheapRow {
    int light = -1; // CheapLight::id
    std::string name;
    CheapShape shape = CheapShape::viewLocked;
    bool enabled = true, inView = false;        // in view: drawn in this frame
    std::uint64_t fragments = 0;                // that it lies on
    double ms = 0;                              // of drawing it alone
    double contributionShare = 0;               // of the picture's summed luminance; under 0: it darkens
    std::vector<std::string> standsFor;         // names of lights of the scene
    double standsForMs = 0, standsForShare = 0; // what those in view cost and give here, as their rows say
};

/// Ambient light by where it comes from; the first row is all of it.
struct AmbientRow {
    std::string source;           // "ambient", "surroundings", "probes", "screen"
    double contributionShare = 0; // of the picture's summed luminance
    double ms = 0;                // medians of the passes that are its own; of all: of the family
};

struct Ledger {
    std::vector<LedgerRow> rows;     // in the scene's order
    std::vector<ObjectRow> objects;  // in the scene's order
    std::vector<CheapRow> cheap;     // in the scene's order
    std::vector<AmbientRow> ambient; // empty where nothing was asked (ledger_layers) or nothing arrives
    std::uint64_t evaluations = 0, airCells = 0;
    double shadingMs = 0;  // medians of the passes that shade with lights
    double airMs = 0;      // median of the pass that lights the air
    double lightShare = 0; // of the picture's luminance that lights give; the rest is ambient, emission and sky
};

/// Float layers that a record for a ledger carries: the picture, and what splits its ambient light.
std::vector<std::string> ledger_layers(const Setup& setup);

/// Needs a record with its ledger and the float layers of ledger_layers, "final" at least. With depth peeling a pane
/// counts once, though it is shaded in every layer.
Ledger make_ledger(const Scene& scene, const FrameRecord& record);

/// Every object of a scene, not yet in view.
std::vector<ObjectRow> object_rows(const Scene& scene);

enum class ObjectOrder { name, triangles, fragments, evaluations };
/// Row indices: by name, or most first; ties in the scene's order.
std::vector<std::size_t> ordered(const std::vector<ObjectRow>& rows, ObjectOrder order);

enum class LedgerOrder { cost, contribution, ratio, name };
/// Row indices: most costly first, most contributing first, least contribution for its cost first, or by name; ties in
/// the scene's order.
std::vector<std::size_t> ordered(const Ledger& ledger, LedgerOrder order);

} // namespace mirolux
