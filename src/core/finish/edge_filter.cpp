#include "core/finish/edges.h"
#include "core/technique/plan_builder.h"

namespace mirolux::technique {

static void plan_edge_filter(const FrameInputs& in, PlanBuilder& b) {
    if (edges_of(in.setup) != Edges::filter) return;
    b.set("edgeFilter", {in.setup.number("edges.threshold"), in.setup.whole("edges.reach"), 0, 0});
    b.pass({.name = "edge filter",
            .family = "finish",
            .what = "Follows edges in the coded picture to their ends and smooths along them; then dithers.",
            .reads = {coded_resource},
            .writes = {"picture"},
            .settings = {"edges.kind", "edges.threshold", "edges.reach", "output.dither", "output.bits"},
            .expected = screen_work()});
}

static void price_edge_filter(const FramePlan&, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &edge_filter()) return;
    t["edgeRead"] = static_cast<double>(w.at("edgeReads"));
    t["writeUnorm"] = static_cast<double>(w.at("fragments")) * 4;
}

const Technique& edge_filter() {
    static const Technique technique{
        .name = "edge_filter",
        .stages = Stages::all,
        .settings = {number_setting("edges.threshold", "Edge from", "Finish", 0.06, 0.01, 0.5, "",
                                    "Least contrast over a pixel's neighbours that is taken for an edge, of white.")
                         .on_ratio()
                         .only_when("edges.kind", {"filter"}),
                     whole_setting("edges.reach", "Followed for", "Finish", 12, 1, 64, "pixels",
                                   "How far an edge is followed to each side: nearly level edges need more, and time "
                                   "follows where there are edges.")
                         .on_ratio()
                         .only_when("edges.kind", {"filter"})},
        .counters = {{"edgeReads", "Edge reads", "texels read to find and follow edges"}},
        .terms = {{"edgeRead", "a texel read to find or follow an edge", {{"edges.kind", "filter"}}, 0.015}},
        .parameters = {"edgeFilter"}, // x: least contrast, y: pixels
        .plan = plan_edge_filter,
        .price = price_edge_filter,
    };
    return technique;
}

} // namespace mirolux::technique
