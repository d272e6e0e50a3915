#include "core/image/target_picture.h"
#include "core/base/text.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

/// Channels of the image that are looked at: from first, so many.
static std::pair<int, int> channels_of(const FloatImage& image, Channel channel) {
    if (channel == Channel::all) return {0, std::min(image.channels, 3)};
    return {std::min(static_cast<int>(channel) - 1, image.channels - 1), 1};
}

ValueRange range_of(const FloatImage& image, Channel channel) {
    const auto [first, count] = channels_of(image, channel);
    const std::size_t texels = image.channels > 0 ? image.data.size() / static_cast<std::size_t>(image.channels) : 0;
    const std::size_t step = texels * static_cast<std::size_t>(count) / 65536 + 1;
    std::vector<float> values;
    for (std::size_t i = 0; i < texels; i += step)
        for (int c = 0; c < count; ++c) {
            const float v =
                image.data[i * static_cast<std::size_t>(image.channels) + static_cast<std::size_t>(first + c)];
            if (std::isfinite(v)) values.push_back(v);
        }
    if (values.empty()) return {};
    std::sort(values.begin(), values.end());
    const std::size_t cut = values.size() / 200;
    ValueRange r{values[cut], values[values.size() - 1 - cut]};
    if (!(r.high > r.low)) r = {values.front(), values.back()};
    if (!(r.high > r.low)) r.high = r.low + std::max(1.0f, std::abs(r.low));
    return r;
}

ByteImage picture_of(const FloatImage& image, Channel channel, ValueRange range, bool encode) {
    const auto [first, count] = channels_of(image, channel);
    ByteImage out{image.width, image.height,
                  std::vector<std::uint8_t>(std::size_t(4) * image.width * image.height, 255)};
    std::uint8_t table[1024]; // 10 bits in: no step of the picture is missed
    for (int i = 0; i < 1024; ++i) {
        const double v = i / 1023.0;
        table[i] = static_cast<std::uint8_t>(std::lround(255.0 * (encode ? srgb_encode(v) : v)));
    }
    const float scale = 1.0f / (range.high - range.low);
    const std::size_t texels = std::size_t(image.width) * image.height;
    for (std::size_t i = 0; i < texels; ++i) {
        const float* texel = image.data.data() + i * static_cast<std::size_t>(image.channels) + first;
        std::uint8_t* p = out.rgba.data() + 4 * i;
        bool sane = true;
        for (int c = 0; c < count; ++c) {
            sane = sane && std::isfinite(texel[c]);
            const float v = std::clamp((texel[c] - range.low) * scale, 0.0f, 1.0f);
            p[c] = table[sane ? static_cast<int>(v * 1023.0f + 0.5f) : 0];
        }
        if (count == 1) p[1] = p[2] = p[0];
        if (count == 2) p[2] = 0;
        if (!sane) p[0] = 255, p[1] = 0, p[2] = 255;
    }
    return out;
}

std::string texel_text(const FloatImage& image, int x, int y, bool whole) {
    std::string out;
    for (int c = 0; c < image.channels; ++c)
        out += (c ? " " : "") +
               (whole ? std::to_string(std::lround(image.pixel(x, y)[c])) : number_text(image.pixel(x, y)[c], 4));
    return out;
}

} // namespace mirolux
