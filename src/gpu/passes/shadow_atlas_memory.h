#pragma once
#include "core/shadow/shadow_set.h"
#include "core/shadow/still_casters.h"
#include "gpu/passes/pass_frame.h"
#include <array>

// What the shadow atlas holds, from frame to frame: shared by the passes that draw maps and those that work on them.
namespace mirolux::gpu {

using MapSquare = std::array<int, 3>; // x, y and side of a square of the atlas; faces of cubes lie far to its left

inline MapSquare square_of(const ShadowMap& m) {
    return {m.layer < 0 ? m.x : -(m.layer + 1) * 100000, m.y, m.size};
}

struct AtlasMemory {
    struct Held {
        std::uint64_t digest = 0, frame = 0; // of all that its depths depend on; when it was drawn
        std::uint64_t drawing = 0;           // number of the drawing: another one with each
        std::array<glm::vec4, 7> texels{};   // as it was drawn (shaders/shadow_maps/lookup.glsl)
    };
    std::uint64_t serial = 0, cubes = 0; // of the atlas, and of the cubes beside it
    std::uint64_t drawings = 0;
    std::map<MapSquare, Held> held;
    std::map<MapSquare, CasterHistory> casters; // of maps whose still casters are kept apart

    bool holds(const MapSquare& place, std::uint64_t digest) const {
        const auto it = held.find(place);
        return it != held.end() && it->second.digest == digest;
    }
    /// Forgets what lay where the map was drawn.
    void keep(const MapSquare& place, std::uint64_t digest, std::uint64_t frame,
              const std::array<glm::vec4, 7>& texels) {
        forget_under(held, place);
        forget_under(casters, place);
        held[place] = {digest, frame, ++drawings, texels};
    }

    template <class Entry>
    static void forget_under(std::map<MapSquare, Entry>& entries, const MapSquare& place) {
        const auto [x, y, size] = place;
        std::erase_if(entries, [x = x, y = y, size = size](const auto& entry) {
            const auto [ox, oy, other] = entry.first;
            return ox < x + size && x < ox + other && oy < y + size && y < oy + other;
        });
    }
};

/// Of the frame's atlas; empty when that is new.
std::shared_ptr<AtlasMemory> atlas_memory(PassFrame& frame);

inline ShadowSet shadow_set_of(const PassFrame& f) {
    return shadow_set(f.inputs.scene, f.inputs.setup, f.inputs.view, f.inputs.draws);
}

} // namespace mirolux::gpu
