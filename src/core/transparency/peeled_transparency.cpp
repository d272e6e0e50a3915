#include "core/path/surface_pass.h"

namespace mirolux::technique {

static void plan_peeled_transparency(const FrameInputs& in, PlanBuilder& b) {
    if (in.draws.blended.empty() || in.setup.choice("transparency.kind") != "peeled") return;
    b.resource({.name = "peeled layer", .formatOf = "scene"});
    b.resource({.name = "peeled sum", .formatOf = "scene"});
    b.resource({.name = "peeled depth, even", .format = Format::depth32f});
    b.resource({.name = "peeled depth, odd", .format = Format::depth32f});
    const auto layers = static_cast<std::uint64_t>(in.setup.whole("transparency.layers"));
    const Work once = work_of(in, in.draws.blended);
    std::vector<std::string> reads = {"depth"};
    if (path_kind(in.setup).lists) reads.push_back("light lists");
    b.pass(
        {.name = "transparent",
         .family = "transparent",
         .what = "Peels blended surfaces layer by layer from the eye, and puts them over the scene.",
         .reads = reads,
         .writes = {"scene", "peeled layer", "peeled sum", "peeled depth, even", "peeled depth, odd"},
         .settings = joined_keys({"transparency.kind", "transparency.layers", "path.maxLights"}, shading_keys()),
         .expected = Work::drawing(once.at("draws") * layers + layers + 1, once.at("triangles") * layers + layers + 1),
         .called = blended_slots});
}

static void price_peeled_transparency(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &peeled_transparency()) return;
    const double layers = plan.setup.whole("transparency.layers"), pixels = plan.pixels(), bytes = scene_bytes(plan);
    const auto fragments = static_cast<double>(w.at("fragments"));
    price_surface(w, t);
    price_lights(plan, w, true, t);
    t[write_term(plan)] = fragments * bytes;
    t["writeDepth"] = fragments * 4;
    t["fetch"] = fragments * 2 + pixels * (layers + 1);
    t["fragment"] += pixels * (layers + 1);
    t[blend_term(plan)] = pixels * (layers + 1) * bytes;
    t["clear"] = pixels * (layers * (bytes + 4) + bytes);
}

const Technique& peeled_transparency() {
    static const Technique technique{
        .name = "peeled_transparency",
        .settings = {whole_setting(
                         "transparency.layers", "Peeled layers", "Path", 6, 1, 16, "",
                         "peeled: layers of blended surfaces that a pixel can show; nearer ones win. Cost grows "
                         "with each.")
                         .only_when("transparency.kind", {"peeled"})},
        .plan = plan_peeled_transparency,
        .price = price_peeled_transparency,
    };
    return technique;
}

} // namespace mirolux::technique
