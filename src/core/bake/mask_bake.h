#pragma once
#include "core/bake/bake.h"
#include "core/bake/beside.h"
#include "core/bake/texel_work.h"

// Shadows of lamps that stay where they are, computed beforehand: how much of each lamp's source every texel sees, 8
// bits, four lamps a texel.
namespace mirolux {

struct MaskOptions {
    float density = 8; // texels a metre
    int samples = 16;  // rays of each lamp in reach of a texel, at most
};
/// As the settings have them.
MaskOptions mask_options(const Setup& setup);

inline constexpr int most_mask_channels = 64;

struct BakedMasks {
    std::filesystem::path index;
    MaskOptions options;
    int width = 0, height = 0; // texels, as the layout of this density has
    struct Lamp {
        int light = -1;   // Light::id
        int channel = -1; // channel % 4 of sheet channel / 4; -1: none was left
    };
    std::vector<Lamp> lamps;
    std::vector<ByteImage> sheets; // 255: the whole source is seen

    /// Lamps that reach no texel in common share a channel. -1: the lamp has none.
    int channel_of(int light) const;
    std::size_t bytes() const { return sheets.size() * 4 * std::size_t(width) * std::size_t(height); }
};

/// True where the setup asks for masks.
bool uses_masks(const Setup& setup);
/// What masks depend on: what stands still, where lamps stand and what they reach; not how bright they are.
std::string masks_scene_digest(const Scene& scene, const Setup& setup);
std::string masks_digest(const Scene& scene, const Setup& setup, const MaskOptions& options);
/// The index, and a sheet.
std::filesystem::path masks_index(const std::filesystem::path& bakes, const std::string& digest);
std::filesystem::path masks_sheet(const std::filesystem::path& index, int sheet);
/// The masks that hold for the scene as it stands; density over 0: of that density alone. Empty: there are none;
/// `remark` says why not.
std::filesystem::path find_masks(const Scene& scene, const Setup& setup, float density, std::string* remark);
/// Errors: a file is missing or damaged.
Result<BakedMasks> read_masks(const std::filesystem::path& index);
/// The same, read; null where there are none. The few asked for last are kept. From any thread.
std::shared_ptr<const BakedMasks> baked_masks_of(const Scene& scene, const Setup& setup, float density,
                                                 std::string* remark = nullptr, Patience patience = Patience::asSet);

class MaskBake : public Bake {
public:
    /// Errors: nothing stands still; no lamp stays where it is; the folder cannot be made.
    static Result<std::unique_ptr<MaskBake>> begin(const Scene& scene, const Setup& setup, const MaskOptions& options);
    ~MaskBake() override;
    Result<void> keep() override;
    const char* places() const override { return "texels"; }
    const BakedMasks& masks() const;
    /// Of a lamp and a texel that it reaches, as it was computed; for tests.
    const std::vector<MapPoint>& targets() const;
    const LightMapLayout& layout() const;

private:
    void compute(std::size_t place, std::uint64_t& rays) override;
    struct State;
    explicit MaskBake(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

} // namespace mirolux
