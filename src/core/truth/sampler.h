#pragma once
#include <cstdint>
#include <glm/glm.hpp>

namespace mirolux::truth {

/// Well mixed bits of a number (the finaliser of MurmurHash3, A. Appleby).
inline std::uint32_t mixed(std::uint32_t x) {
    x ^= x >> 16;
    x *= 0x85ebca6bu;
    x ^= x >> 13;
    x *= 0xc2b2ae35u;
    return x ^ x >> 16;
}
inline std::uint32_t mixed(std::uint32_t a, std::uint32_t b) {
    return mixed(a ^ (mixed(b) + 0x9e3779b9u + (a << 6) + (a >> 2)));
}

inline std::uint32_t reversed_bits(std::uint32_t x) {
    x = x << 16 | x >> 16;
    x = (x & 0x00ff00ffu) << 8 | (x & 0xff00ff00u) >> 8;
    x = (x & 0x0f0f0f0fu) << 4 | (x & 0xf0f0f0f0u) >> 4;
    x = (x & 0x33333333u) << 2 | (x & 0xccccccccu) >> 2;
    return (x & 0x55555555u) << 1 | (x & 0xaaaaaaaau) >> 1;
}

/// Owen's scrambling by a hash in which each bit depends on those above it alone (B. Burley, Practical Hash-based Owen
/// Scrambling, 2020; constants by N. Vegdahl, 2021).
inline std::uint32_t scrambled(std::uint32_t x, std::uint32_t seed) {
    x = reversed_bits(x);
    x ^= x * 0x3d20adeau;
    x += seed;
    x *= seed >> 16 | 1u;
    x ^= x * 0x05526c56u;
    x ^= x * 0x53a22864u;
    return reversed_bits(x);
}

/// Second dimension of Sobol's sequence (I. Sobol', 1967); the first is reversed_bits. Its direction numbers are the
/// powers of 1 + s, s a shift to the right: the index is a polynomial in 1 + s, and each step below puts 1 + s^k in the
/// place of (1 + s)^k for all its blocks at once.
inline std::uint32_t sobol_second(std::uint32_t index) {
    index ^= (index & 0xffff0000u) >> 16;
    index ^= (index & 0xff00ff00u) >> 8;
    index ^= (index & 0xf0f0f0f0u) >> 4;
    index ^= (index & 0xccccccccu) >> 2;
    index ^= (index & 0xaaaaaaaau) >> 1;
    return reversed_bits(index);
}

enum class Sequence { sobol, random };

/// Numbers for one sample of one pixel: the same for the same pixel, sample and seed, whatever thread asks. Pairs of
/// dimensions are Sobol's first two, each pair with an order and a scrambling of its own.
class Sampler {
public:
    Sampler(std::uint32_t pixel, std::uint32_t sample, std::uint32_t seed, Sequence sequence)
        : base_(mixed(pixel, seed)), sample_(sample), sequence_(sequence) {}

    /// Two numbers in [0, 1).
    glm::dvec2 two() {
        const std::uint32_t seed = mixed(base_, ++dimension_);
        if (sequence_ == Sequence::random) {
            const std::uint32_t a = mixed(seed, sample_);
            return {unit(a), unit(mixed(a, 0x68bc21ebu))};
        }
        const std::uint32_t index = scrambled(sample_, seed);
        return {unit(scrambled(reversed_bits(index), mixed(seed, 1u))),
                unit(scrambled(sobol_second(index), mixed(seed, 2u)))};
    }
    double one() { return two().x; }

private:
    static double unit(std::uint32_t bits) { return bits * 0x1p-32; }
    std::uint32_t base_, sample_, dimension_ = 0;
    Sequence sequence_;
};

} // namespace mirolux::truth
