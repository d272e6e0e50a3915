#pragma once
#include "core/ambient/environment.h"
#include "core/cost/frame_record.h"
#include "core/rays/ray_scene.h"

// Captures of probes: six ordinary pictures around a place, kept in one file, and what is made of them as light.
namespace mirolux {

/// The six views of a capture: square, a right angle wide, toward +X -X +Y -Y +Z -Z; up is +Y, of the views up and down
/// +Z and -Z. The scene's time is that of `view`.
std::array<View, 6> probe_views(const Probe& probe, int size, const View& view);
/// What a capture is rendered with: the present setup without probes, so that a capture does not depend on the ones
/// before it.
Setup capture_setup(const Setup& setup);
/// Digest of all that a capture from a place depends on but the scene's file: setup, lights, objects, size, time.
std::string capture_digest(const Scene& scene, const Setup& setup, const View& view, const Probe& probe);

/// Renders the views of a capture, one ordinary frame each: stacked faces as the views see them.
Result<FloatImage> capture(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                           const Probe& probe);
/// What one of the six views takes, milliseconds, rendered for that: the second of two, as the first also loads and
/// compiles.
Result<double> view_cost(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                         const Probe& probe);
/// Where captures of a project lie: a folder beside it, a file for each probe.
std::filesystem::path probe_file(const std::filesystem::path& project, const Probe& probe);

/// The layer that captures are made of, radiance before exposure.
inline constexpr const char* capture_layer = "final";
/// Six pictures (RGBA or RGB, square and of one size), one below the other.
FloatImage stacked(const std::array<FloatImage, 6>& pictures);
/// A capture's file: OpenEXR, 32-bit float, six pictures one below the other as the views see them.
Result<void> write_probe(const std::filesystem::path& file, const FloatImage& faces);

/// A capture as light.
struct ProbeLight {
    FloatImage faces;                      // as the device's cube maps have them (cube_direction), RGBA
    std::array<glm::dvec3, 9> harmonics{}; // irradiance over pi by normal: for harmonic_radiance
    CubeOfPicture bright;                  // the faces, and what is too small and bright for a lobe's samples
    std::string remark;                    // what was done to take it in; empty: nothing
    double scale = 1;                      // what half floats hold it divided by
    double mean = 0;                       // luminance over all directions, cd/m2
};
/// Faces as views see them, as light.
ProbeLight probe_light(FloatImage faces);
/// The same at another size: the mean of squares of texels, or the nearest one.
FloatImage faces_at(const FloatImage& faces, int size);
/// Reads a capture for cubes of this size. Those asked for last are kept until their file changes. From any thread.
Result<std::shared_ptr<const ProbeLight>> read_probe(const std::filesystem::path& file, int size);

/// Radiance that a capture's faces hold in a direction, nearest texel. cd/m2.
glm::dvec3 radiance_of(const FloatImage& faces, const glm::dvec3& direction);

/// Share of rays from a place that meet surfaces from behind at once: near 1 within a wall, 0 in the open.
double walled_in(const RayScene& rays, const glm::vec3& position);
/// Why a place is no place for a probe, a sentence; empty: it is one.
std::string probe_trouble(const RayScene& rays, const Probe& probe);

/// A picture of a ball at a probe's place as the view sees it: a mirror of the capture, or matt and white under its
/// light. Square, RGBA, alpha 0 around the ball; cd/m2.
enum class Ball { mirror, matt };
FloatImage ball_picture(const ProbeLight& light, Ball ball, const View& view, const glm::vec3& place, int size);

} // namespace mirolux
