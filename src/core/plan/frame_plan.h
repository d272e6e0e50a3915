#pragma once
#include "core/technique/technique.h"

namespace mirolux {

/// One step of a frame.
struct PlannedPass {
    std::string name{};                         // shown everywhere: tape, record, CLI
    std::string family{};                       // one of pass_families(): the tape's colour
    std::string what{};                         // one line
    std::vector<std::string> reads{}, writes{}; // resources, by name
    std::vector<std::string> settings{};        // keys that shape it
    Work expected{};            // draws and triangles as they will be; what depends on the picture is counted later
    std::vector<Slot> called{}; // slots that its shaders call
    bool overGeometry = false;  // one run can draw both eyes; the others have nothing that two eyes could share
    bool inLedger = false;      // shades lights, or lays what shading needs: runs again for the ledger
    bool marks = false;         // marks pixels in the stencil
    bool needsBefore = false;   // reads FrameInputs::before
    bool laidDepth = false;     // depth was laid before: it draws where depth is equal
    bool forBothEyes = false;   // what it makes serves both eyes: it runs once
    bool bothEyes = false;      // one run draws both eyes, into the two layers of its targets
    const Technique* technique = nullptr;

    bool calls(Slot slot) const;
};

/// What a technique gives to a slot.
struct Feed {
    Slot slot;
    const Technique* technique;
    std::string file;                 // shader that holds the function
    std::string function;             // its name; include/slots.glsl says which arguments each slot passes
    std::vector<std::string> reads{}; // resources of the plan that it reads
};

/// Values for parameters of shaders, by name.
using Parameters = std::map<std::string, glm::vec4>;

/// One frame as data: the ordered passes, the resources that they use, and what shaders are built from.
struct FramePlan {
    Setup setup;
    View view;
    FrameTime time;
    std::vector<PlannedPass> passes;
    std::vector<PlannedResource> resources;
    std::vector<Allocation> allocations;
    std::vector<Feed> feeds;
    std::vector<std::string> notes; // what the frame could not do as it was asked to, a sentence each
    Parameters parameters;
    std::vector<std::function<Parameters()>> later; // more of them, which take long: made when a device asks for them
    std::vector<std::string> surfaceDefines;        // of shaders that shade surfaces
    int settleFrames = 1;                           // of a sequence, until history has settled
    int jitterFrames = 0;                           // places of the projection within a pixel, in turn; 0: it stays
    std::string radiance = "scene"; // resource with the picture's light at last: what exposure and tone curve read
    // Bytes of all resources: each alone, as memory is shared, and of those alive at the fullest pass.
    std::size_t bytesSum = 0, bytesHeld = 0, bytesPeak = 0;
    std::uint64_t droppedLights = 0;
    int droppedObjects = 0, lightsInScene = 0, lightsInView = 0, lightsFaded = 0;

    const PlannedPass* pass(const std::string& name) const;
    const PlannedResource* resource(const std::string& name) const;
    PlannedResource* resource(const std::string& name);
    bool feeds_slot(const Technique* technique, const PlannedPass& pass) const;
    int eyes() const { return view.stereo == Stereo::off ? 1 : 2; }
    /// Pixels of all eyes.
    double pixels() const { return double(eyes()) * view.width * view.height; }
    /// True if a frame depends on those before it.
    bool has_history() const;
};

/// The passes that the setup asks for. `more`: techniques beside those of the registry, after them.
FramePlan plan_frame(const FrameInputs& inputs, const std::vector<const Technique*>& more = {});
/// view: of the picture that is shown.
FramePlan plan_frame(const Scene& scene, const Setup& setup, const View& view);

/// True for a layer that shows something under a setup; one of a light does when a light is chosen.
bool shows(const LayerInfo& layer, const Setup& setup, bool lightChosen);

/// What a device is charged for in a pass, from its counted work (RenderOptions::count).
CostTerms price_pass(const FramePlan& plan, const PlannedPass& pass, const Work& work);

} // namespace mirolux
