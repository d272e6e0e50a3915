#include "demo/textures.h"
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <functional>
#include <glm/glm.hpp>

namespace mirolux::demo {

namespace {

float hash(int x, int y, int seed) {
    std::uint32_t h = static_cast<std::uint32_t>(x) * 374761393u + static_cast<std::uint32_t>(y) * 668265263u +
                      static_cast<std::uint32_t>(seed) * 2246822519u;
    h = (h ^ (h >> 13)) * 1274126177u;
    return static_cast<float>((h ^ (h >> 16)) & 0xFFFFFFu) / 16777215.0f;
}

/// Value noise on a torus of `period` cells.
float noise(float u, float v, int period, int seed) {
    const float x = u * static_cast<float>(period), y = v * static_cast<float>(period);
    const int ix = static_cast<int>(std::floor(x)), iy = static_cast<int>(std::floor(y));
    auto smooth = [](float t) { return t * t * (3.0f - 2.0f * t); };
    const float fx = smooth(x - std::floor(x)), fy = smooth(y - std::floor(y));
    auto wrap = [period](int i) { return ((i % period) + period) % period; };
    auto at = [&](int i, int j) { return hash(wrap(i), wrap(j), seed); };
    const float a = at(ix, iy) + fx * (at(ix + 1, iy) - at(ix, iy)),
                b = at(ix, iy + 1) + fx * (at(ix + 1, iy + 1) - at(ix, iy + 1));
    return a + fy * (b - a);
}

float fractal(float u, float v, int period, int octaves, int seed) {
    float sum = 0.0f, weight = 0.5f, total = 0.0f;
    for (int o = 0; o < octaves; ++o, weight *= 0.5f, period *= 2) {
        sum += weight * noise(u, v, period, seed + o * 17);
        total += weight;
    }
    return sum / total;
}

float step(float low, float high, float x) {
    const float t = std::clamp((x - low) / (high - low), 0.0f, 1.0f);
    return t * t * (3.0f - 2.0f * t);
}

struct Texel {
    glm::vec3 color; // linear
    float height;    // in texels of relief
    float occlusion, roughness, metallic;
};

SurfaceMaps bake(int size, const std::function<Texel(float, float)>& surface) {
    std::vector<Texel> texels(std::size_t(size) * size);
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x)
            texels[std::size_t(y) * size + x] = surface((x + 0.5f) / size, (y + 0.5f) / size);
    SurfaceMaps maps;
    for (ByteImage* image : {&maps.baseColor, &maps.normal, &maps.orm}) {
        image->width = image->height = size;
        image->rgba.assign(std::size_t(size) * size * 4, 255);
    }
    auto byte = [](double v) { return static_cast<std::uint8_t>(std::clamp(v, 0.0, 1.0) * 255.0 + 0.5); };
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x) {
            const std::size_t i = std::size_t(y) * size + x;
            auto height = [&](int dx, int dy) {
                return texels[std::size_t((y + dy + size) % size) * size + (x + dx + size) % size].height;
            };
            // v grows downward in the picture; green points up, so the slope in y is taken upward.
            const glm::vec3 n =
                glm::normalize(glm::vec3(height(-1, 0) - height(1, 0), height(0, 1) - height(0, -1), 2.0f));
            const Texel& t = texels[i];
            for (int c = 0; c < 3; ++c) {
                maps.baseColor.rgba[4 * i + c] = byte(srgb_encode(std::clamp(t.color[c], 0.0f, 1.0f)));
                maps.normal.rgba[4 * i + c] = byte(n[c] * 0.5 + 0.5);
            }
            maps.orm.rgba[4 * i + 0] = byte(t.occlusion);
            maps.orm.rgba[4 * i + 1] = byte(t.roughness);
            maps.orm.rgba[4 * i + 2] = byte(t.metallic);
        }
    return maps;
}

} // namespace

SurfaceMaps asphalt(int size) {
    return bake(size, [](float u, float v) {
        const float grain = noise(u, v, 128, 3), fine = noise(u, v, 230, 5), patch = fractal(u, v, 4, 4, 11);
        const float puddle = step(0.53f, 0.60f, fractal(u, v, 3, 3, 29));
        const float crack = step(0.018f, 0.0f, std::abs(fractal(u, v, 5, 4, 41) - 0.5f)) * (1.0f - puddle);
        const float tone = 0.030f + 0.035f * patch + 0.030f * grain * grain;
        Texel t;
        t.color = glm::mix(glm::vec3(tone, tone * 1.01f, tone * 1.04f), glm::vec3(0.012f, 0.013f, 0.015f), puddle) *
                  (1.0f - 0.7f * crack);
        t.height = (1.0f - puddle) * (1.1f * grain + 0.7f * fine) - 1.5f * crack;
        t.occlusion = 1.0f - 0.5f * crack;
        t.roughness = glm::mix(0.34f + 0.25f * grain, 0.10f, puddle);
        t.metallic = 0.0f;
        return t;
    });
}

SurfaceMaps corrugated(int size) {
    return bake(size, [](float u, float v) {
        const float wave = std::sin(u * 6.2831853f * 8.0f);
        const float profile = std::clamp(wave * 2.2f, -1.0f, 1.0f);
        const float rust = step(0.60f, 0.72f, fractal(u, v, 6, 5, 51)) * step(0.35f, 0.75f, noise(u, v, 3, 7));
        const float dirt = fractal(u, v, 8, 3, 61);
        Texel t;
        t.color = glm::mix(glm::vec3(0.62f + 0.25f * dirt), glm::vec3(0.21f, 0.085f, 0.035f), rust) *
                  (0.86f + 0.14f * profile);
        t.height = 5.0f * profile + 0.8f * rust * noise(u, v, 160, 9);
        t.occlusion = 0.75f + 0.25f * profile;
        t.roughness = glm::mix(0.38f + 0.15f * dirt, 0.85f, rust);
        t.metallic = 0.0f;
        return t;
    });
}

SurfaceMaps planks(int size) {
    return bake(size, [](float u, float v) {
        const float row = v * 8.0f;
        const int plank = static_cast<int>(row);
        const float across = row - std::floor(row);
        const float shift = hash(plank, 3, 71);
        const float along = u + shift;
        const float joint = std::abs(along - std::floor(along) - 0.5f) < 0.004f ? 1.0f : 0.0f;
        const float gap = std::max(step(0.06f, 0.0f, std::min(across, 1.0f - across)), joint);
        const float grain = fractal(u * 1.0f, v + 0.02f * noise(u, v, 8, 2), 4, 2, 81) * 0.5f +
                            0.5f * noise(u, v * 16.0f - std::floor(v * 16.0f), 96, 83);
        const float tone = 0.10f + 0.10f * hash(plank, 9, 73) + 0.10f * grain;
        const float wet = step(0.45f, 0.62f, fractal(u, v, 4, 3, 91));
        Texel t;
        t.color = glm::vec3(tone, tone * 0.74f, tone * 0.50f) * (1.0f - 0.8f * gap) * (1.0f - 0.45f * wet);
        t.height = -3.5f * gap + 0.9f * grain;
        t.occlusion = 1.0f - 0.7f * gap;
        t.roughness = glm::mix(0.75f, 0.28f, wet);
        t.metallic = 0.0f;
        return t;
    });
}

SurfaceMaps tiles(int size) {
    return bake(size, [](float u, float v) {
        const float x = u * 8.0f, y = v * 8.0f;
        const int i = static_cast<int>(x), j = static_cast<int>(y);
        const float ex = x - std::floor(x), ey = y - std::floor(y);
        const float grout = step(0.035f, 0.015f, std::min({ex, 1 - ex, ey, 1 - ey}));
        const bool dark = (i + j) % 2 == 0;
        const float speck = noise(u, v, 180, 31);
        const float base = (dark ? 0.16f : 0.46f) * (0.85f + 0.3f * hash(i, j, 37)) * (0.9f + 0.2f * speck);
        Texel t;
        t.color = glm::mix(glm::vec3(base, base * 0.97f, base * 0.90f), glm::vec3(0.07f), grout);
        t.height = -2.0f * grout + 0.5f * hash(i, j, 39) * (ex - 0.5f);
        t.occlusion = 1.0f - 0.5f * grout;
        t.roughness = glm::mix(0.16f + 0.12f * noise(u, v, 12, 33), 0.8f, grout);
        t.metallic = 0.0f;
        return t;
    });
}

SurfaceMaps concrete(int size) {
    return bake(size, [](float u, float v) {
        const float stain = fractal(u, v, 3, 5, 101), pore = step(0.80f, 0.95f, noise(u, v, 90, 103));
        const float seam = step(0.012f, 0.0f, std::min(std::abs(u - 0.5f), std::min(v, 1.0f - v)));
        const float tone = 0.17f + 0.16f * stain;
        Texel t;
        t.color = glm::vec3(tone, tone * 0.98f, tone * 0.94f) * (1.0f - 0.35f * pore) * (1.0f - 0.4f * seam);
        t.height = 0.8f * noise(u, v, 120, 105) - 1.5f * pore - 2.0f * seam;
        t.occlusion = 1.0f - 0.4f * seam - 0.2f * pore;
        t.roughness = 0.55f + 0.35f * stain;
        t.metallic = 0.0f;
        return t;
    });
}

SurfaceMaps water(int size) {
    return bake(size, [](float u, float v) {
        Texel t;
        t.color = glm::vec3(0.006f, 0.012f, 0.016f);
        t.height = 14.0f * fractal(u, v, 6, 4, 111) +
                   6.0f * std::sin(6.2831853f * (2.0f * u + 3.0f * v + 0.6f * noise(u, v, 4, 113)));
        t.occlusion = 1.0f;
        t.roughness = 0.16f;
        t.metallic = 0.0f;
        return t;
    });
}

} // namespace mirolux::demo
