#pragma once
#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

namespace mirolux {

/// Rows from the top; interleaved floats; scene-linear unless said otherwise.
struct FloatImage {
    int width = 0, height = 0, channels = 0;
    std::vector<float> data; // width * height * channels

    const float* pixel(int x, int y) const { return data.data() + (std::size_t(y) * width + x) * channels; }
    float* pixel(int x, int y) { return data.data() + (std::size_t(y) * width + x) * channels; }
};

/// Rows from the top; RGBA, 8 bits each, sRGB-encoded for pictures.
struct ByteImage {
    int width = 0, height = 0;
    std::vector<std::uint8_t> rgba; // width * height * 4

    bool empty() const { return rgba.empty(); }
    bool operator==(const ByteImage&) const = default;
};

/// IEC 61966-2-1 (sRGB) transfer, both ways, on 0..1.
double srgb_encode(double linear);
double srgb_decode(double encoded);

} // namespace mirolux
