#pragma once
#include "core/bake/bake.h"
#include "core/plan/settings.h"
#include "core/rays/ray_scene.h"
#include <algorithm>
#include <array>
#include <filesystem>
#include <memory>

// Probes in space: a grid of places, at each the light that arrives from all around, bounced off what stands still, and
// how far it is to what stands there. What moves is lit by them, and whatever has no place in a light map.
namespace mirolux {

struct ProbeGridOptions {
    float spacing = 2;    // metres from one to the next
    int samples = 256;    // paths of each
    int bounces = -1;     // of light, before it arrives at the surface that is lit; -1: as many as it takes
    std::string within{}; // objects whose box it fills, by name; empty: all that stands still
    std::string at{};     // objects in whose middles probes stand, by name: placed by hand, no grid; empty: a grid
};
/// As the settings `grid.*` have them.
ProbeGridOptions probe_grid_options(const Setup& setup);

struct ProbeGrid {
    static constexpr int side = 8; // texels of a map of distances, over the octahedron
    std::string scene;             // digest of what its light depends on
    ProbeGridOptions options;
    glm::vec3 low{0.0f};             // the first probe, metres
    glm::ivec3 count{0};             // along x, y, z; of those placed by hand all along x
    std::vector<glm::vec3> placed{}; // by hand, metres; empty: they stand in a grid
    std::size_t done = 0;            // x fastest, then y; the rest is not computed yet
    double seconds = 0;

    /// Irradiance over pi by normal, cd/m2, in harmonics of orders 0 to 2 (R. Ramamoorthi and P. Hanrahan, An
    /// Efficient Representation for Irradiance Environment Maps, 2001).
    std::vector<std::array<glm::vec3, 9>> light;
    std::vector<std::uint8_t> walled; // 1: it stands within something and takes no part
    /// Mean distance and mean of its square by direction (`side` squared each, octahedral), metres; what is farther
    /// than `far` counts as that.
    std::vector<std::array<glm::vec2, side * side>> distances;

    std::size_t size() const {
        return static_cast<std::size_t>(count.x) * static_cast<std::size_t>(count.y) *
               static_cast<std::size_t>(count.z);
    }
    glm::vec3 place(std::size_t probe) const;
    /// How far one that was placed by hand is asked, metres.
    float reach() const { return 2 * options.spacing; }
    /// How far before a surface probes are asked whether they see, metres.
    float lift() const { return placed.empty() ? 0.1f * options.spacing : std::min(0.1f * options.spacing, 0.1f); }
    float far() const { return 1.25f * (placed.empty() ? options.spacing * 1.7320508f : reach()); }
    /// On a device: order 1 takes four numbers a channel, order 2 nine, as half floats; distances two of 16 bits.
    std::size_t bytes(int order, bool visibility) const;
};

/// A unit direction on the square from 0 to 1, and back (Z. Cigolle and others, A Survey of Efficient Representations
/// for Independent Unit Vectors, 2014).
glm::dvec2 octahedral(const glm::dvec3& direction);
glm::dvec3 of_octahedral(const glm::dvec2& place);
/// The texel that lies where one beyond the square's edge would, as the octahedron folds.
glm::ivec2 folded_texel(glm::ivec2 texel, int side);

/// What reads a grid: by order 1 or 2, with or without asking each probe whether it sees the point.
struct ProbeReading {
    int order = 2;
    bool visibility = true;
};
ProbeReading probe_reading(const Setup& setup);
/// Irradiance over pi at a point, and the share of the ambient light that it stands for: 1 within the grid, 0 from one
/// spacing outside it on. Of those placed by hand: 1 where one stands within a spacing that surely sees the point, down
/// to 0 at two, and where none is half sure. Of the eight probes around, or of all within reach that were placed by
/// hand, each counts the more the nearer it is, the more it lies before the surface, and the surer it is to see the
/// point, by its distances (Z. Majercik, J.-P. Guertin, D. Nowrouzezahrai and M. McGuire, Dynamic Diffuse Global
/// Illumination with Ray-Traced Irradiance Fields, 2019).
struct ProbeAnswer {
    glm::dvec3 light{0.0};
    double share = 0;
};
ProbeAnswer probe_answer(const ProbeGrid& grid, const ProbeReading& reading, const glm::dvec3& point,
                         const glm::dvec3& normal);

std::string probe_grid_digest(const Scene& scene, const Setup& setup, const ProbeGridOptions& options);
std::filesystem::path probe_grid_file(const std::filesystem::path& bakes, const std::string& digest);
/// CBOR (RFC 8949); docs/baked-format.md describes it.
Result<void> write_probe_grid(const ProbeGrid& grid, const std::filesystem::path& file);
Result<ProbeGrid> read_probe_grid(const std::filesystem::path& file);
/// The grid that holds for the scene as it stands: with the settings' spacing, or the finest one that was computed to
/// its end; null where there is none. `remark`: why not, or what there is to say. The few asked for last are kept.
std::shared_ptr<const ProbeGrid> probe_grid_of(const Scene& scene, const Setup& setup, std::string* remark = nullptr);
/// All complete grids of the scene as it stands, the finest first.
std::vector<std::shared_ptr<const ProbeGrid>> known_grids(const Scene& scene, const Setup& setup);

/// Computes a grid, in the order of probes.
class ProbeGridBake : public Bake {
public:
    /// Errors: nothing stands still, or no object has that name; more than 200,000 probes, or 256 placed by hand; the
    /// folder cannot be made.
    static Result<std::unique_ptr<ProbeGridBake>> begin(const Scene& scene, const Setup& setup,
                                                        const ProbeGridOptions& options);
    ~ProbeGridBake() override;
    bool work(double milliseconds, const std::atomic<bool>* stop = nullptr) override;
    Result<void> keep() override;
    const char* places() const override { return "probes"; }
    const ProbeGrid& grid() const;
    const std::filesystem::path& file() const;

private:
    void compute(std::size_t place, std::uint64_t& rays) override;
    struct State;
    explicit ProbeGridBake(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

/// What a grid gives at places on still surfaces against paths that are followed from there: bounced light.
struct ProbeErrors {
    double off = 0;  // mean of what it differs by, over the mean light
    double leak = 0; // mean of what it gives too much where paths find less than a twentieth of the mean, over the mean
    std::size_t places = 0, dark = 0; // that were asked; of them such dark ones
};
struct ProbeComparison {
    ProbeErrors with, without; // asking whether probes see the place, and not
};
ProbeComparison audit_probes(const Scene& scene, const Setup& setup, const ProbeGrid& grid, int order, int places,
                             int samples, const std::function<bool(double share)>& more = {});

} // namespace mirolux
