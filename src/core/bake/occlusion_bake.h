#pragma once
#include "core/bake/bake.h"
#include "core/bake/beside.h"
#include "core/bake/texel_work.h"

// How open each place of what stands still is to its surroundings, computed beforehand: 8 bits, by texel or by vertex.
namespace mirolux {

struct OcclusionOptions {
    float density = 8;     // texels a metre
    int samples = 64;      // rays of each place
    float reach = 2;       // metres: what is farther closes nothing
    bool vertices = false; // by vertex; density has no meaning then
};
/// As the settings have them.
OcclusionOptions occlusion_options(const Setup& setup);

struct BakedOcclusion {
    std::filesystem::path index;
    OcclusionOptions options;
    int width = 0, height = 0;      // texels; 0 of vertices
    std::vector<std::uint8_t> open; // by texel in rows, or by vertex of each object in turn; 255: wholly
    /// By object: its first vertex in `open`; -1: it has none.
    std::vector<int> firstOf;
};

/// True where the setup asks for it.
bool uses_baked_occlusion(const Setup& setup);
std::string occlusion_scene_digest(const Scene& scene, const Setup& setup);
std::string occlusion_digest(const Scene& scene, const Setup& setup, const OcclusionOptions& options);
std::filesystem::path occlusion_index(const std::filesystem::path& bakes, const std::string& digest);
/// What holds for the scene as it stands, by texel or by vertex as the setup has it; density over 0: of that density
/// alone. Null: there is none, `remark` says why. From any thread.
std::shared_ptr<const BakedOcclusion> baked_occlusion_of(const Scene& scene, const Setup& setup, float density,
                                                         std::string* remark = nullptr,
                                                         Patience patience = Patience::asSet);
/// Errors: a file is missing or damaged.
Result<BakedOcclusion> read_baked_occlusion(const std::filesystem::path& index);

/// Objects whose vertices have a value: what would have a place in a light map.
class OcclusionBake : public Bake {
public:
    /// Errors: nothing stands still; the folder cannot be made.
    static Result<std::unique_ptr<OcclusionBake>> begin(const Scene& scene, const Setup& setup,
                                                        const OcclusionOptions& options);
    ~OcclusionBake() override;
    Result<void> keep() override;
    const char* places() const override;
    /// So far; what lies around surfaces is filled in.
    BakedOcclusion occlusion() const;
    const std::vector<MapPoint>& targets() const;

private:
    void compute(std::size_t place, std::uint64_t& rays) override;
    struct State;
    explicit OcclusionBake(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

} // namespace mirolux
