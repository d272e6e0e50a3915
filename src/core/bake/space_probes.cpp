#include "core/bake/space_probes.h"
#include "core/bake/baked_light.h"
#include "core/bake/probe_grid.h"
#include "core/technique/plan_builder.h"

// Probes in space, in a frame: ambient light of whatever has no place in a light map.
namespace mirolux {

bool uses_probe_grid(const Setup& setup) {
    return setup.stage == Stage::solid && (setup.choice("indirect.kind") == "probes" || uses_light_map(setup));
}

std::shared_ptr<const ProbeGrid> shown_grid(const Scene& scene, const Setup& setup, std::string* remark) {
    if (!uses_probe_grid(setup) || scene.is_flat() || scene.is_blocks()) return nullptr;
    std::string said;
    auto grid = probe_grid_of(scene, setup, &said);
    if (!grid && uses_light_map(setup)) said.clear(); // what moves keeps its ambient light
    if (remark) *remark = said;
    return grid;
}

ProbeSheet probe_sheet(const ProbeGrid& grid) {
    const int across = static_cast<int>(std::min<std::size_t>(grid.size(), 1024));
    return {across,
            static_cast<int>((grid.size() + static_cast<std::size_t>(across) - 1) / static_cast<std::size_t>(across))};
}

namespace technique {

static void plan_space_probes(const FrameInputs& in, PlanBuilder& b) {
    std::string remark;
    const auto grid = shown_grid(in.scene, in.setup, &remark);
    if (!remark.empty()) b.note(remark);
    if (!grid) return;
    const ProbeReading reading = probe_reading(in.setup);
    const ProbeSheet sheet = probe_sheet(*grid);
    b.resource({.name = probe_light_resource,
                .sampler = "probeLight2D",
                .format = Format::rgba16f,
                .width = sheet.across,
                .height = sheet.down,
                .layers = reading.order == 1 ? 4 : 9,
                .life = Life::scene,
                .fromTop = true,
                .forBothEyes = true,
                .formatNote = "harmonics, a layer each"});
    std::vector<std::string> reads = {probe_light_resource};
    if (reading.visibility) {
        b.resource({.name = probe_distances_resource,
                    .sampler = "probeDistances",
                    .format = Format::rg16,
                    .width = sheet.across * (ProbeGrid::side + 2),
                    .height = sheet.down * (ProbeGrid::side + 2),
                    .life = Life::scene,
                    .fromTop = true,
                    .forBothEyes = true,
                    .formatNote = "octahedra, a texel of border"});
        reads.emplace_back(probe_distances_resource);
    }
    if (!grid->placed.empty()) {
        b.resource({.name = probe_places_resource,
                    .format = Format::words,
                    .life = Life::scene,
                    .forBothEyes = true,
                    .entries = 4 * grid->size(),
                    .formatNote = "a place each, metres"});
        reads.emplace_back(probe_places_resource);
        b.define("PROBE_PLACES " + std::to_string(grid->size()));
    }
    b.set("probeGridLow", glm::vec4(grid->low, grid->options.spacing));
    b.set("probeGridCount", glm::vec4(grid->count, static_cast<float>(sheet.across)));
    b.set("probeGridForm", {reading.order, reading.visibility ? 1 : 0, grid->far(), grid->reach()});
    b.define("PROBE_ORDER " + std::to_string(reading.order));
    b.define(std::string("PROBE_VISIBILITY ") + (reading.visibility ? "1" : "0"));
    b.feed(Slot::spaceDiffuse, "space_probes/lookup.glsl", "spaceDiffuse", reads);
}

static void price_space_probes(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (!plan.feeds_slot(&space_probes(), pass)) return;
    if (const std::uint64_t reads = w.at("gridReads")) t["gridRead"] = static_cast<double>(reads);
}

const Technique& space_probes() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"indirect.kind", "probes"}};
    const auto of = [](Setting s) { return std::move(s).only_when("indirect.kind", {"probes", "lightmap"}); };
    const std::vector<Condition> shown = {{"indirect.kind", {"probes", "lightmap"}}};
    static const Technique technique{
        .name = "space_probes",
        .settings =
            {of(number_setting("grid.spacing", "Grid spacing", "Ambient", 2.0, 0.1, 50.0, "m",
                               "Metres from one probe in space to the next: half as many apart take eight times the "
                               "memory and the time.")
                    .on_ratio()),
             of(text_setting("grid.within", "Grid within", "Ambient", "",
                             "Objects whose box the grid fills, by name (a hidden box that was built for it, say); "
                             "empty: all that stands still.")),
             of(text_setting("grid.at", "Grid by hand", "Ambient", "",
                             "Objects in whose middles probes stand, by name or pattern (hidden balls, say), in place "
                             "of a grid: each shines to twice the spacing. Empty: a grid.")),
             of(whole_setting("grid.paths", "Grid paths", "Ambient", 256, 16, 16384, "a probe",
                              "Paths that are followed from each probe.")
                    .on_ratio()),
             of(whole_setting("grid.bounces", "Grid bounces", "Ambient", -1, -1, 64, "",
                              "Bounces of light before it arrives at the surface; -1: as many as it takes.")),
             of(choice_setting("grid.order", "Grid harmonics", "Ambient", {"1", "2"}, "2",
                               "Order of each probe's harmonics: 1 takes four numbers a channel, 2 nine.")),
             of(toggle_setting("grid.visibility", "Grid sees", "Ambient", true,
                               "Asks of each probe whether it sees the point, by its distances: without, light leaks "
                               "through walls."))},
        .counters = {{"gridReads", "Space probe reads", "probes in space that a surface's light was joined of"}},
        .terms = {{"gridRead", "a probe in space read by a surface", exercise, 0.08}},
        .layers = {{.name = "spaceLight",
                    .label = "Grid light",
                    .help = "What a white surface would send on of the light of probes in space.",
                    .view = LayerView::radiance,
                    .file = "space_probes/layers.glsl",
                    .when = shown},
                   {.name = "probeLeak",
                    .label = "Grid leak",
                    .help =
                        "What would leak through walls if probes did not see: white surfaces' light without asking, "
                        "less what there is. Black without grid.visibility.",
                    .view = LayerView::radiance,
                    .file = "space_probes/layers.glsl",
                    .when = shown}},
        .parameters = {"probeGridLow", "probeGridCount", "probeGridForm"}, // first probe, spacing; count, probes a row
                                                                           // of the sheet; order, visibility, far,
                                                                           // reach of those placed by hand
        .mayFeed = {Slot::spaceDiffuse},
        .plan = plan_space_probes,
        .price = price_space_probes,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
