#include "core/finish/working_space.h"
#include "core/light/tone.h"
#include "core/technique/plan_builder.h"

namespace mirolux::technique {

static void plan_finish(const FrameInputs& in, PlanBuilder& b) {
    const Setup& s = in.setup;
    const std::string& curve = s.choice("tone.curve");
    const int number = curve == "none" ? 0 : curve == "clamp" ? 1 : curve == "reinhard" ? 2 : 3;
    // Of a flat stage EV 0 shows sheets as they are.
    const double unit = in.scene.is_flat() ? 1 / tone::exposure_scale(0) : 1;
    b.set("tone", glm::vec4(static_cast<float>(unit * tone::exposure_scale(s.number("exposure.ev100"))),
                            static_cast<float>(s.number("tone.white")), static_cast<float>(number),
                            s.flag("output.dither") ? 1.0f : 0.0f));
    const bool encodes = curve != "none" && (in.scene.is_flat() || !sums_coded(s)); // coded sums are sent as they are
    b.set("outputForm", {encodes ? 1.0f : 0.0f, 0, 0, 0});
    b.resource({.name = "picture", .format = Format::rgba8, .fromTop = true, .kept = true, .formatNote = "sRGB"});
    b.pass({.name = "finish",
            .family = "finish",
            .what = "Exposure, tone curve, sRGB and dither.",
            .reads = {"scene"},
            .writes = {"picture"},
            .settings = {"exposure.ev100", "tone.curve", "tone.white", "output.dither", "output.space"},
            .expected = screen_work(),
            .called = {Slot::post}});
}

static void price_finish(const FramePlan&, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &finish()) return;
    t["finish"] = static_cast<double>(w.at("fragments"));
    t["writeUnorm"] = t["finish"] * 4;
}

const Technique& finish() {
    static const Technique technique{
        .name = "finish",
        .stages = Stages::all,
        .settings = {number_setting("exposure.ev100", "Exposure", "Finish", 0.0, -8.0, 20.0, "EV100",
                                    "One step doubles the light that the picture takes for white."),
                     choice_setting("tone.curve", "Tone curve", "Finish", {"none", "clamp", "reinhard", "filmic"},
                                    "filmic",
                                    "From scene-linear to the display's range: none keeps linear values for looking at "
                                    "numbers, clamp cuts, reinhard and filmic bend."),
                     number_setting("tone.white", "White point", "Finish", 4.0, 1.0, 100.0, "",
                                    "reinhard: the exposed value that becomes white.")
                         .on_ratio()
                         .only_when("tone.curve", {"reinhard"}),
                     toggle_setting("output.dither", "Ordered dither", "Finish", true,
                                    "Breaks 8-bit bands with an 8x8 ordered pattern of half a step.")},
        .terms = {{"finish", "a pixel's exposure, tone curve and dither", {}}},
        .parameters = {"tone", // x: 1 / luminance that becomes 1, y: white point in exposed units, z: curve, w: dither
                       "outputForm"}, // x: 1 where sRGB's code is put on
        .plan = plan_finish,
        .price = price_finish,
    };
    return technique;
}

} // namespace mirolux::technique
