#include "core/plan/frame_plan.h"
#include "core/bake/baked_light.h"
#include "core/finish/render_scale.h"
#include "core/motion/scene_at.h"
#include "core/technique/plan_builder.h"
#include <algorithm>

namespace mirolux {

bool PlannedPass::calls(Slot slot) const {
    return std::find(called.begin(), called.end(), slot) != called.end();
}

template <class List>
static auto* find_named(List& list, const std::string& name) {
    const auto it = std::find_if(list.begin(), list.end(), [&](const auto& item) {
        if constexpr (requires { item.spec; })
            return item.spec.name == name;
        else
            return item.name == name;
    });
    return it == list.end() ? nullptr : &*it;
}

const PlannedPass* FramePlan::pass(const std::string& name) const {
    return find_named(passes, name);
}
const PlannedResource* FramePlan::resource(const std::string& name) const {
    return find_named(resources, name);
}
PlannedResource* FramePlan::resource(const std::string& name) {
    return find_named(resources, name);
}

bool FramePlan::feeds_slot(const Technique* technique, const PlannedPass& pass) const {
    return std::any_of(feeds.begin(), feeds.end(),
                       [&](const Feed& f) { return f.technique == technique && pass.calls(f.slot); });
}

bool FramePlan::has_history() const {
    return std::any_of(resources.begin(), resources.end(),
                       [](const PlannedResource& r) { return r.spec.life == Life::history; }) ||
           std::any_of(passes.begin(), passes.end(), [](const PlannedPass& p) { return p.needsBefore; });
}

FramePlan plan_frame(const FrameInputs& inputs, const std::vector<const Technique*>& more) {
    std::vector<const Technique*> techniques = all_techniques();
    techniques.insert(techniques.end(), more.begin(), more.end());
    return PlanBuilder::plan(inputs, techniques);
}

FramePlan plan_frame(const Scene& scene, const Setup& setup, const View& view) {
    const View rendered = rendered_view(setup, view);
    const Scene at = with_baked_light(scene_at(scene, rendered.seconds), setup);
    const DrawList list = build_draw_list(at, setup, rendered);
    return plan_frame(FrameInputs{at, setup, rendered, list, {0, rendered.seconds, {}}});
}

bool shows(const LayerInfo& layer, const Setup& setup, bool lightChosen) {
    const bool on = applies(layer.when, setup) || (!layer.orWhen.empty() && applies(layer.orWhen, setup));
    return on && belongs(layer.stages, setup.stage) && (!layer.ofLight || lightChosen);
}

CostTerms price_pass(const FramePlan& plan, const PlannedPass& pass, const Work& work) {
    CostTerms t;
    t["run"] = pass.bothEyes ? 1 : plan.eyes();
    t["draw"] = static_cast<double>(work.at("draws"));
    t["triangle"] = static_cast<double>(work.at("triangles"));
    t["vertex"] = 3.0 * t["triangle"];
    t["fragment"] = static_cast<double>(work.at("fragments"));
    std::vector<const Technique*> techniques = all_techniques();
    if (pass.technique && std::find(techniques.begin(), techniques.end(), pass.technique) == techniques.end())
        techniques.push_back(pass.technique);
    for (const Technique* technique : techniques)
        if (technique->price) technique->price(plan, pass, work, t);
    std::erase_if(t.amounts, [](const auto& amount) { return amount.second == 0; });
    return t;
}

} // namespace mirolux
