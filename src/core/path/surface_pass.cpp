#include "core/path/surface_pass.h"
#include "core/ambient/reflection.h"
#include "core/surface/subsurface.h"
#include <algorithm>

namespace mirolux {

bool lays_ambient_later(const FrameInputs& in) {
    return path_kind(in.setup).deferred && occludes_ambient(in.setup) && in.view.stereo != Stereo::onePass;
}

std::vector<std::string> with_mirror_shares(const PlanBuilder& b, std::vector<std::string> writes) {
    if (b.wanted(mirror_share_resource)) writes.emplace_back(mirror_share_resource);
    return writes;
}

std::vector<std::string> with_diffuse_light(const PlanBuilder& b, std::vector<std::string> writes) {
    if (b.wanted(diffuse_light_resource)) writes.emplace_back(diffuse_light_resource);
    return writes;
}

std::vector<std::string> shading_keys() {
    return {"shading.model",  "shading.exponent", "shading.normalised", "shading.normalMaps",
            "shading.optics", "light.window",     "light.threshold"};
}

std::vector<std::string> joined_keys(std::vector<std::string> a, const std::vector<std::string>& b) {
    a.insert(a.end(), b.begin(), b.end());
    return a;
}

static int texel_bytes(const FramePlan& plan, const char* resource) {
    const PlannedResource* r = plan.resource(resource);
    return r ? info_of(r->spec.format).bytes : 0;
}

static bool half_floats(const FramePlan& plan) {
    return plan.resource("scene")->spec.format == Format::rgba16f;
}

double scene_bytes(const FramePlan& plan) {
    return texel_bytes(plan, "scene");
}
double depth_bytes(const FramePlan& plan) {
    return texel_bytes(plan, "depth");
}
const char* write_term(const FramePlan& plan) {
    return half_floats(plan) ? "writeHalf" : "writeFloat";
}
const char* blend_term(const FramePlan& plan) {
    return half_floats(plan) ? "blendHalf" : "blendFloat";
}

void price_surface(const Work& work, CostTerms& t) {
    t["surface"] = static_cast<double>(work.at("fragments"));
    t["filteredRead"] = static_cast<double>(work.at("textureReads"));
}

void price_lights(const FramePlan& plan, const Work& work, bool listed, CostTerms& t) {
    const std::string& model = plan.setup.choice("shading.model");
    const auto evaluations = static_cast<double>(work.at("lightEvaluations"));
    const auto reached = static_cast<double>(work.at("lightsReached"));
    t[model == "blinn-phong" ? "blinnPhong" : model] = reached;
    t["idleLight"] = evaluations - reached;
    if (listed) t["listRead"] = evaluations;
    if (listed && path_kind(plan.setup).clustered) t["slice"] = static_cast<double>(work.at("fragments"));
}

void price_mirror_shares(const FramePlan& plan, const PlannedPass& pass, const Work& work, CostTerms& t) {
    if (std::find(pass.writes.begin(), pass.writes.end(), mirror_share_resource) != pass.writes.end())
        t["writeUnorm"] += static_cast<double>(work.at("fragments")) * texel_bytes(plan, mirror_share_resource);
}

void price_diffuse_light(const PlannedPass& pass, double fragments, bool blended, CostTerms& t) {
    if (std::find(pass.writes.begin(), pass.writes.end(), diffuse_light_resource) != pass.writes.end())
        t[blended ? "blendHalf" : "writeHalf"] += fragments * info_of(Format::rgba16f).bytes;
}

void price_opaque(const FramePlan& plan, const PlannedPass& pass, const Work& work, CostTerms& t) {
    const auto fragments = static_cast<double>(work.at("fragments"));
    t[write_term(plan)] = fragments * scene_bytes(plan);
    if (!pass.laidDepth) t["writeDepth"] = fragments * 4;
    price_mirror_shares(plan, pass, work, t);
    price_diffuse_light(pass, fragments, false, t);
    t["clear"] = plan.pixels() * (scene_bytes(plan) + (pass.laidDepth ? 0 : depth_bytes(plan)));
}

} // namespace mirolux
