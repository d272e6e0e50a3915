#pragma once
#include "core/bake/light_map_layout.h"
#include "core/image/image.h"
#include <atomic>
#include <filesystem>
#include <memory>

// The light that falls on what stands still, computed beforehand.
namespace mirolux {

struct LightMapOptions {
    float density = 8; // texels a metre
    int samples = 64;  // paths a texel
    int bounces = -1;  // of light, after the surface itself; -1: as many as it takes
};

/// Irradiance by texel, lux per channel (Rec. 709); alpha: 1 where a surface lies, 0.5 where the nearest one was taken
/// (lookups reach it, or the surface is covered by something), 0 elsewhere.
struct LightMap {
    LightMapLayout layout;
    FloatImage direct;   // of lamps, straight
    FloatImage indirect; // all else: bounced light, what glows, the sky
};

/// Digest of all that a map depends on: what stands still, materials, lamps, sky, and the options.
std::string light_map_digest(const Scene& scene, const Setup& setup, const LightMapOptions& options);
/// Two maps and their index, in a folder of bakes.
struct LightMapFiles {
    std::filesystem::path direct, indirect, index; // OpenEXR, OpenEXR, JSON
};
LightMapFiles light_map_files(const std::filesystem::path& bakes, const std::string& digest);

/// Follows paths from every texel, on all cores, in the order of texels: what is there already stays, and a bake that
/// was stopped goes on. The same bits however often it was stopped.
class LightMapBake {
public:
    struct Progress {
        std::size_t done = 0, all = 0; // texels
        double seconds = 0, left = 0;  // of this run; to go, from its pace
        std::uint64_t rays = 0;        // of this run
    };
    /// Errors: as lay_out_light_map; the folder cannot be made. Damaged files are set aside.
    static Result<std::unique_ptr<LightMapBake>> begin(const Scene& scene, const Setup& setup,
                                                       const LightMapOptions& options);
    ~LightMapBake();
    /// Works for about so long; true: nothing is left to do.
    bool work(double milliseconds, const std::atomic<bool>* stop = nullptr);
    /// Writes what there is. Errors: the disk's; what was computed stays in memory.
    Result<void> keep();
    Progress progress() const;
    const std::string& digest() const;
    const std::string& remark() const; // that a damaged file was set aside, say; empty: nothing to say
    /// The map so far, with what lies around its surfaces filled in.
    LightMap map() const;

private:
    struct State;
    explicit LightMapBake(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

} // namespace mirolux
