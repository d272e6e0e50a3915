#include "core/finish/exposure.h"
#include "core/finish/working_space.h"
#include "core/light/luminance.h"
#include "core/light/tone.h"
#include "core/technique/plan_builder.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

namespace {

constexpr double least_luminance = 1e-4, most_luminance = 1e9; // cd/m2, of a pixel in a meter
constexpr double even_luminance = 0.216;                       // cd/m2 at EV100 0 that comes out at 0.18
constexpr double dark_ev = -4, plain_ev = 5, light_ev = 14;    // where the compensation curve has its ends and its bend

double unit_of(bool flat) {
    return flat ? 1 / tone::exposure_scale(0) : 1; // of a flat stage EV 0 shows sheets as they are
}

glm::dvec2 spot_of(const Setup& s, double aspect) {
    return {(2 * s.number("exposure.spotX") - 1) * aspect, 2 * s.number("exposure.spotY") - 1};
}

} // namespace

double hand_ev100(const Setup& s) {
    if (s.choice("exposure.by") == "ev") return s.number("exposure.ev100");
    const double n = s.number("exposure.aperture");
    return std::log2(n * n * s.number("exposure.shutter") * 100 / s.number("exposure.iso"));
}

bool meters(const Setup& s, bool flat) {
    return s.choice("exposure.kind") == "metered" && (flat || !sums_coded(s));
}

double meter_weight(const Setup& s, const glm::dvec2& at, double aspect, double pixel) {
    const std::string& meter = s.choice("exposure.meter");
    if (meter == "centre")
        return std::exp(-0.5 * std::pow(glm::length(at) / s.number("exposure.centre"), s.number("exposure.falloff")));
    if (meter == "spot")
        return glm::length(at - spot_of(s, aspect)) <= std::max(s.number("exposure.spotSize"), 0.75 * pixel) ? 1 : 0;
    return 1;
}

double metered_luminance(const FloatImage& radiance, const Setup& s, bool flat) {
    const double aspect = double(radiance.width) / radiance.height, pixel = 2.0 / radiance.height;
    const bool sorted = s.choice("exposure.meter") == "histogram";
    std::vector<double> all;
    double sum = 0, weights = 0;
    for (int y = 0; y < radiance.height; ++y)
        for (int x = 0; x < radiance.width; ++x) {
            const float* p = radiance.pixel(x, y);
            const double l = luminance(glm::dvec3(p[0], p[1], p[2])) * unit_of(flat);
            const double log = std::log(l >= least_luminance ? std::min(l, most_luminance) : least_luminance);
            if (sorted) {
                all.push_back(log);
                continue;
            }
            const glm::dvec2 at((x + 0.5) * pixel - aspect, (y + 0.5) * pixel - 1);
            const double w = meter_weight(s, at, aspect, pixel);
            sum += w * log;
            weights += w;
        }
    if (sorted) {
        std::sort(all.begin(), all.end());
        const double n = static_cast<double>(all.size()), low = n * 0.01 * s.number("exposure.low"),
                     high = std::max(n * 0.01 * s.number("exposure.high"), low + 1);
        for (std::size_t i = 0; i < all.size(); ++i) {
            const double w = std::clamp(high - double(i), 0.0, 1.0) - std::clamp(low - double(i), 0.0, 1.0);
            sum += w * all[i];
            weights += w;
        }
    }
    return std::exp(sum / std::max(weights, 1e-30));
}

double compensation_at(double ev100, const Setup& s) {
    const double dark = std::clamp((plain_ev - ev100) / (plain_ev - dark_ev), 0.0, 1.0),
                 light = std::clamp((ev100 - plain_ev) / (light_ev - plain_ev), 0.0, 1.0);
    return s.number("exposure.compensation") + dark * s.number("exposure.inDark") +
           light * s.number("exposure.inLight");
}

double ev100_for(double luminance, const Setup& s) {
    const double ev = std::log2(luminance / even_luminance), low = s.number("exposure.least");
    return std::clamp(ev - compensation_at(ev, s), low, std::max(low, s.number("exposure.most")));
}

double left_to_go(double ev100, double wanted, const Setup& s, double seconds) {
    if (s.flag("exposure.lock")) return 1;
    return std::exp(-seconds * s.number(wanted > ev100 ? "exposure.up" : "exposure.down"));
}

Setup exposed_by(const Setup& setup, double ev100) {
    Setup out = setup;
    const Setting& s = all_settings()[static_cast<std::size_t>(setting_index("exposure.ev100"))];
    (void)out.set("exposure.kind", std::string("manual"));
    (void)out.set("exposure.by", std::string("ev"));
    (void)out.set("exposure.ev100", std::clamp(ev100, s.low, s.high));
    return out;
}

Setup exposed_as(const Setup& setup, const std::map<std::string, std::vector<double>>& told) {
    const auto it = told.find(told_ev100);
    return it == told.end() || it->second.empty() ? setup : exposed_by(setup, it->second.front());
}

namespace technique {

static void plan_exposure(const FrameInputs& in, PlanBuilder& b) {
    const Setup& s = in.setup;
    const bool flat = in.scene.is_flat();
    if (!meters(s, flat)) {
        if (s.choice("exposure.kind") == "metered")
            b.note("The picture is exposed by hand: gamma-coded values are summed for one exposure (output.space).");
        return;
    }
    const std::string& meter = s.choice("exposure.meter");
    const bool histogram = meter == "histogram";
    const glm::dvec2 spot = spot_of(s, aspect_of(in.view));
    b.set("meter", {meter == "whole"    ? 0
                    : meter == "centre" ? 1
                    : histogram         ? 2
                                        : 3,
                    s.number(meter == "spot" ? "exposure.spotSize" : "exposure.centre"), s.number("exposure.falloff"),
                    unit_of(flat)});
    b.set("meterPlace", {spot, 0.01 * s.number("exposure.low"), 0.01 * s.number("exposure.high")});
    b.set("exposureRange", {s.number("exposure.least"), s.number("exposure.most"), s.number("exposure.compensation"),
                            s.number("exposure.inDark")});
    b.set("exposureAdapt", {s.number("exposure.inLight"), left_to_go(0, 1, s, in.time.elapsed),
                            left_to_go(0, -1, s, in.time.elapsed), 0});
    const glm::ivec2 size = b.size_of(b.radiance());
    const int width = std::min(256, size.x), height = std::min(144, size.y);
    b.resource({.name = "meter cells",
                .sampler = "meterCells",
                .format = Format::rg32f,
                .width = width,
                .height = height,
                .forBothEyes = true});
    b.resource({.name = "meter sums",
                .sampler = "meterSums",
                .format = Format::rg32f,
                .width = std::min(16, width),
                .height = std::min(9, height),
                .forBothEyes = true});
    b.resource({.name = exposure_resource,
                .sampler = "exposure",
                .format = Format::rgba32f,
                .width = 1,
                .height = 1,
                .life = Life::history,
                .forBothEyes = true});
    const std::vector<std::string> keys = {"exposure.kind",     "exposure.meter", "exposure.centre",
                                           "exposure.falloff",  "exposure.spotX", "exposure.spotY",
                                           "exposure.spotSize", "exposure.low",   "exposure.high"};
    b.pass({.name = "meter",
            .family = "finish",
            .what = histogram ? "Counts the picture's pixels by their luminance."
                              : "Weighs the logarithm of the picture's luminance, cell by cell.",
            .reads = {b.radiance()},
            .writes = {"meter cells"},
            .settings = keys,
            .expected = screen_work(),
            .forBothEyes = true});
    b.pass({.name = "meter sums",
            .family = "finish",
            .what = "Sums the cells.",
            .reads = {"meter cells"},
            .writes = {"meter sums"},
            .settings = {"exposure.kind"},
            .expected = screen_work(),
            .forBothEyes = true});
    b.pass({.name = "adapt exposure",
            .family = "finish",
            .what = "Goes from the exposure of the frame before toward what the meter asks for.",
            .reads = {"meter sums"},
            .writes = {exposure_resource},
            .settings = {"exposure.kind", "exposure.least", "exposure.most", "exposure.compensation", "exposure.inDark",
                         "exposure.inLight", "exposure.up", "exposure.down", "exposure.lock"},
            .expected = screen_work(),
            .forBothEyes = true});
}

static void price_exposure(const FramePlan&, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &exposure()) return;
    t["run"] = 1;
    if (pass.name != "meter") return;
    t["meterRead"] = static_cast<double>(w.at("meterReads"));
    if (w.at("meterBins") > 0) t["meterBin"] = static_cast<double>(w.at("meterBins"));
}

static std::vector<Setting> exposure_settings() {
    const auto by_hand = [](Setting s, const char* how) {
        return std::move(s).only_when("exposure.kind", {"manual"}).only_when("exposure.by", {how});
    };
    const auto metered = [](Setting s) { return std::move(s).only_when("exposure.kind", {"metered"}); };
    const auto of_meter = [&](Setting s, const char* meter) {
        return metered(std::move(s)).only_when("exposure.meter", {meter});
    };
    return {
        choice_setting("exposure.kind", "Exposed", "Finish", {"manual", "metered"}, "manual",
                       "manual: by hand; metered: as the picture's own luminance asks for, in every frame anew."),
        choice_setting("exposure.by", "Set as", "Finish", {"ev", "camera"}, "ev",
                       "ev: one number; camera: by aperture, exposure time and film speed.")
            .only_when("exposure.kind", {"manual"}),
        by_hand(number_setting("exposure.ev100", "Exposure", "Finish", 0.0, -8.0, 20.0, "EV100",
                               "One step doubles the light that the picture takes for white."),
                "ev"),
        by_hand(number_setting("exposure.aperture", "Aperture", "Finish", 2.8, 0.7, 32, "",
                               "The f-number: its square is what the light is divided by.")
                    .on_ratio(),
                "camera"),
        by_hand(number_setting("exposure.shutter", "Shutter", "Finish", 30, 0.03, 8000, "1/s",
                               "Exposures that a second would hold: twice as many let in half the light.")
                    .on_ratio(),
                "camera"),
        by_hand(number_setting("exposure.iso", "Film speed", "Finish", 100, 25, 102400, "ISO",
                               "Twice the speed needs half the light.")
                    .on_ratio(),
                "camera"),
        metered(choice_setting("exposure.meter", "Meter", "Finish", {"whole", "centre", "histogram", "spot"}, "whole",
                               "What of the picture is metered: whole: all alike; centre: by distance from the "
                               "middle; histogram: pixels between two percentiles; spot: a disc that one drags.")),
        of_meter(number_setting("exposure.centre", "Centre's size", "Finish", 0.5, 0.05, 4, "half heights",
                                "Distance from the middle, in half picture heights, where the weight has fallen to "
                                "0.61.")
                     .on_ratio(),
                 "centre"),
        of_meter(number_setting("exposure.falloff", "Its edge", "Finish", 2, 1, 16, "",
                                "How steeply weight falls there: 2 a bell, more a disc.")
                     .on_ratio(),
                 "centre"),
        of_meter(number_setting("exposure.low", "Percentile from", "Finish", 10, 0, 95, "%",
                                "Darker pixels than so many of a hundred are left out."),
                 "histogram"),
        of_meter(number_setting("exposure.high", "Percentile to", "Finish", 90, 5, 100, "%",
                                "Brighter pixels than so many of a hundred are left out."),
                 "histogram"),
        of_meter(number_setting("exposure.spotX", "Spot across", "Finish", 0.5, 0, 1, "",
                                "Where the spot stands, of the picture's width from the left."),
                 "spot"),
        of_meter(number_setting("exposure.spotY", "Spot down", "Finish", 0.5, 0, 1, "",
                                "Where the spot stands, of the picture's height from the top."),
                 "spot"),
        of_meter(number_setting("exposure.spotSize", "Spot size", "Finish", 0.12, 0.01, 1, "half heights",
                                "The spot's radius in half picture heights.")
                     .on_ratio(),
                 "spot"),
        metered(number_setting("exposure.compensation", "Compensation", "Finish", 0, -8, 8, "stops",
                               "Stops that the picture is made brighter than the meter asks for.")),
        metered(number_setting("exposure.inDark", "In the dark", "Finish", 0, -8, 8, "stops",
                               "Stops more where the meter says EV100 -4 or less, fading out toward 5: night stays "
                               "night below 0.")),
        metered(number_setting("exposure.inLight", "In bright light", "Finish", 0, -8, 8, "stops",
                               "Stops more where the meter says EV100 14 or more, fading out toward 5.")),
        metered(number_setting("exposure.least", "Lowest EV", "Finish", -6, -10, 20, "EV100",
                               "The meter never opens further.")),
        metered(number_setting("exposure.most", "Highest EV", "Finish", 18, -10, 20, "EV100",
                               "The meter never closes further.")),
        metered(number_setting("exposure.up", "Speed up", "Finish", 3, 0.05, 50, "stops/s",
                               "Where the picture got brighter: stops a second for each stop that is left to go.")
                    .on_ratio()),
        metered(number_setting("exposure.down", "Speed down", "Finish", 1, 0.05, 50, "stops/s",
                               "Where the picture got darker: stops a second for each stop that is left to go.")
                    .on_ratio()),
        metered(toggle_setting("exposure.lock", "Hold", "Finish", false, "Stays at the exposure that it has come to.")),
    };
}

const Technique& exposure() {
    static const Technique technique{
        .name = "exposure",
        .stages = Stages::all,
        .settings = exposure_settings(),
        .counters = {{"meterReads", "Metered pixels", "pixels whose luminance is metered"},
                     {"meterBins", "Pixels counted by luminance", "pixels entered in the meter's histogram"}},
        .terms = {{"meterRead", "a pixel metered", {{"exposure.kind", "metered"}}, 0.02},
                  {"meterBin",
                   "a pixel entered in the meter's histogram",
                   {{"exposure.kind", "metered"}, {"exposure.meter", "histogram"}},
                   0.05}},
        .parameters = {"meter",          // x: which, y: size of centre or spot in half heights, z: falloff, w: unit
                       "meterPlace",     // xy: spot from the centre in half heights, y down; zw: percentiles as shares
                       "exposureRange",  // x: least, y: most EV100, z: compensation, w: in the dark, stops
                       "exposureAdapt"}, // x: in bright light, stops; shares left of the way y: up, z: down
        .plan = plan_exposure,
        .price = price_exposure,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
