#pragma once
#include <functional>
#include <glm/glm.hpp>
#include <vector>

namespace mirolux::truth {

/// Chooses directions by how much light comes from them: cells of even height and width in the angles, each as often as
/// its own light says, and a twentieth of all directions evenly, so that none that shines is never chosen.
class Surroundings {
public:
    /// light: by unit direction, any unit, not under 0; asked `inEach` squared times in each cell, from many threads.
    Surroundings(int rows, int inEach, const std::function<double(const glm::dvec3&)>& light);
    /// u in [0, 1) twice; unit.
    glm::dvec3 choose(const glm::dvec2& u) const;
    /// How often it is chosen, 1/sr.
    double density(const glm::dvec3& direction) const;

private:
    int rows_, columns_;
    std::vector<double> upTo_; // of all, with every cell before; rows from the zenith
};

} // namespace mirolux::truth
