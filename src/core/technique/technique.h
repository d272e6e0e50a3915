#pragma once
#include "core/account/surface_sample.h"
#include "core/light/cheap_light.h"
#include "core/plan/draw_list.h"
#include "core/scene/object_edit.h"
#include "core/technique/cost_term.h"
#include "core/technique/layer.h"
#include "core/technique/resource.h"
#include "core/technique/setting.h"
#include "core/technique/work.h"
#include <limits>

// The seam between techniques and all that knows frames only: how a technique is described. all.def lists them.
namespace mirolux {

struct FramePlan;
struct PlannedPass;
class PlanBuilder;

/// Where a frame stands in its sequence. A sequence begins at a reset: a cut, a new size, another scene.
struct FrameTime {
    std::uint64_t index = 0; // frames since the reset
    double seconds = 0.0;    // scene time
    glm::dvec2 jitter{0.0};  // of the projection, in pixels; 0 unless the plan asks for it
    /// Seconds since the frame before; infinite: whatever takes its time has had it.
    double elapsed = std::numeric_limits<double>::infinity();

    bool operator==(const FrameTime&) const = default;
};

/// The frame before in a sequence.
struct FrameBefore {
    View view;
    std::shared_ptr<const PlacedObjects> placed; // Scene::placed
    DrawList draws;                              // of that frame
};

/// All that a plan depends on. `draws`: from build_draw_list with the same scene, setup and view.
struct FrameInputs {
    const Scene& scene;
    const Setup& setup;
    const View& view;
    const DrawList& draws;
    FrameTime time{};
    const FrameBefore* before = nullptr; // null: the first frame since a reset
};

/// Places in the shading of all paths that techniques feed; a pass names those that its shaders call.
enum class Slot {
    lightFactor,
    lightThickness, // metres that light has gone within what it meets
    ambientDiffuse,
    ambientSpecular,
    spaceDiffuse,   // of probes in space, in ambient light's place, with its share
    baked,          // light that was computed beforehand, of surfaces that have a place in a map
    bakedOcclusion, // how open a surface is, computed beforehand
    probeDiffuse,   // in the surroundings' place, with its share
    probeSpecular,  // the same of what is mirrored
    occlusion,
    reflection,
    air,
    post,
    flatFactor
};

/// What a technique does to one light at one point, beside distance, cone and facing.
struct LightFactor {
    std::string name; // "shadow"
    glm::dvec3 value{1.0};
};

/// What lies between a point and the eye does to radiance that leaves the point: radiance * transmittance + scattered.
struct AirShare {
    glm::dvec3 transmittance{1.0};
    glm::dvec3 scattered{0.0}; // cd/m2
    glm::dvec3 apply(const glm::dvec3& radiance) const { return radiance * transmittance + scattered; }
    /// More air, before what is there.
    void add(const glm::dvec3& through, const glm::dvec3& added) {
        transmittance *= through;
        scattered = scattered * through + added;
    }
};

/// A point that is asked about the air before it.
struct AirQuestion {
    glm::dvec3 point{0.0};
    bool sky = false;            // all that lies beyond the point as well
    glm::vec4 told{0, 0, 0, -1}; // SurfaceSample::air
};

/// A pixel's way from the eye to its nearest opaque surface.
struct PixelRay {
    glm::dvec3 origin{0.0}, direction{0, 0, -1};
    double metres = 0; // infinite: the sky
};
/// What is drawn over a pixel for one light: sum * through + radiance.
struct AddedLight {
    int light = -1;           // Light::id
    glm::dvec3 radiance{0.0}; // cd/m2
    double through = 1;
};

/// What is done to the light of an opaque surface, before the air, in the order that it is done.
struct SurfaceChange {
    int light = -1; // CheapLight::id
    std::string name;
    RadianceChange change;
};

/// A technique: plain data. What it has none of stays empty or null.
struct Technique {
    std::string name{};
    Stages stages = Stages::solid; // whose frames it takes part in
    std::vector<Setting> settings{};
    std::vector<Counter> counters{};
    std::vector<CostTerm> terms{};
    std::vector<LayerInfo> layers{};
    std::vector<std::string> parameters{}; // values that its shaders read as parameters.<name>, a vec4 each
    std::vector<Slot> mayFeed{};           // that it may feed: passes that call them are shaped by its settings
    bool multisamples = false;             // its passes draw to, or read, several samples of a pixel

    /// Names of targets that others write only when someone reads them ("motion") and that this one reads.
    std::vector<std::string> (*wants)(const FrameInputs&) = nullptr;
    /// Adds the technique's passes, resources, feeds and parameters for these inputs; nothing when it is off.
    void (*plan)(const FrameInputs&, PlanBuilder&) = nullptr;
    /// Adds what a device is charged for in a pass, from its counted work. Called for every pass of the plan: a
    /// technique charges its own passes, and those that call a slot which it feeds.
    void (*price)(const FramePlan&, const PlannedPass&, const Work&, CostTerms&) = nullptr;
    /// What it does to the light `light` (into DrawList::lights) at a surface, for the pixel account.
    void (*factors)(const FrameInputs&, const SurfaceSample&, std::size_t light, std::vector<LightFactor>&) = nullptr;
    /// What it does between a point and the eye, for the pixel account. Joins what is there.
    void (*air)(const FrameInputs&, const AirQuestion&, AirShare&) = nullptr;
    /// What its air shows of each of the view's lights before a point, cd/m2: added to what is there.
    void (*airByLight)(const FrameInputs&, const AirQuestion&, const PixelProbe&, std::vector<glm::dvec3>&) = nullptr;
    /// What it does to what an opaque surface sends, for the pixel account.
    void (*changes)(const FrameInputs&, const SurfaceSample&, std::vector<SurfaceChange>&) = nullptr;
    /// What it draws over a pixel, for the pixel account, in the order that it is drawn.
    void (*added)(const FrameInputs&, const PixelRay&, std::vector<AddedLight>&) = nullptr;
};

/// Every technique, in frame order.
const std::vector<const Technique*>& all_techniques();
/// Names of all parameters, in the order of the device's buffer.
const std::vector<std::string>& all_parameters();

/// The families of passes: what the tape, the walk and reports colour by. Hues from a set that colour-blind eyes tell
/// apart.
struct PassFamily {
    const char* name;
    unsigned color; // 0xRRGGBB
};
const std::vector<PassFamily>& pass_families();
/// Grey for a family that is not in the table.
unsigned family_color_of(const std::string& name);

} // namespace mirolux
