#include "core/ambient/probes.h"
#include "core/technique/plan_builder.h"
#include <fmt/format.h>

namespace mirolux {

bool uses_probes(const Setup& setup) {
    return setup.choice("ambient.kind") == "environment" && setup.choice("probe.kind") == "captured";
}

LobeLevels probe_levels(const Setup& setup) {
    return {std::stoi(setup.choice("probe.size")), setup.whole("environment.samples")};
}

CapturedProbes captured_probes(const Scene& scene, const Setup& setup) {
    CapturedProbes out;
    if (!uses_probes(setup)) return out;
    std::size_t missing = 0;
    for (const Probe& p : scene.probes)
        if (p.enabled && p.file.empty()) ++missing;
    if (missing)
        out.notes.push_back(missing == 1 ? "One probe is not captured yet: the surroundings stand in for it."
                                         : fmt::format("{} probes are not captured yet: the surroundings stand in for "
                                                       "them.",
                                                       missing));
    const int size = std::stoi(setup.choice("probe.size"));
    for (const std::size_t i : nested(scene.probes)) {
        const Probe& p = scene.probes[i];
        auto light = read_probe(p.file, size);
        if (!light) {
            out.notes.push_back("The probe '" + p.name + "' is left out: " + to_text(light.error()));
            continue;
        }
        if (out.probes.size() == most_probes) {
            out.notes.push_back(fmt::format("Only the {} probes with the smallest boxes take part.", most_probes));
            break;
        }
        if (!(*light)->remark.empty())
            out.notes.push_back("The capture of the probe '" + p.name + "': " + (*light)->remark);
        out.probes.push_back({p, *light});
    }
    return out;
}

std::vector<ProbeShare> shares_of(const CapturedProbes& captured, const glm::dvec3& point) {
    std::vector<Probe> probes;
    for (const CapturedProbe& p : captured.probes)
        probes.push_back(p.probe);
    return probe_shares(probes, point);
}

namespace technique {

static void plan_probes(const FrameInputs& in, PlanBuilder& b) {
    if (!uses_probes(in.setup)) return;
    const CapturedProbes captured = captured_probes(in.scene, in.setup);
    for (const std::string& note : captured.notes)
        b.note(note);
    if (captured.probes.empty()) {
        if (in.scene.probes.empty()) b.note("There are no probes: place some at the Ambient station.");
        return;
    }
    const auto count = static_cast<int>(captured.probes.size());
    const bool mirrored = environment_mirrored(in.setup), projected = in.setup.choice("probe.parallax") == "box";
    const LobeLevels levels = probe_levels(in.setup);
    b.set("probeForm", {count, projected ? 1 : 0, levels.count(), 0});
    b.feed(Slot::probeDiffuse, "probes/lookup.glsl", "probeDiffuse");
    if (!mirrored) return;
    b.resource(
        cube_resource(probe_faces_resource, "probeFaces2D", Format::rgba32f, levels.size, 1, whole_mips(levels.size)));
    b.resource(cube_resource(probe_lobes_resource, "probeLobes2D", Format::rgba16f, levels.size,
                             LobeLevels::cubes * count, levels.mips()));
    b.pass({.name = "probes",
            .family = "ambient",
            .what = "Captures of " + std::to_string(count) + " probes averaged over lobes of " +
                    std::to_string(levels.count()) + " widths.",
            .writes = {probe_faces_resource, probe_lobes_resource},
            .settings = {"probe.size", "environment.samples", "environment.update"},
            .expected = Work::drawing(static_cast<std::uint64_t>(6 * (levels.count() - 1) * count),
                                      static_cast<std::uint64_t>(6 * (levels.count() - 1) * count)),
            .forBothEyes = true});
    b.feed(Slot::probeSpecular, "probes/mirrored.glsl", "probeSpecular", {probe_lobes_resource});
}

static void price_probes(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&probes(), pass)) {
        if (const std::uint64_t tests = w.at("probeTests")) t["probeTest"] = static_cast<double>(tests);
        if (const std::uint64_t reads = w.at("probeReads")) t["probeRead"] = static_cast<double>(reads);
    }
    if (pass.technique != &probes()) return;
    t["run"] = static_cast<double>(w.at("draws"));
    t["environmentSample"] = static_cast<double>(w.at("environmentSamples"));
}

const Technique& probes() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"ambient.kind", "environment"},
                                                                              {"probe.kind", "captured"}};
    const auto of = [](Setting s) {
        return std::move(s).only_when("ambient.kind", {"environment"}).only_when("probe.kind", {"captured"});
    };
    const std::vector<Condition> shown = {{"ambient.kind", {"environment"}}, {"probe.kind", {"captured"}}};
    static const Technique technique{
        .name = "probes",
        .settings =
            {choice_setting("probe.kind", "Probes", "Ambient", {"none", "captured"}, "none",
                            "captured: within a probe's box surfaces take ambient light and mirror images from "
                            "what was captured at its place, not from the surroundings.")
                 .only_when("ambient.kind", {"environment"}),
             of(choice_setting("probe.parallax", "Captures stand", "Ambient", {"box", "far"}, "box",
                               "box: what a probe mirrors stands on the sides of its box, so that mirror images "
                               "keep their place as one moves; far: at no distance one could walk.")),
             of(choice_setting("probe.size", "Captures' edge", "Ambient", {"16", "32", "64", "128", "256"}, "64",
                               "Texels along a face: of the six pictures that a capture takes, and of what "
                               "surfaces mirror. Memory grows with its square, for each probe."))},
        .counters = {{"probeTests", "Probes asked", "boxes that a surface's place was held against"},
                     {"probeReads", "Probes read", "probes whose light or mirror image a surface took"}},
        .terms = {{"probeTest", "a surface's place held against a probe's box", exercise, 0.03},
                  {"probeRead", "a probe's light or mirror image taken by a surface", exercise, 0.15}},
        .layers = {{.name = "probes",
                    .label = "Of probes",
                    .help = "What surfaces send on of probes' light, diffuse and mirrored; a part of Ambient.",
                    .view = LayerView::radiance,
                    .file = "probes/layers.glsl",
                    .throughGlass = true,
                    .role = "part of Ambient",
                    .when = shown},
                   {.name = "probeShares",
                    .label = "Probe",
                    .help = "Which probe a surface takes its light from: a colour each, black where only the "
                            "surroundings light.",
                    .view = LayerView::color,
                    .file = "probes/layers.glsl",
                    .when = shown}},
        .parameters = {"probeForm"}, // how many; box projection, 0 or 1; lobes of how many widths; -
        .mayFeed = {Slot::probeDiffuse, Slot::probeSpecular},
        .plan = plan_probes,
        .price = price_probes,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
