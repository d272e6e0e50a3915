#pragma once
#include "core/image/image.h"
#include "core/plan/frame_plan.h"
#include "core/sky/sky_model.h"

// Surroundings as light: the present sky or a picture of all directions, gathered by surfaces as wide as their lobes.
namespace mirolux {

/// What gives the light where `ambient.kind` is environment: a picture, turned and as strong as the setup says, or the
/// sky as it is.
SkySettings environment_sky(const Scene& scene, const Setup& setup, const View& view);
/// What the light of environment_sky() is multiplied by: a picture is as strong as asked already.
double environment_strength(const Setup& setup);
/// True where its diffuse light comes from a cube of irradiance rather than from harmonics.
bool environment_by_cube(const Setup& setup);
/// True where surfaces mirror it.
bool environment_mirrored(const Setup& setup);

/// Mirrored surroundings are kept as averages over GGX lobes of a few widths, seen along the lobe's axis (N = V = R;
/// B. Karis, 2013): in mips of cube maps, four widths a mip. Width 0 is the mirror; the others are spaced by equal
/// factors of roughness.
struct LobeLevels {
    static constexpr int cubes = 4;         // widths a mip
    static constexpr double sharpest = 0.1; // roughness of level 1
    int size = 128;                         // texels along a face of the first mip
    int samples = 128;                      // of the sharpest lobe
    int mips() const;                       // down to faces of 32 texels
    int count() const { return mips() * cubes; }
    double roughness(int level) const;
    /// Where a roughness lies between levels.
    double place(double roughness) const;
};
/// What radiance is divided by in the cubes of lobes, so that half floats hold the picture's brightest.
double lobe_scale(const SkySettings& sky);
LobeLevels lobe_levels(const Setup& setup, const View& view);

/// One direction of a lobe about +Z that surroundings are read in: unit, with its share of the sum and the solid angle
/// that it stands for, steradian.
struct LobeSample {
    glm::dvec3 direction{0, 0, 1};
    double weight = 0, solid = 0;
};
/// How many directions a level is gathered from: `samples` in the first mip, twice as many in each smaller one.
int samples_of(int level, int samples);
/// `count` directions by the lobe's distribution of half vectors, weighed by their cosines.
std::vector<LobeSample> lobe_samples(double roughness, int count);

/// The cube map's direction of a face (+X -X +Y -Y +Z -Z) at s, t of -1..1: right and down as the device lays them.
glm::dvec3 cube_direction(int face, double s, double t);
/// Radiance of a picture on six faces, one below the other, not turned, its strength 1: the mean over each texel, by as
/// many looks as the picture's own texels ask for. RGBA.
FloatImage cube_of(const SkyPicture& picture, int size);
/// A small bright source: light of one texel or a few.
struct Bright {
    glm::dvec3 direction{0, 0, 1}; // unit, toward it
    glm::dvec3 light{0.0};         // radiance times solid angle
};
/// A cube whose brightest texels are lowered to what lies around, and what was taken from them: samples of a lobe would
/// meet them by chance.
struct CubeOfPicture {
    static constexpr std::size_t most = 256; // texels that are lowered
    FloatImage whole, rest;
    std::vector<Bright> fine, coarse; // a texel each, and those of squares of 4 x 4 together
};
CubeOfPicture lower_bright(FloatImage cube);
/// The integral of a lobe's distribution times the cosine, over directions about its axis.
double lobe_measure(double roughness);
/// Irradiance over pi by normal on six faces, one below the other: every part of the light counted exactly but for
/// those that the surface's horizon cuts. RGBA.
FloatImage irradiance_cube(const std::vector<LightPart>& parts, int size);
inline constexpr int irradiance_size = 32;

/// Light in parts, the strongest few apart: their edge of light and dark is too sharp for a small map, so that surfaces
/// take them one by one.
struct StrongParts {
    static constexpr std::size_t most = 4;
    std::vector<LightPart> strong, rest;
};
StrongParts strong_parts(std::vector<LightPart> parts);

/// Mean radiance over the lobe about a direction, summed over every texel of a picture: what the levels are held
/// against. cd/m2.
glm::dvec3 lobe_radiance(const SkyModel& sky, double roughness, const glm::dvec3& axis);

/// A target of cube maps that stay as long as the scene: so many of one edge, with their mips.
ResourceSpec cube_resource(const char* name, const char* sampler, Format format, int size, int cubes, int mips);
/// Mips down to one texel.
int whole_mips(int size);

inline constexpr const char* surroundings_resource = "surroundings";
inline constexpr const char* lobes_resource = "surroundings by lobes";

} // namespace mirolux
