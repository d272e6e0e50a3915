#include "core/ambient/furnace.h"
#include "core/ambient/environment.h"
#include "core/ambient/split_sum.h"
#include "core/base/parallel.h"
#include "core/surface/surface_model.h"

namespace mirolux {

double FurnaceBall::at(double cosView) const {
    const double place = std::clamp(cosView, 0.0, 1.0) * steps;
    const auto low = static_cast<std::size_t>(std::min(place, steps - 1.0));
    return glm::mix(sent[low], sent[low + 1], place - static_cast<double>(low));
}

double FurnaceBall::mean() const {
    constexpr int rings = 256; // of equal area
    double sum = 0;
    for (int i = 0; i < rings; ++i)
        sum += at(std::sqrt(1 - (i + 0.5) / rings)) / rings;
    return sum;
}

/// What a viewer at `cosView` sees of a white surface under radiance 1, by the midpoint rule over directions.
static double sent_back(brdf::Model model, double exponent, bool normalised, double metallic, double cosView) {
    const glm::dvec3 n(0, 0, 1), v(std::sqrt(std::max(0.0, 1 - cosView * cosView)), 0, cosView);
    const brdf::Surface white{glm::dvec3(1), metallic, 1};
    constexpr int rows = 400, turns = 96;
    double sum = 0;
    for (int i = 0; i < rows; ++i)
        for (int j = 0; j < turns; ++j) {
            const double z = (i + 0.5) / rows, s = std::sqrt(1 - z * z), turn = glm::pi<double>() * (j + 0.5) / turns;
            const brdf::Lobes lobes =
                brdf::evaluate(model, white, exponent, normalised, n, {s * std::cos(turn), s * std::sin(turn), z}, v);
            sum += (lobes.diffuse.x + lobes.specular.x) * z;
        }
    return sum * 2 * glm::pi<double>() / (rows * turns); // half of the turns stand for all
}

std::vector<FurnaceBall> furnace_row(brdf::Model model, bool normalised, double metallic, bool compensated) {
    std::vector<double> widths;
    if (model == brdf::Model::ggx)
        widths = {brdf::least_roughness, 0.2, 0.4, 0.6, 0.8, 1.0};
    else if (model == brdf::Model::lambert)
        widths = {1};
    else
        widths = {1, 4, 16, 48, 128};
    std::vector<FurnaceBall> out(widths.size());
    parallel_for(0, static_cast<int>(widths.size()), [&](int i) {
        FurnaceBall& ball = out[static_cast<std::size_t>(i)];
        ball.width = widths[static_cast<std::size_t>(i)];
        for (int c = 0; c <= FurnaceBall::steps; ++c) {
            const double cosView = std::max(double(c) / FurnaceBall::steps, 1e-3);
            ball.sent[static_cast<std::size_t>(c)] =
                model == brdf::Model::ggx
                    ? ambient_reflected(model, {glm::dvec3(1), metallic, ball.width}, compensated,
                                        split_sum_table().at(cosView, ball.width), {glm::dvec3(1), glm::dvec3(1)})
                          .sum()
                          .x
                    : sent_back(model, ball.width, normalised, metallic, cosView);
        }
    });
    return out;
}

bool furnace_compensated(const Setup& setup) {
    return environment_mirrored(setup) && setup.flag("environment.compensated");
}

std::vector<FurnaceBall> furnace_row(const Setup& setup, double metallic) {
    return furnace_row(shading_model(setup), setup.flag("shading.normalised"), metallic, furnace_compensated(setup));
}

} // namespace mirolux
