#pragma once
#include "core/scene/scene.h"
#include <array>
#include <optional>
#include <string>

namespace mirolux {

/// One picture, or one for each eye: every pass run for one eye and then the other, or passes over geometry drawn once
/// into both (layered rendering).
enum class Stereo { off, twoPasses, onePass };
const char* word(Stereo stereo); // off, two-passes, one-pass
std::optional<Stereo> stereo_of(const std::string& word);

/// Camera, picture size and the scene's time.
struct View {
    Camera camera;                  // with stereo: between the eyes
    int width = 1280, height = 720; // pixels, of one eye
    double seconds = 0.0;           // scene time, moves the moving lights
    Stereo stereo = Stereo::off;
    float eyeDistance = 0.064f; // metres between the eyes
    // Pixels of the picture that this one stands for at a reduced size: it has that one's proportions, and shadow maps
    // are chosen for that one, so that they need not be drawn again. 0: its own.
    int wholeWidth = 0, wholeHeight = 0;
    // Pixels of the picture that is shown, where the frame is rendered at another size (output.scaleX, output.scaleY;
    // rendered_view). 0: its own.
    int shownWidth = 0, shownHeight = 0;

    bool operator==(const View&) const = default;
};

/// Width over height of what the picture shows.
double aspect_of(const View& view);
/// The view at the size of the picture that it stands for.
View at_whole_size(View view);
/// Size of the picture that is shown.
glm::ivec2 shown_size(const View& view);
/// A pixel of what is rendered that a pixel of the shown picture shows.
glm::ivec2 rendered_pixel(const View& view, glm::ivec2 shown);

glm::mat4 view_matrix(const Camera& camera);
/// Reversed depth, infinite far plane, depth 1 at near and 0 at infinity (E. Lengyel; N. Reed, Depth Precision
/// Visualized, 2015).
glm::mat4 projection_matrix(const Camera& camera, double aspect);

/// The views that are drawn: this one, or its left and right eye: parallel cameras, half the eyes' distance to each
/// side.
std::vector<View> eye_views(const View& view);
/// One camera whose frustum holds those of all eyes: what is outside it, no eye sees. The view's own without stereo;
/// else drawn back until the sides, parallel to each eye's, pass outside both eyes.
Camera enclosing_camera(const View& view);

/// Five planes (left, right, bottom, top, near) with inward normals, world space: the far plane is at infinity.
std::array<glm::vec4, 5> frustum_planes(const Camera& camera, double aspect);
bool intersects(const std::array<glm::vec4, 5>& planes, const Box& box);
bool intersects(const std::array<glm::vec4, 5>& planes, const glm::vec3& center, float radius);

/// Pixel rectangle [x0, x1) x [y0, y1), rows from the top; empty if x0 >= x1.
struct PixelRect {
    int x0 = 0, y0 = 0, x1 = 0, y1 = 0;
    bool empty() const { return x0 >= x1 || y0 >= y1; }
};

/// Smallest rectangle that holds both; an empty one adds nothing.
PixelRect united(const PixelRect& a, const PixelRect& b);

/// Smallest rectangle that holds a sphere's picture; the whole picture if the sphere reaches the near plane.
/// Source: M. Mara and M. McGuire, 2D Polyhedral Bounds of a Clipped, Perspective-Projected 3D Sphere, 2013.
PixelRect sphere_rect(const View& view, const glm::vec3& center, float radius);

} // namespace mirolux
