#pragma once
#include "core/plan/settings.h"
#include <vector>

namespace mirolux::flat {

/// How a flat stage is graded at an hour of the day.
struct TimeKey {
    double hour = 12; // 0 to 24
    glm::vec3 tint{1.0f};
    float saturation = 1, contrast = 1, brightness = 1;
    // Of layers that are not lit (skies): what is kept of them after all that, and the colour that is added.
    float skyKeeps = 1;
    glm::vec3 sky{0.0f};

    bool operator==(const TimeKey&) const = default;
};
/// Night, dawn, noon, dusk: what stages have whose file names none.
const std::vector<TimeKey>& standard_times();
/// Between the keys before and after an hour, round the clock; each number by its share of the way.
TimeKey time_at(const std::vector<TimeKey>& keys, double hour);

/// `grade.mix`.
enum class GradeMix { normalised, multiply, scaled, added, unfloored };

/// All that grading takes from a setup.
struct Grade {
    TimeKey key;
    float lift = 0;
    double floor = 0.05, strength = 1;
    GradeMix mix = GradeMix::normalised;
    bool keepsGraded = true; // never darker than without lamps
    bool even = false;       // luminance by even thirds, else by Rec. 709
};
Grade grade_of(const std::vector<TimeKey>& keys, const Setup& setup);

/// A sheet's colour under the time of day alone: tinted and brightened, then saturated about its luminance (Rec. 709),
/// contrasted about 0.18, its blacks lifted; never negative. Of a layer that is not lit (skies) so much is kept as the
/// hour says, and the hour's sky is added.
glm::dvec3 graded(const Grade& grade, const glm::dvec3& base, bool lit = true);

/// With lamps over it, B the sheet, G graded, L the sum of lamps times the strength:
/// normalised: mix(G, B L / max(largest channel of L, floor), min(luminance of L, 1)), which lamps are meant to be;
/// multiply: G L, black where no lamp falls; scaled: G (1 + L), which keeps the night's tint in lamplight; added: G +
/// L, which shows light where the sheet is black; unfloored: normalised without the floor, black where L is 0 and loud
/// colours where it is nearly so. `keepsGraded`: the larger of that and G.
glm::dvec3 lamps_over(const Grade& grade, const glm::dvec3& base, const glm::dvec3& lamps, bool lit = true);

} // namespace mirolux::flat
