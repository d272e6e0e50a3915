#pragma once
#include "core/shadow/shadow_set.h"
#include "core/technique/technique.h"

// Shadows of a frame resolved on the screen before surfaces are shaded: which light has which channel of the mask.
namespace mirolux {

inline constexpr const char* shadow_mask_resource = "shadow mask";
inline constexpr const char* half_shadow_mask_resource = "half shadow mask";

/// Where shadows are looked up.
enum class ShadowResolve {
    shading, // by each surface for each light that reaches it
    mask,    // once a pixel of the picture, into a target that shading reads
    halfMask // once for four pixels, then spread over those that lie in the same plane
};

/// The mask holds four lights a set, and sets side by side as tiles of one target.
struct MaskLayout {
    std::vector<int> lights; // into DrawList::lights, by channel: the most important ones first
    int columns = 0, rows = 0;

    int sets() const { return (static_cast<int>(lights.size()) + 3) / 4; }
    bool empty() const { return lights.empty(); }
    /// Channel of a light, or -1.
    int channel_of(int light) const;
};

ShadowResolve shadow_resolve(const Setup& setup);
/// Of a frame's maps; empty when shadows are looked up in shading: as asked, or because no mask can be made, in which
/// case `why` says so.
MaskLayout mask_layout(const FrameInputs& inputs, const ShadowSet& set, std::string* why = nullptr);

} // namespace mirolux
