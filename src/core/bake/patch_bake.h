#pragma once
#include "core/bake/light_map.h"

// Light that surfaces send to each other, patch by patch.
namespace mirolux {

inline constexpr std::size_t no_patch = static_cast<std::size_t>(-1);

/// A piece of a surface that sends on evenly what falls on it.
struct Patch {
    MapPoint point;           // its middle
    float area = 0;           // square metres
    glm::vec3 albedo{0.0f};   // what it sends on of what falls on it
    glm::vec3 received{0.0f}; // lux that fell on it from other patches, of all shots so far
};

/// What one patch sent out.
struct PatchShot {
    std::size_t number = 0; // from 1
    std::size_t patch = no_patch;
    int layer = 0;         // of the map
    glm::vec3 power{0.0f}; // lumens per channel that left it
    struct Lit {
        std::size_t patch = 0;
        float share = 0; // of the rays that met it: the form factor from the patch that shot
    };
    std::vector<Lit> lit; // ascending
    double unshot = 1;    // share of all light that patches ever had to send on and have not, afterwards
};

/// Progressive radiosity (M. Cohen, S. Chen, J. Wallace and D. Greenberg, A Progressive Refinement Approach to Fast
/// Radiosity Image Generation, 1988): lamps, what glows and the surroundings first, then the patch with the most light
/// left shoots it along rays, by the cosine, whose ends tell the form factors. Texels of a light map's layout are the
/// patches; slivers belong to the patch beside them. It sends on evenly what is matt of a surface; metals none. What
/// comes of it is a light map whose source is patches, of use from the first shot on.
class PatchBake : public Bake {
public:
    /// Of the options density and samples (rays a shot) count. rest: share of all light at which it is over.
    static Result<std::unique_ptr<PatchBake>> begin(const Scene& scene, const Setup& setup,
                                                    const LightMapOptions& options, double rest);
    ~PatchBake() override;
    /// What falls on every patch straight first, by place; then shots.
    bool work(double milliseconds, const std::atomic<bool>* stop = nullptr) override;
    /// Writes where it is, and the light map so far.
    Result<void> keep() override;
    /// Of patches until their straight light is there, then of a thousand parts of the light that is to be shot, on a
    /// logarithm's scale.
    BakeProgress progress() const override;
    const char* places() const override { return "patches"; }

    /// One shot; none (no_patch) before all straight light is there, and where nothing is left.
    const PatchShot& shoot();
    const PatchShot& last() const;
    const std::vector<Patch>& patches() const; // `received`: of what never changes
    std::uint64_t rays() const;
    const std::string& digest() const;
    /// The map so far, with what lies around its surfaces filled in.
    LightMap map() const;

private:
    void compute(std::size_t place, std::uint64_t& rays) override;
    struct State;
    explicit PatchBake(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

/// Where a bake of these circumstances keeps its state.
std::filesystem::path patches_file(const std::filesystem::path& bakes, const std::string& digest);

} // namespace mirolux
