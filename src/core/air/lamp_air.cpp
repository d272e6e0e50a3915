#include "core/air/lamp_air.h"
#include "core/air/air.h"
#include "core/truth/lit_part.h"
#include <cmath>

namespace mirolux {

static constexpr double halfPi = 1.57079632679489662;

double air_integral(double u, double v) {
    const auto f = [u](double x) { return std::exp(-u * std::tan(x)); };
    v = std::clamp(v, 0.0, halfPi);
    // It falls from 1 to 0 around tan x = 1 / u: pieces that halve toward the end.
    double sum = 0, from = 0;
    for (int piece = 0; piece < 40 && from < v; ++piece) {
        const double to = piece == 39 ? v : std::min(v, halfPi - 0.6 * (halfPi - from));
        const double h0 = (to - from) * (1 + u);
        const int steps = 2 * static_cast<int>(std::clamp(16 + 8 * h0, 16.0, 512.0)); // Simpson's rule
        const double h = (to - from) / steps;
        double part = f(from) + f(to);
        for (int i = 1; i < steps; ++i)
            part += (i % 2 ? 4 : 2) * f(from + i * h);
        sum += part * h / 3;
        from = to;
    }
    return sum;
}

const AirIntegralTable& air_integral_table() {
    static const AirIntegralTable table = [] {
        AirIntegralTable t;
        for (int r = 0; r < AirIntegralTable::rows; ++r) {
            const double row = double(r) / (AirIntegralTable::rows - 1), q = std::min(row * row, 0.99999),
                         u = q / (1 - q);
            for (int c = 0; c < AirIntegralTable::columns; ++c)
                t.values.push_back(static_cast<float>(air_integral(u, halfPi * c / (AirIntegralTable::columns - 1))));
        }
        return t;
    }();
    return table;
}

double lamp_in_air(double extinction, const glm::dvec3& lamp, const glm::dvec3& origin, const glm::dvec3& direction,
                   double from, double to) {
    const double nearest = glm::dot(lamp - origin, direction),
                 beside = std::max(glm::length(lamp - origin - direction * nearest), 1e-3);
    const auto angle = [&](double t) {
        return 0.5 * (std::isfinite(t) ? std::atan((t - nearest) / beside) : halfPi) + 0.5 * halfPi;
    };
    const double u = extinction * beside, most = -extinction * nearest;
    if (most > 80) return 0; // far behind the eye
    return std::exp(most) / (4 * halfPi * beside) * (air_integral(u, angle(to)) - air_integral(u, angle(from)));
}

namespace technique {

static bool in_closed_form(const Setup& setup) {
    return setup.choice("air.kind") == "uniform" && setup.choice("air.lamps") == "closed-form";
}

static void plan_lamp_air(const FrameInputs& in, PlanBuilder& b) {
    if (!in_closed_form(in.setup)) return;
    b.feed(Slot::air, "lamp_air/feed.glsl", "lampAir", {"air lists"});
}

static void price_lamp_air(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&lamp_air(), pass)) t["lampInAir"] = static_cast<double>(w.at("lampsInAir"));
}

static void air_by_lamp(const FrameInputs& in, const AirQuestion& q, const PixelProbe&, std::vector<glm::dvec3>& out) {
    if (!in_closed_form(in.setup)) return;
    const AirMedium m = medium_of(in);
    const glm::dvec3 eye(in.view.camera.eye), d = glm::normalize(q.point - eye);
    const double metres = q.sky ? 1e5 : glm::length(q.point - eye);
    for (std::size_t i = static_cast<std::size_t>(in.draws.directional); i < in.draws.lights.size(); ++i) {
        Light l = in.draws.lights[i];
        if (l.type == LightType::spot) // a soft cone as one of its mean width
            l.outerConeAngle = static_cast<float>(
                std::acos(0.5 * (std::cos(double(l.innerConeAngle)) + std::cos(double(l.outerConeAngle)))));
        const auto part = truth::lit_part(l, in.draws.reach[i], eye, d, {0, metres});
        if (!part) continue;
        out[i] += m.albedo * m.extinction * glm::dvec3(effective_color(l)) * double(l.intensity) *
                  air_share(l, in.setup) *
                  lamp_in_air(m.extinction, glm::dvec3(l.position), eye, d, part->from, part->to);
    }
}

static void air_of_lamps(const FrameInputs& in, const AirQuestion& q, AirShare& share) {
    std::vector<glm::dvec3> each(in.draws.lights.size(), glm::dvec3(0.0));
    air_by_lamp(in, q, {}, each);
    for (const glm::dvec3& light : each)
        share.scattered += light;
}

/// Lamps in even fog without cells: each lamp's light that is scattered once toward the eye, in closed form.
const Technique& lamp_air() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"air.kind", "uniform"},
                                                                              {"air.lamps", "closed-form"}};
    static const Technique technique{
        .name = "lamp_air",
        .settings = {choice_setting("air.lamps", "Lamps in the fog", "Air", {"none", "closed-form"}, "none",
                                    "uniform: lamps glow in the fog by a formula: no cells, no shadows, to all sides "
                                    "alike; ranges end it without a window, soft cones count as hard ones.")
                         .only_when("air.kind", {"uniform"}),
                     number_setting("air.lampShare", "Lamps' share", "Air", 1.0, 0.0, 100.0, "",
                                    "How much of its light each lamp shows in the air, unless it has a share of its "
                                    "own; 1 is true.")
                         .only_when("air.kind", {"uniform", "froxels"})},
        .counters = {{"lampsInAir", "Lamps in the fog", "lamps whose light in the fog was evaluated for a point"}},
        .terms = {{"lampInAir", "a lamp's light in even fog toward the eye", exercise, 0.3}},
        .mayFeed = {Slot::air},
        .plan = plan_lamp_air,
        .price = price_lamp_air,
        .air = air_of_lamps,
        .airByLight = air_by_lamp,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
