#pragma once
#include "core/plan/frame_plan.h"
#include "core/technique/all.h"
#include <set>

namespace mirolux {

/// Gathers what techniques add to a frame. finish() derives the rest: lives, sizes, shared memory, formats, both eyes.
class PlanBuilder {
public:
    explicit PlanBuilder(const FrameInputs& inputs);

    /// True if some technique of the frame reads a target that is made only then.
    bool wanted(const std::string& target) const { return wanted_.count(target) > 0; }
    /// True if a target or buffer of this name was declared.
    bool has(const std::string& target) const { return plan_.resource(target) != nullptr; }
    /// Width and height of one that was declared.
    glm::ivec2 size_of(const std::string& target) const {
        const PlannedResource& r = *plan_.resource(target);
        return {r.width, r.height};
    }
    /// True if some technique before feeds the slot.
    bool fed(Slot slot) const;
    /// Declares a target or buffer. Passes name it; one that no pass names is not made.
    void resource(ResourceSpec spec);
    /// Adds a pass of the technique that is planning.
    void pass(PlannedPass pass);
    /// Every pass that calls the slot calls `function` of the shader `file` as well, which reads these resources.
    void feed(Slot slot, std::string file, std::string function, std::vector<std::string> reads = {});
    /// What the frame cannot do as it was asked to: a sentence.
    void note(std::string text) { plan_.notes.push_back(std::move(text)); }
    /// A value for a parameter that some technique declares; those that nobody sets are 0.
    void set(const std::string& parameter, const glm::vec4& value);
    /// Values that take long to make: whoever only looks at the plan does not wait for them.
    void set_later(std::function<Parameters()> make) { plan_.later.push_back(std::move(make)); }
    /// A #define of the shaders that shade surfaces.
    void define(std::string text);
    /// `frames` of a sequence settle the picture; the projection moves by part of a pixel from frame to frame, through
    /// `jitterFrames` places.
    void settles(int frames, int jitterFrames = 0);
    /// The resource that holds the picture's light by now; one that takes its place.
    const std::string& radiance() const { return plan_.radiance; }
    void take_radiance(std::string resource) { plan_.radiance = std::move(resource); }
    /// The first pass so far that needs one value a pixel of what it would have several of, or null.
    const PlannedPass* single_sampled() const;
    int samples_of(const std::string& target) const { return plan_.resource(target)->spec.samples; }
    /// What surfaces are drawn to holds so many samples a pixel.
    void multisample(int samples);

    /// Plans with these techniques, in their order.
    static FramePlan plan(const FrameInputs& inputs, const std::vector<const Technique*>& techniques);

private:
    FramePlan finish();
    void bear_eyes();
    void live();
    void share_memory();

    const FrameInputs& inputs_;
    const Technique* technique_ = nullptr;
    std::vector<const Technique*> techniques_;
    std::set<std::string> wanted_;
    FramePlan plan_;
};

/// Commands and triangles of a list of draws: neighbours of one mesh and winding are instances of one command.
Work work_of(const FrameInputs& inputs, const std::vector<Draw>& draws);
/// A draw of one triangle over the whole picture.
Work screen_work();

} // namespace mirolux
