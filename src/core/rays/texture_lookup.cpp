#include "core/rays/texture_lookup.h"
#include "core/image/image.h"
#include <array>
#include <cmath>

namespace mirolux {

namespace {

float wrapped(float t, Wrap wrap) {
    switch (wrap) {
    case Wrap::clamp:
        return std::clamp(t, 0.0f, 1.0f);
    case Wrap::mirror: {
        const float m = std::fmod(std::abs(t), 2.0f);
        return m > 1.0f ? 2.0f - m : m;
    }
    case Wrap::repeat:
        break;
    }
    return t - std::floor(t);
}

int inside(int i, int size, Wrap wrap) {
    if (wrap == Wrap::repeat) return ((i % size) + size) % size;
    return std::clamp(i, 0, size - 1); // a mirror's edge repeats, as clamping does
}

/// Calls read(texel's first byte) for what the lookup takes, and blends what it returns.
template <class Value, class Read>
Value looked_up(const SceneAsset& asset, int index, const glm::vec2& uv, const Value& missing, const Read& read) {
    const Texture& texture = asset.textures[static_cast<std::size_t>(index)];
    const TextureImage& image = asset.images[static_cast<std::size_t>(texture.image)];
    if (image.rgba.empty()) return missing;
    const float x = wrapped(uv.x, texture.wrapU) * static_cast<float>(image.width),
                y = wrapped(uv.y, texture.wrapV) * static_cast<float>(image.height);
    if (!std::isfinite(x) || !std::isfinite(y)) return missing;
    const auto texel = [&](int i, int j) {
        const auto at = (std::size_t(inside(j, image.height, texture.wrapV)) * static_cast<std::size_t>(image.width) +
                         static_cast<std::size_t>(inside(i, image.width, texture.wrapU))) *
                        4;
        return read(&image.rgba[at]);
    };
    if (!texture.linear) return texel(static_cast<int>(std::floor(x)), static_cast<int>(std::floor(y)));
    const float bx = std::floor(x - 0.5f), by = std::floor(y - 0.5f), fx = x - 0.5f - bx, fy = y - 0.5f - by;
    const int ix = static_cast<int>(bx), iy = static_cast<int>(by);
    const auto row = [&](int j) { return (1 - fx) * texel(ix, j) + fx * texel(ix + 1, j); };
    return (1 - fy) * row(iy) + fy * row(iy + 1);
}

} // namespace

glm::vec4 texture_value(const SceneAsset& asset, int index, const glm::vec2& uv) {
    return looked_up(asset, index, uv, glm::vec4(1.0f),
                     [](const std::uint8_t* t) { return glm::vec4(t[0], t[1], t[2], t[3]) / 255.0f; });
}

glm::vec4 texture_color(const SceneAsset& asset, int index, const glm::vec2& uv) {
    static const std::array<float, 256> linear = [] {
        std::array<float, 256> out;
        for (std::size_t i = 0; i < out.size(); ++i)
            out[i] = static_cast<float>(srgb_decode(static_cast<double>(i) / 255.0));
        return out;
    }();
    return looked_up(asset, index, uv, glm::vec4(1.0f), [](const std::uint8_t* t) {
        return glm::vec4(linear[t[0]], linear[t[1]], linear[t[2]], static_cast<float>(t[3]) / 255.0f);
    });
}

float texture_alpha(const SceneAsset& asset, int index, const glm::vec2& uv) {
    return looked_up(asset, index, uv, 1.0f, [](const std::uint8_t* t) { return static_cast<float>(t[3]) / 255.0f; });
}

} // namespace mirolux
