#include "core/plan/anatomy.h"
#include "core/base/text.h"
#include <algorithm>

namespace mirolux {

static bool names(const std::vector<std::string>& all, const std::string& one) {
    return std::find(all.begin(), all.end(), one) != all.end();
}

Uses uses_of(const FramePlan& plan, const PlannedResource& resource) {
    Uses out;
    for (std::size_t i = 0; i < plan.passes.size(); ++i) {
        if (names(plan.passes[i].reads, resource.spec.name)) out.readers.push_back(static_cast<int>(i));
        if (names(plan.passes[i].writes, resource.spec.name)) out.writers.push_back(static_cast<int>(i));
    }
    return out;
}

bool lives_at(const PlannedResource& r, int pass) {
    return r.spec.life != Life::frame || (r.first <= pass && (r.spec.kept || pass <= r.last));
}

std::vector<std::size_t> bytes_alive(const FramePlan& plan) {
    std::vector<std::size_t> out(plan.passes.size(), 0);
    for (std::size_t i = 0; i < out.size(); ++i)
        for (const PlannedResource& r : plan.resources)
            if (lives_at(r, static_cast<int>(i))) out[i] += r.bytes;
    return out;
}

std::vector<std::string> shares_memory_with(const FramePlan& plan, const PlannedResource& resource) {
    std::vector<std::string> out;
    if (resource.allocation < 0) return out;
    for (const int i : plan.allocations[static_cast<std::size_t>(resource.allocation)].resources)
        if (const PlannedResource& r = plan.resources[static_cast<std::size_t>(i)]; r.spec.name != resource.spec.name)
            out.push_back(r.spec.name);
    return out;
}

std::string difference_from(const FramePlan& plan, const PlannedResource& resource, const std::string& other) {
    const PlannedResource* r = plan.resource(resource.spec.name);
    if (!r) return "not in " + other;
    std::vector<std::string> out;
    if (r->spec.format != resource.spec.format)
        out.push_back(std::string(info_of(r->spec.format).word) + " in " + other);
    if (r->width != resource.width || r->height != resource.height)
        out.push_back(std::to_string(r->width) + "x" + std::to_string(r->height) + " in " + other);
    if (out.empty() && r->bytes != resource.bytes) out.push_back(number_text(r->bytes / 1e6, 3) + " MB in " + other);
    return joined(out);
}

std::string difference_from(const FramePlan& plan, const PlannedPass& pass, const std::string& other) {
    const PlannedPass* p = plan.pass(pass.name);
    if (!p) return "not in " + other;
    const auto missing = [](const std::vector<std::string>& from, const std::vector<std::string>& in) {
        std::vector<std::string> out;
        for (const std::string& name : from)
            if (!names(in, name)) out.push_back(name);
        return joined(out);
    };
    std::vector<std::string> out;
    if (const auto more = missing(pass.reads, p->reads); !more.empty()) out.push_back(other + " does not read " + more);
    if (const auto less = missing(p->reads, pass.reads); !less.empty()) out.push_back(other + " also reads " + less);
    if (const auto more = missing(pass.writes, p->writes); !more.empty())
        out.push_back(other + " does not write " + more);
    if (const auto less = missing(p->writes, pass.writes); !less.empty()) out.push_back(other + " also writes " + less);
    return joined(out, "; ");
}

std::string pass_of(const FramePlan& plan, const LayerInfo& layer) {
    for (const LayerView shown : {LayerView::bands, LayerView::stops, LayerView::clips}) // what the display makes of it
        if (layer.view == shown) return plan.pass("finish") ? "finish" : "";
    if (layer.name == "final" && !plan.passes.empty()) return plan.passes.back().name;
    if (!layer.resource.empty()) {
        const PlannedResource* r = plan.resource(layer.resource);
        return r ? plan.passes[static_cast<std::size_t>(r->first)].name : "";
    }
    if (layer.name == "sky") return "sky";
    if (layer.file.starts_with("blocks/")) return plan.pass("block light") ? "block light" : "";
    const PlannedPass *lays = nullptr, *shades = nullptr, *air = nullptr;
    for (const PlannedPass& p : plan.passes) {
        if (p.inLedger && p.overGeometry && !lays) lays = &p;
        if (p.inLedger && p.calls(Slot::lightFactor) && !shades) shades = &p;
        if (p.calls(Slot::air) && !air) air = &p;
    }
    if (!shades) shades = lays;
    const bool ofAir = layer.sky == SkyPart::scattered || layer.file.starts_with("air/");
    const PlannedPass* of = ofAir ? air : layer.view == LayerView::radiance ? shades : lays;
    return of ? of->name : "";
}

} // namespace mirolux
