#include "core/bake/texel_store.h"
#include "core/base/parallel.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <glm/glm.hpp>
#include <glm/gtc/packing.hpp>

namespace mirolux {

const char* word(TexelStore store) {
    switch (store) {
    case TexelStore::rgbm:
        return "rgbm";
    case TexelStore::exponent:
        return "exponent";
    case TexelStore::bc6h:
        return "bc6h";
    default:
        return "half";
    }
}

std::uint16_t half_of(float value) {
    return glm::packHalf1x16(std::clamp(value, -65504.0f, 65504.0f));
}
float of_half(std::uint16_t bits) {
    return glm::unpackHalf1x16(bits);
}

namespace {

glm::vec3 color_at(const FloatImage& image, int x, int y) {
    const float* p = image.pixel(std::min(x, image.width - 1), std::min(y, image.height - 1));
    glm::vec3 c;
    for (int k = 0; k < 3; ++k) {
        const float v = image.channels > k ? p[k] : p[0];
        c[k] = std::isfinite(v) ? std::max(v, 0.0f) : 0.0f;
    }
    return c;
}

/// EXT_texture_shared_exponent: 9 bits of mantissa, bias 15.
constexpr int mantissa_bits = 9, exponent_bias = 15;
std::uint32_t shared_exponent(const glm::vec3& color) {
    constexpr float most = 65408.0f; // (2^9 - 1) / 2^9 * 2^16
    const glm::vec3 c = glm::min(color, glm::vec3(most));
    const float largest = std::max({c.x, c.y, c.z});
    int e = std::max(-exponent_bias - 1, largest > 0 ? std::ilogb(largest) : -exponent_bias - 1) + 1 + exponent_bias;
    float unit = std::ldexp(1.0f, e - exponent_bias - mantissa_bits);
    if (std::lround(largest / unit) == 1 << mantissa_bits) {
        ++e;
        unit *= 2;
    }
    std::uint32_t out = static_cast<std::uint32_t>(e) << 27;
    for (int k = 0; k < 3; ++k)
        out |= static_cast<std::uint32_t>(std::lround(c[k] / unit)) << (9 * k);
    return out;
}
glm::vec3 of_shared_exponent(std::uint32_t v) {
    const float unit = std::ldexp(1.0f, static_cast<int>(v >> 27) - exponent_bias - mantissa_bits);
    return unit * glm::vec3(v & 511u, v >> 9 & 511u, v >> 18 & 511u);
}

/// Square roots over a factor: rounded up so that no channel is cut.
std::array<std::uint8_t, 4> with_factor(const glm::vec3& color, float scale) {
    const glm::vec3 root = glm::sqrt(glm::clamp(color / scale, 0.0f, 1.0f));
    const int m = std::clamp(static_cast<int>(std::ceil(255.0f * std::max({root.x, root.y, root.z}))), 1, 255);
    std::array<std::uint8_t, 4> out{};
    for (int k = 0; k < 3; ++k)
        out[static_cast<std::size_t>(k)] = static_cast<std::uint8_t>(
            std::clamp(std::lround(255.0f * 255.0f * root[k] / static_cast<float>(m)), 0L, 255L));
    out[3] = static_cast<std::uint8_t>(m);
    return out;
}
glm::vec3 of_factor(const std::uint8_t* p, float scale) {
    const glm::vec3 root = glm::vec3(p[0], p[1], p[2]) * (static_cast<float>(p[3]) / (255.0f * 255.0f));
    return scale * root * root;
}

// BC6H, unsigned, mode 11: one pair of endpoints of 10 bits a channel, 16 indices of 4 bits. Halves are taken as whole
// numbers, 0 to 0x7BFF, and interpolated as such (ARB_texture_compression_bptc).
constexpr int bc6h_weights[16] = {0, 4, 9, 13, 17, 21, 26, 30, 34, 38, 43, 47, 51, 55, 60, 64};
using BlockTexels = std::array<glm::vec3, 16>; // halves as numbers

int unquantised(int q) {
    return q == 0 ? 0 : q == 1023 ? 0xFFFF : ((q << 16) + 0x8000) >> 10;
}
int interpolated(int a, int b, int index) {
    const int w = bc6h_weights[index];
    return ((unquantised(a) * (64 - w) + unquantised(b) * w + 32) >> 6) * 31 >> 6;
}
/// The code whose value is nearest: a half's number times 64/31, over 64.
int quantised(float half) {
    return std::clamp(static_cast<int>(std::lround((half * 64.0f / 31.0f - 32.0f) / 64.0f)), 0, 1023);
}

struct ColorBlock {
    glm::ivec3 a{0}, b{0};
    std::array<int, 16> index{};
    double error = 1e300;
};

/// The best indices for a pair of endpoints.
ColorBlock with_indices(const BlockTexels& t, const glm::ivec3& a, const glm::ivec3& b) {
    glm::vec3 steps[16];
    for (int i = 0; i < 16; ++i)
        for (int k = 0; k < 3; ++k)
            steps[i][k] = static_cast<float>(interpolated(a[k], b[k], i));
    ColorBlock out{a, b, {}, 0};
    for (std::size_t p = 0; p < 16; ++p) {
        float best = 1e30f;
        for (int i = 0; i < 16; ++i) {
            const glm::vec3 d = t[p] - steps[i];
            const float e = glm::dot(d, d);
            if (e < best) {
                best = e;
                out.index[p] = i;
            }
        }
        out.error += double(best);
    }
    return out;
}

/// Endpoints that fit given indices best, channel by channel (least squares).
ColorBlock refitted(const BlockTexels& t, const ColorBlock& from) {
    double aa = 0, ab = 0, bb = 0;
    glm::dvec3 at(0.0), bt(0.0);
    for (std::size_t p = 0; p < 16; ++p) {
        const double w = bc6h_weights[from.index[p]] / 64.0, v = 1 - w;
        aa += v * v;
        ab += v * w;
        bb += w * w;
        at += v * glm::dvec3(t[p]);
        bt += w * glm::dvec3(t[p]);
    }
    const double det = aa * bb - ab * ab;
    if (std::abs(det) < 1e-9) return from;
    glm::ivec3 a, b;
    for (int k = 0; k < 3; ++k) {
        a[k] = quantised(static_cast<float>((bb * at[k] - ab * bt[k]) / det));
        b[k] = quantised(static_cast<float>((aa * bt[k] - ab * at[k]) / det));
    }
    const ColorBlock out = with_indices(t, a, b);
    return out.error < from.error ? out : from;
}

ColorBlock fitted(const BlockTexels& t) {
    glm::vec3 mean(0.0f), low(1e30f), high(-1e30f);
    for (const glm::vec3& c : t) {
        mean += c / 16.0f;
        low = glm::min(low, c);
        high = glm::max(high, c);
    }
    // The axis along which they differ most, by powers of their covariance.
    glm::mat3 covariance(0.0f);
    for (const glm::vec3& c : t)
        covariance += glm::outerProduct(c - mean, c - mean);
    glm::vec3 axis = high - low;
    for (int i = 0; i < 8 && glm::dot(axis, axis) > 0; ++i)
        axis = covariance * (axis / glm::length(axis));
    glm::vec3 from = mean, to = mean;
    if (glm::dot(axis, axis) > 1e-12f) {
        axis /= glm::length(axis);
        float least = 0, most = 0;
        for (const glm::vec3& c : t) {
            least = std::min(least, glm::dot(c - mean, axis));
            most = std::max(most, glm::dot(c - mean, axis));
        }
        from = mean + least * axis;
        to = mean + most * axis;
    }
    glm::ivec3 a, b;
    for (int k = 0; k < 3; ++k) {
        a[k] = quantised(from[k]);
        b[k] = quantised(to[k]);
    }
    ColorBlock best = with_indices(t, a, b);
    for (int i = 0; i < 4; ++i) {
        const ColorBlock next = refitted(t, best);
        if (!(next.error < best.error)) break;
        best = next;
    }
    // One step of a code to either side.
    for (int k = 0; k < 3; ++k)
        for (const bool first : {true, false})
            for (const int step : {-1, 1}) {
                ColorBlock next = best;
                int& code = (first ? next.a : next.b)[k];
                code = std::clamp(code + step, 0, 1023);
                next = with_indices(t, next.a, next.b);
                if (next.error < best.error) best = next;
            }
    if (best.index[0] > 7) { // the first index has three bits
        std::swap(best.a, best.b);
        for (int& i : best.index)
            i = 15 - i;
    }
    return best;
}

void write_bits(std::uint8_t* out, int& at, int value, int bits) {
    for (int i = 0; i < bits; ++i, ++at)
        if (value >> i & 1) out[at / 8] = static_cast<std::uint8_t>(out[at / 8] | 1 << at % 8);
}
int read_bits(const std::uint8_t* from, int& at, int bits) {
    int value = 0;
    for (int i = 0; i < bits; ++i, ++at)
        value |= (from[at / 8] >> (at % 8) & 1) << i;
    return value;
}

constexpr int mode_11 = 3;
void write_block(const ColorBlock& b, std::uint8_t* out) {
    std::memset(out, 0, 16);
    int at = 0;
    write_bits(out, at, mode_11, 5);
    for (const glm::ivec3& e : {b.a, b.b})
        for (int k = 0; k < 3; ++k)
            write_bits(out, at, e[k], 10);
    for (std::size_t p = 0; p < 16; ++p)
        write_bits(out, at, b.index[p], p == 0 ? 3 : 4);
}
void read_block(const std::uint8_t* from, glm::vec3 (&out)[16]) {
    int at = 5;
    glm::ivec3 e[2];
    for (glm::ivec3& v : e)
        for (int k = 0; k < 3; ++k)
            v[k] = read_bits(from, at, 10);
    for (int p = 0; p < 16; ++p) {
        const int index = read_bits(from, at, p == 0 ? 3 : 4);
        for (int k = 0; k < 3; ++k)
            out[p][k] = of_half(static_cast<std::uint16_t>(interpolated(e[0][k], e[1][k], index)));
    }
}

} // namespace

StoredTexels stored(const FloatImage& light, TexelStore store) {
    StoredTexels out{store, light.width, light.height, {}, 1};
    const auto w = static_cast<std::size_t>(light.width), h = static_cast<std::size_t>(light.height);
    if (store == TexelStore::bc6h) {
        const std::size_t across = (w + 3) / 4, down = (h + 3) / 4;
        out.bytes.resize(16 * across * down);
        parallel_for(0, static_cast<int>(down), [&](int row) {
            for (std::size_t column = 0; column < across; ++column) {
                BlockTexels t;
                for (int p = 0; p < 16; ++p) {
                    const glm::vec3 c = color_at(light, static_cast<int>(4 * column) + p % 4, 4 * row + p / 4);
                    for (int k = 0; k < 3; ++k)
                        t[static_cast<std::size_t>(p)][k] = half_of(c[k]);
                }
                write_block(fitted(t), out.bytes.data() + 16 * (static_cast<std::size_t>(row) * across + column));
            }
        });
        return out;
    }
    if (store == TexelStore::rgbm) {
        float most = 1e-6f;
        for (int y = 0; y < light.height; ++y)
            for (int x = 0; x < light.width; ++x) {
                const glm::vec3 c = color_at(light, x, y);
                most = std::max({most, c.x, c.y, c.z});
            }
        out.scale = most;
    }
    const std::size_t bytes = store == TexelStore::half ? 6 : 4;
    out.bytes.resize(bytes * w * h);
    parallel_for(0, light.height, [&](int y) {
        std::uint8_t* to = out.bytes.data() + bytes * w * static_cast<std::size_t>(y);
        for (int x = 0; x < light.width; ++x, to += bytes) {
            const glm::vec3 c = color_at(light, x, y);
            if (store == TexelStore::half) {
                const std::uint16_t halves[3] = {half_of(c.x), half_of(c.y), half_of(c.z)};
                std::memcpy(to, halves, 6);
            } else if (store == TexelStore::exponent) {
                const std::uint32_t v = shared_exponent(c);
                std::memcpy(to, &v, 4);
            } else
                std::memcpy(to, with_factor(c, out.scale).data(), 4);
        }
    });
    return out;
}

glm::vec3 restored_texel(const StoredTexels& t, int x, int y) {
    const auto w = static_cast<std::size_t>(t.width), column = static_cast<std::size_t>(x),
               row = static_cast<std::size_t>(y);
    if (t.store == TexelStore::bc6h) {
        glm::vec3 texels[16];
        read_block(t.bytes.data() + 16 * (row / 4 * ((w + 3) / 4) + column / 4), texels);
        return texels[row % 4 * 4 + column % 4];
    }
    const std::uint8_t* from = t.bytes.data() + (t.store == TexelStore::half ? 6 : 4) * (row * w + column);
    if (t.store == TexelStore::half) {
        std::uint16_t v[3];
        std::memcpy(v, from, 6);
        return {of_half(v[0]), of_half(v[1]), of_half(v[2])};
    }
    if (t.store == TexelStore::rgbm) return of_factor(from, t.scale);
    std::uint32_t v = 0;
    std::memcpy(&v, from, 4);
    return of_shared_exponent(v);
}

FloatImage restored(const StoredTexels& t) {
    FloatImage out{t.width, t.height, 3, {}};
    out.data.resize(3 * static_cast<std::size_t>(t.width) * static_cast<std::size_t>(t.height));
    parallel_for(0, t.height, [&](int y) {
        for (int x = 0; x < t.width; ++x) {
            const glm::vec3 c = restored_texel(t, x, y);
            std::copy(&c.x, &c.x + 3, out.pixel(x, y));
        }
    });
    return out;
}

} // namespace mirolux
