#pragma once
#include "core/image/image.h"
#include "core/plan/frame_plan.h"
#include "core/rays/ray_scene.h"
#include <functional>

// Reflections on the screen: mirrored rays through the picture's own depth, and what they are held against.
namespace mirolux {

/// What the screen answers to a mirrored ray, as the target of hits holds it. Shaders: reflection/answers.glsl.
enum class ScreenAnswer { notAsked = 0, hit = 1, left = -1, towardEye = -2, hidden = -3, back = -4, tooFar = -5 };
/// Why there is no answer, or that there is one: "leaves the picture".
const char* word(ScreenAnswer answer);

/// True where surfaces mirror surroundings and ask the screen first.
bool reflects_screen(const Setup& setup);

/// Answers held against mirrored rays, over pixels that asked.
struct ReflectionErrors {
    std::size_t asked = 0;
    std::size_t right = 0;  // a hit where the ray meets the same surface
    std::size_t wrong = 0;  // a hit where it does not
    std::size_t none = 0;   // no answer
    std::size_t shown = 0;  // of `asked`: what the ray meets is in the picture, so that an answer was to be had
    std::size_t missed = 0; // of `none`: an answer was to be had
    double share(std::size_t n) const { return asked ? double(n) / double(asked) : 0; }
    ReflectionErrors& operator+=(const ReflectionErrors& other);
};

/// hits: target "reflection hits" (pixel from the left and the bottom, metres, answer), of the picture's size or half
/// of it; depth: layer "depth" in metres along the view's axis; normals: layer "normal", which the true mirror takes
/// too. A hit is right where it lies within 5 cm, 2 % of the ray's way and two pixels, as they lie on what is met, of
/// where the true ray ends. every: of texels in both directions.
ReflectionErrors audit_reflections(const Setup& setup, const View& view, const RayScene& rays, const FloatImage& hits,
                                   const FloatImage& depth, const FloatImage& normals, int every);

inline constexpr const char* mirror_share_resource = "mirror share";
inline constexpr const char* reflection_mask_resource = "reflection mask";
inline constexpr const char* reflection_hits_resource = "reflection hits";
inline constexpr const char* reflection_resource = "reflection";
inline constexpr const char* depth_pyramid_resource = "depth pyramid";
int pyramid_mips(int width, int height);

} // namespace mirolux
