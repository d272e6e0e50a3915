#include "core/shadow/shadow_maps.h"
#include "core/technique/plan_builder.h"
#include <algorithm>
#include <cmath>

// Shadow maps made ready for filters that ask one texel for all around it: warped, blurred, and with coarser levels for
// what is far away. core/shadow/filterable_depth.h says how they are asked.
namespace mirolux::technique {

static const std::vector<std::string> filterable = {"variance", "exponential", "moments"};

static void plan_filterable_shadows(const FrameInputs& in, PlanBuilder& b) {
    const ShadowFilter filter = shadow_filter(in.setup);
    if (!in.setup.flag("shadow.maps") || !is_filterable(filter)) return;
    const ShadowSet set = shadow_set(in.scene, in.setup, in.view, in.draws);
    if (set.maps.empty()) return;
    int largest = 1;
    for (const ShadowMap& m : set.maps)
        largest = std::max(largest, m.size);
    const Format format = filter == ShadowFilter::variance ? Format::rg32f : Format::rgba32f;
    b.resource({.name = blurred_shadows_resource,
                .sampler = "blurredShadows",
                .format = format,
                .width = set.width,
                .height = set.height,
                .mips = blurred_shadows_mips,
                .life = Life::scene,
                .forBothEyes = true,
                .kept = true});
    b.resource({.name = "shadows blurred across",
                .sampler = "shadowsAcross",
                .format = format,
                .width = largest,
                .height = largest,
                .forBothEyes = true});
    b.pass({.name = "shadow blur",
            .family = "shadows",
            .what = "Turns depths of shadow maps into means that one lookup can ask, blurs them, makes coarser levels.",
            .reads = {shadow_atlas_resource},
            .writes = {"shadows blurred across", blurred_shadows_resource},
            .settings = {"shadow.maps", "shadow.filter", "shadow.blur", "shadow.exponent", "shadow.update"},
            .needsBefore = shadow_update(in.setup) == ShadowUpdate::inTurn,
            .forBothEyes = true});
    const double high = std::tan(0.5 * in.view.camera.fovY);
    b.set("blurredShadows", {in.setup.number("shadow.exponent"), in.setup.number("shadow.leak"),
                             2 * high / std::max(1, in.view.height), 0});
}

static void price_filterable_shadows(const FramePlan&, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &filterable_shadows()) return;
    t["run"] = 1;
    t["shadowBlur"] = static_cast<double>(w.at("shadowBlurs"));
}

const Technique& filterable_shadows() {
    const auto setting = [](Setting s) {
        return std::move(s).only_when("shadow.maps", {"on"}).only_when("shadow.filter", filterable);
    };
    static const Technique technique{
        .name = "filterable_shadows",
        .settings = {setting(whole_setting("shadow.blur", "Blur", "Shadows", 2, 0, 16, "texels",
                                           "Radius over which maps are blurred once they are drawn: softer edges for a "
                                           "price that does not depend on the picture's size.")),
                     setting(number_setting("shadow.leak", "Leak taken away", "Shadows", 0.2, 0.0, 0.95, "",
                                            "What is lit by less is made dark and the rest stretched: hides light that "
                                            "leaks behind a second caster, and hardens edges.")),
                     number_setting("shadow.exponent", "Exponent", "Shadows", 30.0, 1.0, 42.0, "",
                                    "Of the warp: higher leaks less, until rounding shows.")
                         .only_when("shadow.maps", {"on"})
                         .only_when("shadow.filter", {"exponential"})},
        .counters = {{"shadowBlurs", "Shadow blurs", "texels gathered while shadow maps are blurred and made coarser"}},
        .terms = {{"shadowBlur",
                   "a texel gathered while shadow maps are blurred",
                   {{"shadow.maps", "on"}, {"shadow.filter", "moments"}, {"shadow.update", "always"}},
                   0.02}},
        .parameters = {"blurredShadows"}, // x: exponent; y: leak; z: a pixel's width at distance 1
        .plan = plan_filterable_shadows,
        .price = price_filterable_shadows,
    };
    return technique;
}

} // namespace mirolux::technique
