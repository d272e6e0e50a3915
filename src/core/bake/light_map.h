#pragma once
#include "core/bake/bake.h"
#include "core/bake/map_points.h"
#include "core/image/image.h"
#include <array>
#include <filesystem>
#include <memory>

// The light that falls on what stands still, computed beforehand.
namespace mirolux {

struct LightMapOptions {
    float density = 8;    // texels a metre
    int samples = 64;     // paths a texel; of patches: rays a shot
    int bounces = -1;     // of light, after the surface itself; -1: as many as it takes
    bool patches = false; // computed by patches that shoot, not by paths
};
/// As the settings `lightmap.*` have them.
LightMapOptions light_map_options(const Setup& setup);

/// What of each light is in maps: as it is marked, but one that a motion or a clip moves or changes is moving unless it
/// is marked as switched and stays in its place. Of the sun and the moon, which are no lights of the scene, bounced
/// light is. By Scene::lights.
std::shared_ptr<const std::vector<Mobility>> mobilities_of(const Scene& scene);

/// Irradiance by texel, lux per channel (Rec. 709); alpha: 1 where a surface lies, 0.5 where the nearest one was taken
/// (lookups reach it, or the surface is covered by something), 0 elsewhere.
struct LightOfMap {
    int light = -1;      // Light::id of a switched one, by white light; -1: of all still ones and everything else
    float intensity = 1; // of that light, as it was computed
    FloatImage direct;   // of lamps, straight
    FloatImage indirect; // all else: bounced light, what glows, the surroundings
    /// By channel: the same light times the unit direction that it comes from, as vectors in the world.
    std::array<FloatImage, 3> toward;
};
struct LightMap {
    LightMapLayout layout;
    float density = 0;              // texels a metre that were asked for
    std::vector<LightOfMap> layers; // what never changes first, then the switched lights
};

/// The scene without what moves, by clip or by hand: what takes part in light that is computed beforehand.
Scene only_still(const Scene& scene, const Setup& setup);

/// Digest of what a map's light depends on in the scene: what stands still, materials, lamps (of switched ones not
/// their intensity and colour), sky and ambient light.
std::string light_map_scene_digest(const Scene& scene, const Setup& setup);
/// The same; laidOut: with how finely each surface lies in maps.
std::string still_light_digest(const Scene& scene, const Setup& setup, bool laidOut);
/// The same with the options.
std::string light_map_digest(const Scene& scene, const Setup& setup, const LightMapOptions& options);
/// The files of a map, in a folder of bakes.
struct LightMapFiles {
    std::filesystem::path index; // JSON, which names the others
    std::filesystem::path direct, indirect;
    std::array<std::filesystem::path, 3> toward;
};
/// light: of a switched one; -1: of what never changes.
LightMapFiles light_map_files(const std::filesystem::path& bakes, const std::string& digest, int light = -1);
/// What the folder holds for this scene: the index file. With these options, or the newest complete one of other
/// options. Empty: there is none; `remark` says so, and when there are maps of another state of the scene.
std::filesystem::path find_light_map(const Scene& scene, const Setup& setup, std::string* remark = nullptr);
/// A complete map, filled. Errors: a file is missing or damaged.
Result<LightMap> read_light_map(const Scene& scene, const Setup& setup, const std::filesystem::path& index);

/// Follows paths from every texel. Straight light is that of each lamp in reach, from points spread over the texel;
/// bounced light begins at the same points.
class LightMapBake : public Bake {
public:
    /// Errors: as lay_out_light_map; the folder cannot be made. Damaged files are set aside.
    static Result<std::unique_ptr<LightMapBake>> begin(const Scene& scene, const Setup& setup,
                                                       const LightMapOptions& options);
    ~LightMapBake() override;
    Result<void> keep() override;
    const char* places() const override { return "texels"; }
    const std::string& digest() const;
    /// The map so far, with what lies around its surfaces filled in.
    LightMap map() const;

private:
    void compute(std::size_t place, std::uint64_t& rays) override;
    struct State;
    explicit LightMapBake(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

} // namespace mirolux
