#pragma once
#include "core/base/error.h"
#include "core/image/image.h"
#include <filesystem>
#include <utility>

namespace mirolux {

/// Width and height of an encoded PNG, JPEG or WebP without decoding it.
Result<std::pair<int, int>> encoded_image_size(const std::vector<std::uint8_t>& bytes);
Result<ByteImage> decode_image(const std::vector<std::uint8_t>& bytes);

std::vector<std::uint8_t> encode_png(const ByteImage& image);
Result<ByteImage> read_png(const std::filesystem::path& path);
Result<void> write_png(const std::filesystem::path& path, const ByteImage& image);

/// OpenEXR, 32-bit float, channels R G B (A) or Y; scene-linear.
Result<void> write_exr(const std::filesystem::path& path, const FloatImage& image);
Result<FloatImage> read_exr(const std::filesystem::path& path);
/// The same with a part for each picture, by name (OpenEXR 2.0, multi-part).
Result<void> write_exr_parts(const std::filesystem::path& path,
                             const std::vector<std::pair<std::string, FloatImage>>& images);
/// Names of the parts of such a file.
Result<std::vector<std::string>> exr_parts(const std::filesystem::path& path);
/// Radiance HDR, RGBA with alpha 1.
Result<FloatImage> read_hdr(const std::filesystem::path& path);

/// Radiance RGBE (.hdr), three channels; scene-linear.
Result<void> write_hdr(const std::filesystem::path& path, const FloatImage& image);

} // namespace mirolux
