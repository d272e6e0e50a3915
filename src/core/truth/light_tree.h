#pragma once
#include "core/scene/scene.h"

namespace mirolux::truth {

/// Directions within an angle of an axis.
struct Cone {
    glm::vec3 axis{0, 0, 1};
    float cosine = 2.0f; // of the half angle; over 1: no direction at all
};
Cone united(const Cone& a, const Cone& b);

/// What is known of an emitter, or of a group of them, from where it is chosen by.
struct EmitterBounds {
    Box box;                    // where it stands
    Box reached;                // where it gives anything at all; empty: everywhere
    Cone cone;                  // of its normals, or of a spot's rays
    float cosineFalloff = 0.0f; // of the angle beyond the cone into which it still shines
    float power = 0.0f;         // any unit, the same for all
    float range = 0.0f;         // metres to which it shines, falling off by a window; 0: without end
};

/// What `importance` needs of bounds, worked out once.
struct EmitterShape {
    EmitterShape(const EmitterBounds& bounds = {});
    glm::vec3 center, axis, reachedCenter, reachedHalf; // reachedHalf: negative: everywhere
    float radius, radius2, least2, cosine, sine, cosineFalloff, power, range;
};
/// What an emitter, or a group of them, may give at a point, up to a factor: 0 only where it gives nothing.
double importance(const EmitterShape& emitter, const glm::vec3& point, const glm::vec3& normal);

/// Chooses among very many emitters by what each may give at a point (A. Conty Estevez and C. Kulla, Importance
/// Sampling of Many Lights with Adaptive Tree Splitting, 2018): a binary tree over their bounds, made by the cost of
/// its splits.
class LightTree {
public:
    explicit LightTree(const std::vector<EmitterBounds>& emitters);
    bool empty() const { return nodes_.empty(); }

    struct Choice {
        int emitter = -1; // -1: none gives anything there
        double share = 0; // how often it is chosen at this point
    };
    /// u in [0, 1). normal: of the receiver; the zero vector: it takes light from everywhere (air).
    Choice choose(const glm::vec3& point, const glm::vec3& normal, double u) const;
    /// How often `choose` finds an emitter at a point.
    double share_of(int emitter, const glm::vec3& point, const glm::vec3& normal) const;

private:
    struct Node {
        EmitterShape shape;
        int left = -1, right = -1; // -1: a leaf
        int emitter = -1;
        int parent = -1;
    };
    EmitterBounds build(std::vector<int>& order, std::size_t first, std::size_t last,
                        const std::vector<EmitterBounds>& emitters, int parent);
    std::vector<Node> nodes_;
    std::vector<int> leaves_; // by emitter; -1: it gives nothing anywhere
};

} // namespace mirolux::truth
