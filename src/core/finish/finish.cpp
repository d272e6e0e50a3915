#include "core/finish/bands.h"
#include "core/finish/color_table.h"
#include "core/finish/dither.h"
#include "core/finish/edges.h"
#include "core/finish/exposure.h"
#include "core/finish/tone_curve.h"
#include "core/finish/working_space.h"
#include "core/light/tone.h"
#include "core/sky/sky_picture.h"
#include "core/technique/plan_builder.h"

namespace mirolux::technique {

static void plan_finish(const FrameInputs& in, PlanBuilder& b) {
    const Setup& s = in.setup;
    const ToneCurve curve = tone_curve(s);
    // Of a flat stage EV 0 shows sheets as they are.
    const double unit = in.scene.is_flat() ? 1 / tone::exposure_scale(0) : 1;
    b.set("tone", glm::vec4(static_cast<float>(unit * tone::exposure_scale(hand_ev100(s))),
                            static_cast<float>(s.number("tone.white")), 0, static_cast<float>(code_steps(s))));
    if (curve == ToneCurve::own) {
        const OwnCurve own = own_curve(s);
        b.set("toneOwn", {own.shown[0], own.shown[1], own.shown[2], own.shown[3]});
        b.set("toneOwnMore", {own.shown[4], own.slopes[0], own.slopes[1], own.slopes[2]});
        b.set("toneOwnEnd", {own.slopes[3], own.slopes[4], 0, 0});
    }
    if (const std::filesystem::path file = picture_file(in.scene, s, "tone.file"); !file.empty()) {
        if (const auto table = color_table(file)) {
            b.set("tableLow", glm::vec4((*table)->low, (*table)->size));
            b.set("tableHigh", glm::vec4((*table)->high, 1));
        } else
            b.note("The colour table is left out: " + to_text(table.error()));
    }
    b.set("toneBalance", glm::vec4(white_balance(s), 0));
    const bool encodes =
        curve != ToneCurve::none && (in.scene.is_flat() || !sums_coded(s)); // coded sums are sent as they are
    b.set("outputForm", {encodes ? 1 : 0, s.whole("output.bandWidth"), most_of_band(s), 0});
    b.resource({.name = "picture",
                .format = Format::rgba8,
                .ofShown = true,
                .fromTop = true,
                .kept = true,
                .formatNote = "sRGB"});
    const bool filtered = edges_of(s) == Edges::filter;
    if (filtered)
        b.resource({.name = coded_resource,
                    .sampler = "codedPicture",
                    .format = Format::rgba16f,
                    .ofShown = true,
                    .fromTop = true,
                    .formatNote = "sRGB"});
    PlannedPass pass{.name = "finish",
                     .family = "finish",
                     .what = filtered ? "Exposure, tone curve and sRGB." : "Exposure, tone curve, sRGB and dither.",
                     .reads = {b.radiance()},
                     .writes = {filtered ? coded_resource : "picture"},
                     .settings = {"exposure.kind", "exposure.by", "exposure.ev100", "exposure.aperture",
                                  "exposure.shutter", "exposure.iso", "tone.curve", "tone.white", "tone.by",
                                  "tone.whiteBalance", "tone.file", "output.dither", "output.tile", "output.bits",
                                  "output.space"},
                     .expected = screen_work(),
                     .called = {Slot::post}};
    if (b.has(exposure_resource)) pass.reads.emplace_back(exposure_resource);
    b.pass(pass);
}

static void price_finish(const FramePlan&, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &finish()) return;
    t["finish"] = static_cast<double>(w.at("fragments"));
    if (pass.writes.front() == coded_resource)
        t["writeHalf"] = t["finish"] * 8;
    else
        t["writeUnorm"] = t["finish"] * 4;
}

/// A handle of the curve of one's own.
static Setting own_handle(std::size_t i, double standard) {
    const auto stops = static_cast<int>(OwnCurve().stops[i]);
    const std::string where = stops == 0  ? "the exposed value 1"
                              : stops > 0 ? std::to_string(stops) + " stops above 1"
                                          : std::to_string(-stops) + " stops below 1";
    return number_setting(own_curve_keys()[i], "Curve " + std::to_string(i + 1), "Finish", standard, 0, 1, "",
                          "own: the code that " + where + " is shown at, as a share of white; dragged in the figure.")
        .only_when("tone.curve", {"own"});
}

const Technique& finish() {
    static const Technique technique{
        .name = "finish",
        .stages = Stages::all,
        .settings = {choice_setting("tone.curve", "Tone curve", "Finish",
                                    {"none", "clamp", "reinhard", "filmic", "neutral", "own"}, "filmic",
                                    "From scene-linear to the display's range: none keeps linear values for looking at "
                                    "numbers, clamp cuts, reinhard and filmic bend; neutral keeps colours as they are "
                                    "up to 0.76 (Khronos PBR neutral); own is drawn by its handles in the figure."),
                     choice_setting("tone.by", "Bends", "Finish", {"channel", "luminance"}, "channel",
                                    "channel: red, green and blue each: bright colours go pale and turn in hue; "
                                    "luminance: all alike, so that hues stay.")
                         .only_when("tone.curve", {"reinhard", "filmic", "own"}),
                     number_setting("tone.white", "White point", "Finish", 4.0, 1.0, 100.0, "",
                                    "reinhard: the exposed value that becomes white.")
                         .on_ratio()
                         .only_when("tone.curve", {"reinhard"}),
                     own_handle(0, 0.003), own_handle(1, 0.08), own_handle(2, 0.45), own_handle(3, 0.91),
                     own_handle(4, 1.0),
                     number_setting("tone.whiteBalance", "White balance", "Finish", 6500, 1700, 20000, "K",
                                    "Light of this colour temperature comes out white: lower for lamps, higher for "
                                    "shade. 6500 changes nothing.")
                         .on_ratio(),
                     text_setting("tone.file", "Colour table", "Finish", "",
                                  "A .cube file beside the scene file or by its whole path: what the display would be "
                                  "sent is looked up in it, before dither."),
                     choice_setting("output.bits", "Bits", "Finish", {"8", "6", "5"}, "8",
                                    "Of a channel. Fewer as a look, or to see what dither does."),
                     choice_setting("output.dither", "Dither", "Finish", {"none", "ordered", "blue", "triangular"},
                                    "ordered",
                                    "Added before rounding, so that bands break up: a pattern that repeats; blue "
                                    "noise, which the eye sees least; or blue noise of a triangle's distribution, "
                                    "whose grain is the same on every value.")
                         .once_called("on", "ordered")
                         .once_called("off", "none"),
                     choice_setting("output.tile", "Its pattern", "Finish", {"4x4", "8x8"}, "8x8",
                                    "Pixels until the ordered pattern repeats: 16 or 64 values between two codes.")
                         .only_when("output.dither", {"ordered"}),
                     whole_setting("output.bandWidth", "Bands from", "Finish", 6, 2, 32, "pixels",
                                   "The band view marks steps between bands that are so wide on both sides.")},
        .terms = {{"finish", "a pixel's exposure, tone curve and dither", {}}},
        .layers = {{.name = "bands",
                    .label = "Bands",
                    .help = "The picture in black and white with its codes drawn apart; steps between wide bands are "
                            "marked.",
                    .view = LayerView::bands,
                    .resource = "picture"},
                   {.name = "dither",
                    .label = "Dither",
                    .help = "What is added to each pixel before its code is rounded: grey is nothing, black and white "
                            "half a code.",
                    .view = LayerView::dither,
                    .resource = "picture",
                    .role = "added before codes are rounded",
                    .when = {{"output.dither", {"ordered", "blue", "triangular"}}}},
                   {.name = "stops",
                    .label = "Stops",
                    .help = "Exposed luminance by its stops about middle grey, a colour each: grey at 0, blue below, "
                            "green to red above, black and white past -8 and 6.",
                    .view = LayerView::stops,
                    .resource = "scene"},
                   {.name = "clips",
                    .label = "Clips",
                    .help = "The picture in grey; where a channel is at its most it is orange, where all are black, "
                            "blue.",
                    .view = LayerView::clips,
                    .resource = "scene"}},
        .parameters = {"tone", // x: 1 / luminance that becomes 1, y: white point in exposed units, w: codes less one
                       "toneOwn", "toneOwnMore",
                       "toneOwnEnd",  // five codes of a curve of one's own, then its five slopes
                       "toneBalance", // factors of the channels
                       "tableLow",    // colour of the table's first entry, w: entries along an axis, 0: there is none
                       "tableHigh",   // of its last
                       "outputForm"}, // x: 1 where sRGB's code is put on, y: bands from so many pixels, z: steps of 8
                                      // bits at most
        .plan = plan_finish,
        .price = price_finish,
    };
    return technique;
}

} // namespace mirolux::technique
