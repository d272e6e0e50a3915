#pragma once
#include "core/flat/flat_view.h"
#include "core/plan/draw_list.h"
#include "core/scene/scene.h"

// What lights of a flat stage give, in double: the reference for every way and what accounts are made from.
namespace mirolux::flat {

/// What a picture or a text lets through, linear; rows from the top. Empty: its light has no profile.
struct Profile {
    int width = 0, height = 0;
    std::vector<glm::vec3> values;
    glm::dvec2 half{0.0}; // units it reaches to each side of its place, unturned

    bool empty() const { return values.empty(); }
    /// Bilinear, 0 outside; from -1 to 1 along its width and, upward, its height.
    glm::dvec3 at(const glm::dvec2& local) const;
};
/// A text's letters shine whole, and with 0.4 of that around them as far as the light's range, with its falloff; a
/// picture is its sheet's first cell, as dark as it is transparent.
Profile profile_of(const Light& light, const SceneAsset& asset);
/// Half of what a picture or a text covers, with as far as it shines; units, unturned.
glm::dvec2 profile_half(const Light& light, const World& world);
/// The sum over the plane of a profile's mean channel, in square units: made once for each profile and remembered.
double profile_sum(const Light& light, const SceneAsset& asset);
/// What profile_of depends on.
std::string profile_key(const Light& light);

/// The light at a point without shadow and facing, in parts of what shows a sheet as it is:
/// color * intensity * clamp(1 - (d / range)^2, 0, 1)^falloff, d from a point, a line or the letters of a text; cones
/// of spots as in glTF KHR_lights_punctual, in the plane; directional lights give all of theirs everywhere.
glm::dvec3 light_at(const Light& light, const Profile& profile, const glm::dvec2& point);

/// What a sheet does with light beside its plain cosine.
struct Sheen {
    double specular = 0, gloss = 24; // strength and exponent (J. Blinn, Models of Light Reflection, 1977)
    double rim = 0;
};
/// Cosine between a surface's normal (x right, y up, z to the eye) and the way to the light, 0 behind it; with a
/// highlight as the eye above the stage sees it, and rim: a ramp of how far the normal leans, from half to upright, on
/// the light's side.
double facing_of(const Light& light, const Sheen& sheen, const glm::dvec3& normal, const glm::dvec2& point);

/// Box outside which the light gives nothing; infinite for directional ones.
void bounds_of(const Light& light, const World& world, glm::dvec2& low, glm::dvec2& high);

/// Layers of the world that the light reaches, a bit each.
std::uint32_t layers_of(const Light& light, const World& world);

/// Where shadow rays of a point go to; of directional lights a place that is farther than any edge matters.
glm::dvec2 shadow_origin(const Light& light, const glm::dvec2& point);

/// The share of the way from shadow_origin to a point on the ground that light passes over walls of this height (0:
/// without end).
double over_walls(const Light& light, const glm::dvec2& point, double height);

/// Lights that lift the sum no higher than `most` (0: as they will), weakest limit first, the unlimited ones last.
struct LightGroup {
    double most = 0;
    std::vector<int> lights; // into the list, in its order
};
std::vector<LightGroup> groups_of(const std::vector<Light>& lights);

enum class Blend { add, screen, largest };
/// Lights joined over what was there (`base`): added; 1 - product of (1 - light), each within 0..1; or the largest of
/// each channel. A group's limit holds the sum where it is not over it already by `base`.
glm::dvec3 joined(const std::vector<LightGroup>& groups, const std::vector<glm::dvec3>& lights, const glm::dvec3& base,
                  Blend blend);

/// A scene's lights that give anything, as they are at a time.
std::vector<Light> shining_lights(const Scene& scene, double seconds);
/// What a view takes of a flat scene: its lights at the view's time; those out of view are counted.
DrawList draw_list(const Scene& scene, const View& view);

/// What a light's fan covers, as triangles of three points each within the window: all that its place sees.
std::vector<glm::vec2> fan_of(const std::vector<Edge>& edges, const Light& light, const World& world,
                              const Window& window);

} // namespace mirolux::flat
