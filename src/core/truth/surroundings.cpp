#include "core/truth/surroundings.h"
#include "core/truth/scattering.h"
#include <algorithm>
#include <cmath>
#include <oneapi/tbb/parallel_for.h>

namespace mirolux::truth {

static constexpr double evenly = 0.05; // of all choices, whatever the light

/// row, column: with fractions; from the zenith, and from +X over +Z.
static glm::dvec3 direction_at(double row, double column, int rows, int columns) {
    const double high = pi * row / rows, round = 2 * pi * column / columns;
    return {std::sin(high) * std::cos(round), std::cos(high), std::sin(high) * std::sin(round)};
}

static double solid_angle(int row, int rows, int columns) {
    return 2 * pi / columns * (std::cos(pi * row / rows) - std::cos(pi * (row + 1) / rows));
}

Surroundings::Surroundings(int rows, int inEach, const std::function<double(const glm::dvec3&)>& light)
    : rows_(rows), columns_(2 * rows), upTo_(static_cast<std::size_t>(rows_) * static_cast<std::size_t>(columns_)) {
    oneapi::tbb::parallel_for(0, rows_, [&](int row) {
        const double angle = solid_angle(row, rows_, columns_) / (inEach * inEach);
        for (int column = 0; column < columns_; ++column) {
            double sum = 0;
            for (int k = 0; k < inEach * inEach; ++k) {
                const double l = light(direction_at(row + (k / inEach + 0.5) / inEach,
                                                    column + (k % inEach + 0.5) / inEach, rows_, columns_));
                if (std::isfinite(l)) sum += std::max(l, 0.0);
            }
            upTo_[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns_) +
                  static_cast<std::size_t>(column)] = sum * angle;
        }
    });
    double all = 0;
    for (const double cell : upTo_)
        all += cell;
    double before = 0;
    for (std::size_t i = 0; i < upTo_.size(); ++i) {
        const double share = solid_angle(static_cast<int>(i) / columns_, rows_, columns_) / (4 * pi);
        before += all > 0 ? glm::mix(upTo_[i] / all, share, evenly) : share;
        upTo_[i] = before;
    }
    for (double& cell : upTo_)
        cell /= before;
}

glm::dvec3 Surroundings::choose(const glm::dvec2& u) const {
    const auto at = std::min<std::size_t>(
        static_cast<std::size_t>(std::upper_bound(upTo_.begin(), upTo_.end(), u.x) - upTo_.begin()), upTo_.size() - 1);
    const double before = at > 0 ? upTo_[at - 1] : 0, within = (u.x - before) / std::max(upTo_[at] - before, 1e-300);
    const int row = static_cast<int>(at) / columns_, column = static_cast<int>(at) % columns_;
    const double y = glm::mix(std::cos(pi * row / rows_), std::cos(pi * (row + 1) / rows_), u.y),
                 round = 2 * pi * (column + std::clamp(within, 0.0, 1.0)) / columns_, flat = std::sqrt(1 - y * y);
    return {flat * std::cos(round), y, flat * std::sin(round)};
}

double Surroundings::density(const glm::dvec3& d) const {
    const double high = std::acos(std::clamp(d.y, -1.0, 1.0)) / pi * rows_;
    double round = std::atan2(d.z, d.x) / (2 * pi);
    round -= std::floor(round);
    const int row = std::min(static_cast<int>(high), rows_ - 1),
              column = std::min(static_cast<int>(round * columns_), columns_ - 1);
    const auto at =
        static_cast<std::size_t>(row) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(column);
    return (upTo_[at] - (at > 0 ? upTo_[at - 1] : 0)) / solid_angle(row, rows_, columns_);
}

} // namespace mirolux::truth
