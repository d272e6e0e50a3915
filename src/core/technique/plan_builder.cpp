#include "core/technique/plan_builder.h"
#include "core/motion/skinning.h"
#include "core/plan/anatomy.h"
#include <algorithm>
#include <cassert>

namespace mirolux {

PlanBuilder::PlanBuilder(const FrameInputs& inputs) : inputs_(inputs) {
    plan_.setup = inputs.setup;
    plan_.view = inputs.view;
    plan_.time = inputs.time;
    plan_.droppedLights = inputs.draws.droppedLights;
    plan_.droppedObjects = inputs.draws.droppedObjects;
    plan_.lightsInScene = inputs.draws.lightsInScene;
    plan_.lightsInView = static_cast<int>(inputs.draws.lights.size());
    plan_.lightsFaded = inputs.draws.lightsFaded;
}

void PlanBuilder::resource(ResourceSpec spec) {
    assert(!plan_.resource(spec.name));
    PlannedResource r;
    const View& v = inputs_.view;
    r.layers = spec.cubes > 0                                ? 6 * spec.cubes
               : spec.layers > 0                             ? spec.layers
               : v.stereo == Stereo::off || spec.forBothEyes ? 1
                                                             : 2;
    const glm::ivec2 size = spec.ofShown ? shown_size(v) : glm::ivec2(v.width, v.height);
    r.width = spec.width > 0 ? spec.width : std::max(1, static_cast<int>(size.x * spec.scale));
    r.height = spec.width > 0 ? spec.height : std::max(1, static_cast<int>(size.y * spec.scale));
    if (spec.entries > 0) r.width = r.height = 0;
    r.spec = std::move(spec);
    plan_.resources.push_back(std::move(r));
}

void PlanBuilder::pass(PlannedPass pass) {
    pass.technique = technique_;
    plan_.passes.push_back(std::move(pass));
}

void PlanBuilder::feed(Slot slot, std::string file, std::string function, std::vector<std::string> reads) {
    plan_.feeds.push_back({slot, technique_, std::move(file), std::move(function), std::move(reads)});
}

bool PlanBuilder::fed(Slot slot) const {
    return std::any_of(plan_.feeds.begin(), plan_.feeds.end(), [slot](const Feed& f) { return f.slot == slot; });
}

void PlanBuilder::set(const std::string& parameter, const glm::vec4& value) {
    assert(std::find(all_parameters().begin(), all_parameters().end(), parameter) != all_parameters().end());
    plan_.parameters[parameter] = value;
}

void PlanBuilder::define(std::string text) {
    if (std::find(plan_.surfaceDefines.begin(), plan_.surfaceDefines.end(), text) == plan_.surfaceDefines.end())
        plan_.surfaceDefines.push_back(std::move(text));
}

void PlanBuilder::settles(int frames, int jitterFrames) {
    plan_.settleFrames = std::max(plan_.settleFrames, frames);
    plan_.jitterFrames = std::max(plan_.jitterFrames, jitterFrames);
}

const PlannedPass* PlanBuilder::single_sampled() const {
    for (const PlannedPass& p : plan_.passes) {
        if (p.technique->multisamples) continue;
        for (const auto* names : {&p.reads, &p.writes})
            for (const std::string& name : *names)
                if (name == "scene" || name == "depth") return &p;
    }
    return nullptr;
}

void PlanBuilder::multisample(int samples) {
    for (const char* name : {"scene", "depth"})
        plan_.resource(name)->spec.samples = samples;
}

FramePlan PlanBuilder::plan(const FrameInputs& inputs, const std::vector<const Technique*>& techniques) {
    PlanBuilder builder(inputs);
    const Stage stage = inputs.scene.stage();
    builder.techniques_ = techniques;
    std::erase_if(builder.techniques_, [&](const Technique* t) { return !belongs(t->stages, stage); });
    for (const Technique* t : builder.techniques_)
        if (t->wants)
            for (std::string& target : t->wants(inputs))
                builder.wanted_.insert(std::move(target));
    for (const Technique* t : builder.techniques_) {
        builder.technique_ = t;
        if (t->plan) t->plan(inputs, builder);
    }
    return builder.finish();
}

FramePlan PlanBuilder::finish() {
    // The depth carries a stencil where some pass marks pixels.
    const bool marks =
        std::any_of(plan_.passes.begin(), plan_.passes.end(), [](const PlannedPass& p) { return p.marks; });
    if (marks)
        for (PlannedResource& r : plan_.resources)
            if (r.spec.format == Format::depth32f && r.spec.sampler == "depthTexture")
                r.spec.format = Format::depth32fStencil8;
    for (PlannedResource& r : plan_.resources)
        if (!r.spec.formatOf.empty()) r.spec.format = plan_.resource(r.spec.formatOf)->spec.format;
    for (PlannedPass& p : plan_.passes)
        for (const Technique* t : techniques_)
            if (std::any_of(t->mayFeed.begin(), t->mayFeed.end(), [&](Slot s) { return p.calls(s); }))
                for (const Setting& s : t->settings)
                    p.settings.push_back(s.key);
    for (PlannedPass& p : plan_.passes)
        for (const Feed& f : plan_.feeds)
            if (p.calls(f.slot))
                for (const std::string& name : f.reads)
                    if (std::find(p.reads.begin(), p.reads.end(), name) == p.reads.end()) p.reads.push_back(name);
    bear_eyes();
    live();
    share_memory();
    return std::move(plan_);
}

void PlanBuilder::bear_eyes() {
    const Stereo stereo = inputs_.view.stereo;
    if (stereo == Stereo::off) return;
    for (PlannedPass& p : plan_.passes) {
        if (p.forBothEyes) {
            p.what += " Once for both eyes.";
            continue;
        }
        p.bothEyes = stereo == Stereo::onePass && p.overGeometry;
        p.what += p.bothEyes ? " One run for both eyes." : " Once for each eye.";
        if (!p.bothEyes) p.expected.set("draws", 2 * p.expected.at("draws"));
        p.expected.set("triangles", 2 * p.expected.at("triangles"));
    }
}

void PlanBuilder::live() {
    for (std::size_t i = 0; i < plan_.passes.size(); ++i)
        for (const auto* names : {&plan_.passes[i].reads, &plan_.passes[i].writes})
            for (const std::string& name : *names) {
                PlannedResource* r = plan_.resource(name);
                assert(r); // a pass names what nobody declares
                if (r->first < 0) r->first = static_cast<int>(i);
                r->last = static_cast<int>(i);
            }
    std::erase_if(plan_.resources, [](const PlannedResource& r) { return r.first < 0; });
    for (PlannedResource& r : plan_.resources) {
        const std::size_t texels =
            r.spec.entries > 0 ? r.spec.entries : std::size_t(r.width) * static_cast<std::size_t>(r.height);
        std::size_t all = 0;
        for (int level = 0; level < r.spec.mips; ++level)
            all += std::max<std::size_t>(1, texels >> (2 * level));
        r.bytes = all * static_cast<std::size_t>(info_of(r.spec.format).bytes) * static_cast<std::size_t>(r.layers) *
                  static_cast<std::size_t>(r.spec.samples) * (r.spec.life == Life::history ? 2 : 1);
        plan_.bytesSum += r.bytes;
    }
}

/// Interval by interval, in the order in which lives begin: memory of the same shape that nobody lives in any more is
/// taken again, else new.
void PlanBuilder::share_memory() {
    std::vector<int> order(plan_.resources.size());
    for (std::size_t i = 0; i < order.size(); ++i)
        order[i] = static_cast<int>(i);
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) {
        return plan_.resources[static_cast<std::size_t>(a)].first < plan_.resources[static_cast<std::size_t>(b)].first;
    });
    std::vector<int> freeFrom; // parallel to allocations: the last pass that uses it; a large number: for good
    for (const int index : order) {
        PlannedResource& r = plan_.resources[static_cast<std::size_t>(index)];
        const bool shares = r.spec.life == Life::frame && !r.spec.kept && r.spec.entries == 0;
        for (std::size_t a = 0; shares && r.allocation < 0 && a < plan_.allocations.size(); ++a) {
            const Allocation& m = plan_.allocations[a];
            if (freeFrom[a] < r.first && m.format == r.spec.format && m.width == r.width && m.height == r.height &&
                m.layers == r.layers && m.mips == r.spec.mips && m.samples == r.spec.samples)
                r.allocation = static_cast<int>(a);
        }
        if (r.allocation < 0) {
            r.allocation = static_cast<int>(plan_.allocations.size());
            plan_.allocations.push_back(
                {r.spec.format, r.width, r.height, r.layers, r.spec.mips, r.spec.samples, r.bytes, {}});
            freeFrom.push_back(0);
            plan_.bytesHeld += r.bytes;
        }
        plan_.allocations[static_cast<std::size_t>(r.allocation)].resources.push_back(index);
        freeFrom[static_cast<std::size_t>(r.allocation)] = shares ? r.last : 1 << 30;
    }
    for (const std::size_t alive : bytes_alive(plan_))
        plan_.bytesPeak = std::max(plan_.bytesPeak, alive);
}

Work work_of(const FrameInputs& in, const std::vector<Draw>& draws) {
    const Scene& scene = in.scene;
    Work out;
    std::uint64_t commands = 0, triangles = 0;
    const Object* last = nullptr;
    for (const Draw& d : draws) {
        const Object& o = scene.objects()[static_cast<std::size_t>(d.object)];
        const bool instance = last && last->primitive == o.primitive && last->mirrored == o.mirrored;
        if (!instance) ++commands;
        last = &o;
        triangles += scene.asset->primitives[o.primitive].indices.size() / 3;
        add_bending(in, d.object, out);
    }
    return out += Work::drawing(commands, triangles);
}

Work screen_work() {
    return Work::drawing(1, 1);
}

} // namespace mirolux
