#pragma once
#include "core/image/image.h"
#include <glm/glm.hpp>
#include <string>

// How the light of a map is kept in memory: what a texel takes, and what it loses.
namespace mirolux {

enum class TexelStore {
    half,     // three half floats: 6 bytes
    rgbm,     // 8 bits a channel and a factor for all three, of square roots: 4 bytes
    exponent, // 9 bits a channel and an exponent for all three: 4 bytes (EXT_texture_shared_exponent)
    bc6h      // blocks of 4x4 texels in 16 bytes (ARB_texture_compression_bptc), mode 11: 1 byte
};
inline constexpr TexelStore all_texel_stores[] = {TexelStore::half, TexelStore::rgbm, TexelStore::exponent,
                                                  TexelStore::bc6h};
const char* word(TexelStore store);

/// Texels as a device takes them, rows in the image's order.
struct StoredTexels {
    TexelStore store = TexelStore::half;
    int width = 0, height = 0;
    std::vector<std::uint8_t> bytes;
    float scale = 1; // rgbm: what a stored 1 stands for
};

/// The first three channels of an image, none under 0. On all cores.
StoredTexels stored(const FloatImage& light, TexelStore store);
/// Back again: what a device reads at the middle of each texel. Three channels.
FloatImage restored(const StoredTexels& texels);
glm::vec3 restored_texel(const StoredTexels& texels, int x, int y);

/// Floats as the device has them, to the nearest (IEEE 754 binary16); over its range: the largest.
std::uint16_t half_of(float value);
float of_half(std::uint16_t bits);

} // namespace mirolux
