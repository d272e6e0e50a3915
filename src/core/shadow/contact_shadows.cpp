#include "core/path/path_kind.h"
#include "core/shadow/shadow_set.h"
#include "core/technique/plan_builder.h"
#include <cmath>

// Short shadows marched on the screen: from a surface a little way toward the light, through the depths that the eye
// sees. They close the gap that bias leaves at a thing's foot, and know nothing of what the picture does not show.
namespace mirolux::technique {

static void plan_contact_shadows(const FrameInputs& in, PlanBuilder& b) {
    if (!marches_contact(in.setup)) return;
    if (in.view.stereo == Stereo::onePass)
        return b.note("Contact shadows are left out: one pass over both eyes has no depth of its own to march.");
    if (shadow_set(in.scene, in.setup, in.view, in.draws).lights.empty()) return;
    b.resource(
        {.name = "contact depth", .sampler = "contactDepth", .format = Format::r32f, .ownDepths = true, .kept = true});
    b.pass({.name = "contact depth",
            .family = "shadows",
            .what = "Copies depth in metres, so that shading may march through it.",
            .reads = {"depth"},
            .writes = {"contact depth"},
            .settings = {"shadow.contact"},
            .expected = screen_work()});
    b.define("CONTACT_STEPS " + std::to_string(in.setup.whole("shadow.contactSteps")));
    b.set("contact", {in.setup.number("shadow.contactLength"), in.setup.number("shadow.contactThickness"), 0, 0});
    b.feed(Slot::lightFactor, "contact_shadows/march.glsl", "contactFactor", {"contact depth"});
}

static void price_contact_shadows(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique == &contact_shadows()) {
        t["run"] = 1;
        t["writeFloat"] = plan.pixels() * 4;
        return;
    }
    if (plan.feeds_slot(&contact_shadows(), pass)) t["contactStep"] = static_cast<double>(w.at("contactSteps"));
}

const Technique& contact_shadows() {
    const auto setting = [](Setting s) {
        return std::move(s).only_when("shadow.maps", {"on"}).only_when("shadow.contact", {"on"});
    };
    static const Technique technique{
        .name = "contact_shadows",
        .settings = {toggle_setting("shadow.contact", "Contact shadows", "Shadows", false,
                                    "Marches a little way toward each light with a map through the depths of the "
                                    "picture: closes the gap that bias leaves at a thing's foot, for some reads a "
                                    "pixel and light.")
                         .only_when("shadow.maps", {"on"}),
                     setting(number_setting("shadow.contactLength", "Contact's reach", "Shadows", 0.3, 0.01, 10.0, "m",
                                            "How far toward the light it is marched.")
                                 .on_ratio()),
                     setting(whole_setting("shadow.contactSteps", "Contact's steps", "Shadows", 12, 2, 64, "",
                                           "Depths read on the way; fewer miss thin things and show grain.")),
                     setting(number_setting("shadow.contactThickness", "Contact's depth", "Shadows", 0.2, 0.005, 10.0,
                                            "m",
                                            "How thick what the picture shows is taken to be: what passes farther "
                                            "behind is not shaded.")
                                 .on_ratio())},
        .counters = {{"contactSteps", "Contact steps", "depths of the picture read on the way to a light"}},
        .terms = {{"contactStep",
                   "a depth of the picture read on the way to a light",
                   {{"shadow.maps", "on"}, {"shadow.contact", "on"}},
                   0.05}},
        .parameters = {"contact"}, // x: reach, metres; y: thickness, metres
        .mayFeed = {Slot::lightFactor},
        .plan = plan_contact_shadows,
        .price = price_contact_shadows,
    };
    return technique;
}

} // namespace mirolux::technique
