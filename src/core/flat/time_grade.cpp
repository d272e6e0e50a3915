#include "core/flat/time_grade.h"
#include "core/flat/flat_stage.h"
#include <algorithm>

namespace mirolux::flat {

const std::vector<TimeKey>& standard_times() {
    static const std::vector<TimeKey> keys = {
        {0.0, {0.42f, 0.55f, 1.0f}, 0.55f, 0.98f, 0.24f},  {5.0, {0.50f, 0.58f, 0.95f}, 0.6f, 0.99f, 0.3f},
        {7.0, {1.0f, 0.78f, 0.66f}, 0.95f, 0.95f, 0.75f},  {12.0, {1.0f, 1.0f, 0.97f}, 1.05f, 1.0f, 1.0f},
        {17.0, {1.0f, 0.93f, 0.80f}, 1.05f, 1.0f, 0.95f},  {19.5, {1.0f, 0.55f, 0.42f}, 1.05f, 1.05f, 0.5f},
        {21.5, {0.48f, 0.52f, 0.95f}, 0.65f, 0.99f, 0.28f}};
    return keys;
}

TimeKey time_at(const std::vector<TimeKey>& keys, double hour) {
    if (keys.empty()) return {};
    std::size_t after = 0;
    while (after < keys.size() && keys[after].hour <= hour)
        ++after;
    const TimeKey &a = keys[(after + keys.size() - 1) % keys.size()], &b = keys[after % keys.size()];
    const double span = std::fmod(b.hour - a.hour + 24, 24), gone = std::fmod(hour - a.hour + 24, 24);
    const auto share = static_cast<float>(span > 0 ? std::clamp(gone / span, 0.0, 1.0) : 0);
    return {hour,
            glm::mix(a.tint, b.tint, share),
            glm::mix(a.saturation, b.saturation, share),
            glm::mix(a.contrast, b.contrast, share),
            glm::mix(a.brightness, b.brightness, share),
            glm::mix(a.skyKeeps, b.skyKeeps, share),
            glm::mix(a.sky, b.sky, share)};
}

Grade grade_of(const std::vector<TimeKey>& keys, const Setup& s) {
    static const std::vector<std::string> mixes = {"normalised", "multiply", "scaled", "added", "unfloored"};
    Grade g;
    g.key = time_at(keys.empty() ? standard_times() : keys, s.number("grade.time"));
    g.lift = static_cast<float>(s.number("grade.lift"));
    g.floor = s.number("grade.floor");
    g.strength = s.number("grade.lamps");
    g.mix = static_cast<GradeMix>(std::find(mixes.begin(), mixes.end(), s.choice("grade.mix")) - mixes.begin());
    g.keepsGraded = s.flag("grade.max");
    g.even = s.choice("grade.luminance") == "even";
    return g;
}

glm::dvec3 graded(const Grade& g, const glm::dvec3& base, bool lit) {
    glm::dvec3 c = base * glm::dvec3(g.key.tint) * double(g.key.brightness);
    const double lum = glm::dot(c, glm::dvec3(0.2126, 0.7152, 0.0722));
    c = lum + (c - lum) * double(g.key.saturation);
    c = 0.18 + (c - 0.18) * double(g.key.contrast);
    c = double(g.lift) + glm::max(c, 0.0) * (1.0 - double(g.lift));
    return lit ? c : c * double(g.key.skyKeeps) + glm::dvec3(g.key.sky);
}

glm::dvec3 lamps_over(const Grade& g, const glm::dvec3& base, const glm::dvec3& lamps, bool lit) {
    const glm::dvec3 l = lamps * g.strength, dark = graded(g, base, lit);
    const double largest = std::max({l.x, l.y, l.z}),
                 lum = g.even ? (l.x + l.y + l.z) / 3 : glm::dot(l, glm::dvec3(0.2126, 0.7152, 0.0722));
    glm::dvec3 out(0.0);
    switch (g.mix) {
    case GradeMix::normalised:
        out = glm::mix(dark, base * l / std::max(largest, g.floor), std::min(lum, 1.0));
        break;
    case GradeMix::multiply:
        out = dark * l;
        break;
    case GradeMix::scaled:
        out = dark * (1.0 + l);
        break;
    case GradeMix::added:
        out = dark + l;
        break;
    case GradeMix::unfloored:
        if (largest > 0) out = glm::mix(dark, base * l / largest, std::min(lum, 1.0));
        break;
    }
    return g.keepsGraded ? glm::max(out, dark) : out;
}

} // namespace mirolux::flat

namespace mirolux::technique {

using namespace flat;

static void plan_time_grade(const FrameInputs& in, PlanBuilder& b) {
    if (way_of(in.setup) != Way::grade) return;
    const Grade g = grade_of(in.scene.flat->times, in.setup);
    b.set("gradeTint", glm::vec4(g.key.tint * g.key.brightness, g.key.saturation));
    b.set("gradeShape", glm::vec4(g.key.contrast, g.lift, static_cast<float>(g.floor), static_cast<float>(g.strength)));
    b.set("gradeSky", glm::vec4(g.key.sky, g.key.skyKeeps));
    b.set("gradeMix", glm::vec4(static_cast<float>(g.mix), g.keepsGraded ? 1 : 0, g.even ? 1 : 0, 0));
    b.resource(light_target(in, "lamps", "lampSum"));
    b.resource({.name = "graded", .sampler = "gradedScene", .format = Format::rgba16f, .kept = true});
    b.pass(lights_pass(in, "lamps", "lamps", "Sums the lamps, with nothing under them.", {}));
    PlannedPass grade = shown_pass(in, "grade", {}, "Tints, saturates and darkens the scene by the time of day.",
                                   {"grade.time", "grade.lift"});
    std::erase(grade.reads, "flat glow");
    grade.writes = {"graded"};
    b.pass(std::move(grade));
    b.pass(shown_pass(
        in, "mix lamps", {"graded", "lamps"}, "Lays lamplight over the graded scene.",
        {"grade.mix", "grade.floor", "grade.max", "grade.luminance", "grade.lamps", "mask.scale", "mask.filter"}));
}

static void price_time_grade(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (pass.technique != &time_grade()) return;
    if (pass.name == "lamps")
        price_lights_pass(plan, w, t);
    else
        price_shown_pass(plan, w, pass.name == "grade" ? 14 : 20, t);
}

const Technique& time_grade() {
    static const Technique technique{
        .name = "time_grade",
        .stages = Stages::flat,
        .settings = {number_setting("grade.time", "Stage's time of day", "Path", 22.0, 0.0, 24.0, "h",
                                    "Which of the stage's key times tint, saturate, contrast and dim it.")
                         .only_when("flat.kind", {"grade"}),
                     choice_setting(
                         "grade.mix", "Lamps over it", "Path",
                         {"normalised", "multiply", "scaled", "added", "unfloored"}, "normalised",
                         "normalised: the sheet in the lamps' colour, as far as they are bright. Wrong on purpose: "
                         "multiply blackens what no lamp reaches, scaled keeps the night's tint in lamplight, added "
                         "lights even black, unfloored breaks where lamps are nearly 0.")
                         .only_when("flat.kind", {"grade"}),
                     number_setting("grade.floor", "Lamps' floor", "Path", 0.05, 0.0001, 1.0, "",
                                    "Lamps are divided by no less: weaker light keeps its own strength.")
                         .on_ratio()
                         .only_when("flat.kind", {"grade"})
                         .only_when("grade.mix", {"normalised"}),
                     toggle_setting("grade.max", "Never darker than graded", "Path", true,
                                    "The larger of both: a dim lamp cannot darken the evening.")
                         .only_when("flat.kind", {"grade"}),
                     choice_setting(
                         "grade.luminance", "Lamps weigh by", "Path", {"rec709", "even"}, "rec709",
                         "How bright a lamp counts: as the eye sees it, or its channels alike; a pure red lamp shows "
                         "the difference.")
                         .only_when("flat.kind", {"grade"})
                         .only_when("grade.mix", {"normalised", "unfloored"}),
                     number_setting("grade.lamps", "Lamps' strength", "Path", 1.0, 0.0, 8.0, "",
                                    "Multiplies the sum of all lamps.")
                         .on_ratio()
                         .only_when("flat.kind", {"grade"}),
                     number_setting("grade.lift", "Lift blacks", "Path", 0.0, 0.0, 0.2, "",
                                    "Raises the graded scene's blacks: nights stay readable, and lose their depth.")
                         .only_when("flat.kind", {"grade"})},
        .layers = {{.name = "graded",
                    .label = "Graded",
                    .help = "The scene under the time of day, without lamps.",
                    .view = LayerView::color,
                    .resource = "graded",
                    .when = {{"flat.kind", {"grade"}}}},
                   {.name = "lamps",
                    .label = "Lamps",
                    .help = "The sum of all lamps.",
                    .view = LayerView::color,
                    .resource = "lamps",
                    .when = {{"flat.kind", {"grade"}}}}},
        .parameters = {"gradeTint",  // rgb: tint times brightness, a: saturation
                       "gradeSky",   // rgb: added to layers that are not lit, a: what is kept of them
                       "gradeShape", // x: contrast, y: lift, z: floor, w: strength of lamps
                       "gradeMix"},  // x: GradeMix, y: 1 keeps what is graded, z: 1 even luminance
        .plan = plan_time_grade,
        .price = price_time_grade,
    };
    return technique;
}

} // namespace mirolux::technique
