#include "core/image/image_io.h"
#include "core/io/file.h"
#include <algorithm>
#include <cmath>
#include <cstring>
#include <memory>
#include <stb/stb_image.h>
#include <stb/stb_image_write.h>
#include <tinyexr.h>
#include <webp/decode.h>
#include <zlib.h>

namespace mirolux {

double srgb_encode(double x) {
    return x <= 0.0031308 ? 12.92 * x : 1.055 * std::pow(x, 1.0 / 2.4) - 0.055;
}
double srgb_decode(double x) {
    return x <= 0.04045 ? x / 12.92 : std::pow((x + 0.055) / 1.055, 2.4);
}

static const char* stb_reason() {
    const char* reason = stbi_failure_reason();
    return reason ? reason : "unknown reason";
}

/// RIFF with WEBP in it.
static bool is_webp(const std::vector<std::uint8_t>& bytes) {
    return bytes.size() >= 12 && std::memcmp(bytes.data(), "RIFF", 4) == 0 && std::memcmp(&bytes[8], "WEBP", 4) == 0;
}

Result<std::pair<int, int>> encoded_image_size(const std::vector<std::uint8_t>& bytes) {
    int w = 0, h = 0, n = 0;
    if (is_webp(bytes)) {
        if (!WebPGetInfo(bytes.data(), bytes.size(), &w, &h)) return fail("no WebP picture is in it");
        return std::pair(w, h);
    }
    if (bytes.size() > 0x7FFFFFFF || !stbi_info_from_memory(bytes.data(), static_cast<int>(bytes.size()), &w, &h, &n))
        return fail(stb_reason());
    return std::pair(w, h);
}

static std::uint32_t big_endian(const std::uint8_t* p) {
    return std::uint32_t(p[0]) << 24 | std::uint32_t(p[1]) << 16 | std::uint32_t(p[2]) << 8 | p[3];
}

/// A PNG (ISO/IEC 15948) whose chunks lie in the file and whose data unpacks to no more than its size claims: small
/// files that would take gigabytes are refused before anything is allocated for them. Other formats pass.
static Result<void> check_png(const std::vector<std::uint8_t>& bytes) {
    static constexpr std::uint8_t signature[] = {0x89, 'P', 'N', 'G', '\r', '\n', 0x1a, '\n'};
    if (bytes.size() < 33 || !std::equal(std::begin(signature), std::end(signature), bytes.begin())) return {};
    const std::uint64_t width = big_endian(&bytes[16]), height = big_endian(&bytes[20]);
    // At most 4 channels of 16 bits and a filter byte a row; seven interlaced passes have at most twice the rows.
    const std::uint64_t most = height * (8 * width + 2) + 8 * (width + height);
    z_stream stream{};
    if (inflateInit(&stream) != Z_OK) return fail("not enough memory");
    const std::unique_ptr<z_stream, int (*)(z_stream*)> end(&stream, inflateEnd);
    std::uint8_t buffer[16384];
    int state = Z_OK;
    for (std::size_t at = 8; at + 12 <= bytes.size();) {
        const std::size_t length = big_endian(&bytes[at]);
        if (length > bytes.size() - at - 12) return fail("a chunk reaches beyond the end of the file");
        if (std::memcmp(&bytes[at + 4], "IDAT", 4) == 0) {
            stream.next_in = const_cast<Bytef*>(&bytes[at + 8]);
            stream.avail_in = static_cast<uInt>(length);
            while (state == Z_OK && stream.avail_in > 0) {
                stream.next_out = buffer;
                stream.avail_out = sizeof buffer;
                state = inflate(&stream, Z_NO_FLUSH);
                if (stream.total_out > most) return fail("its data unpacks to more than its size");
            }
        }
        at += length + 12;
    }
    return {};
}

Result<ByteImage> decode_image(const std::vector<std::uint8_t>& bytes) {
    ByteImage image;
    int n = 0;
    if (bytes.size() > 0x7FFFFFFF) return fail("too large");
    if (is_webp(bytes)) {
        const std::unique_ptr<std::uint8_t, void (*)(void*)> pixels(
            WebPDecodeRGBA(bytes.data(), bytes.size(), &image.width, &image.height), WebPFree);
        if (!pixels) return fail("the WebP picture is damaged");
        image.rgba.assign(pixels.get(), pixels.get() + std::size_t(4) * image.width * image.height);
        return image;
    }
    if (auto ok = check_png(bytes); !ok) return tl::unexpected(ok.error());
    stbi_uc* pixels =
        stbi_load_from_memory(bytes.data(), static_cast<int>(bytes.size()), &image.width, &image.height, &n, 4);
    if (!pixels) return fail(stb_reason());
    image.rgba.assign(pixels, pixels + std::size_t(4) * image.width * image.height);
    stbi_image_free(pixels);
    return image;
}

static void append_bytes(void* context, void* data, int size) {
    auto& out = *static_cast<std::vector<std::uint8_t>*>(context);
    const auto* p = static_cast<const std::uint8_t*>(data);
    out.insert(out.end(), p, p + size);
}

std::vector<std::uint8_t> encode_png(const ByteImage& image) {
    std::vector<std::uint8_t> out;
    stbi_write_png_to_func(append_bytes, &out, image.width, image.height, 4, image.rgba.data(), image.width * 4);
    return out;
}

Result<ByteImage> read_png(const std::filesystem::path& path) {
    auto bytes = read_file(path);
    if (!bytes) return tl::unexpected(bytes.error());
    auto image = decode_image(*bytes);
    if (!image)
        return fail("is not a picture that can be read: " + image.error().what, path.string(), "Use PNG or JPEG.");
    return image;
}

Result<void> write_png(const std::filesystem::path& path, const ByteImage& image) {
    const auto bytes = encode_png(image);
    return write_file_atomically(path, bytes.data(), bytes.size());
}

namespace {

/// A picture as tinyexr takes it; stays where it is, since it points into itself.
class ExrPart {
public:
    explicit ExrPart(const FloatImage& image)
        : planes_(static_cast<std::size_t>(image.channels),
                  std::vector<float>(std::size_t(image.width) * std::size_t(image.height))),
          channels_(static_cast<std::size_t>(image.channels)),
          types_(static_cast<std::size_t>(image.channels), TINYEXR_PIXELTYPE_FLOAT) {
        InitEXRHeader(&header);
        InitEXRImage(&exr);
        const auto n = static_cast<std::size_t>(image.channels);
        for (std::size_t i = 0; i < planes_.front().size(); ++i)
            for (std::size_t c = 0; c < n; ++c)
                planes_[n - 1 - c][i] = image.data[i * n + c]; // EXR wants names in alphabetical order: A B G R
        for (auto& p : planes_)
            pointers_.push_back(p.data());
        const char* names = n == 1 ? "Y" : n == 3 ? "BGR" : "ABGR";
        for (std::size_t c = 0; c < n; ++c) {
            channels_[c] = {};
            channels_[c].name[0] = names[c];
        }
        exr.images = reinterpret_cast<unsigned char**>(pointers_.data());
        exr.width = image.width;
        exr.height = image.height;
        exr.num_channels = header.num_channels = image.channels;
        header.channels = channels_.data();
        header.pixel_types = types_.data();
        header.requested_pixel_types = types_.data();
        header.compression_type = TINYEXR_COMPRESSIONTYPE_ZIP;
    }
    ExrPart(const ExrPart&) = delete;

    EXRHeader header;
    EXRImage exr;

private:
    std::vector<std::vector<float>> planes_;
    std::vector<float*> pointers_;
    std::vector<EXRChannelInfo> channels_;
    std::vector<int> types_;
};

Result<void> write_encoded(const std::filesystem::path& path, std::size_t size, unsigned char* memory,
                           const char* reason) {
    if (size == 0) {
        std::string text = reason ? reason : "unknown reason";
        if (reason) FreeEXRErrorMessage(reason);
        return fail("could not be encoded as OpenEXR: " + text, path.string());
    }
    auto written = write_file_atomically(path, memory, size);
    free(memory);
    return written;
}

} // namespace

Result<void> write_exr(const std::filesystem::path& path, const FloatImage& image) {
    ExrPart part(image);
    unsigned char* memory = nullptr;
    const char* reason = nullptr;
    const std::size_t size = SaveEXRImageToMemory(&part.exr, &part.header, &memory, &reason);
    return write_encoded(path, size, memory, reason);
}

Result<FloatImage> read_exr(const std::filesystem::path& path) {
    auto bytes = read_file(path);
    if (!bytes) return tl::unexpected(bytes.error());
    float* pixels = nullptr;
    const char* reason = nullptr;
    FloatImage image;
    image.channels = 4;
    if (LoadEXRFromMemory(&pixels, &image.width, &image.height, bytes->data(), bytes->size(), &reason) !=
        TINYEXR_SUCCESS) {
        std::string text = reason ? reason : "unknown reason";
        if (reason) FreeEXRErrorMessage(reason);
        return fail("is not an OpenEXR file that can be read: " + text, path.string());
    }
    image.data.assign(pixels, pixels + std::size_t(4) * image.width * image.height);
    free(pixels);
    return image;
}

Result<FloatImage> read_hdr(const std::filesystem::path& path) {
    auto bytes = read_file(path);
    if (!bytes) return tl::unexpected(bytes.error());
    if (bytes->size() > 0x7FFFFFFF || !stbi_is_hdr_from_memory(bytes->data(), static_cast<int>(bytes->size())))
        return fail("is not a Radiance HDR picture", path.string(), "Use .hdr or .exr.");
    int n = 0;
    FloatImage image;
    image.channels = 4;
    float* pixels =
        stbi_loadf_from_memory(bytes->data(), static_cast<int>(bytes->size()), &image.width, &image.height, &n, 4);
    if (!pixels) return fail(std::string("is not a picture that can be read: ") + stb_reason(), path.string());
    image.data.assign(pixels, pixels + std::size_t(4) * image.width * image.height);
    stbi_image_free(pixels);
    return image;
}

Result<void> write_hdr(const std::filesystem::path& path, const FloatImage& image) {
    std::vector<std::uint8_t> out;
    if (!stbi_write_hdr_to_func(append_bytes, &out, image.width, image.height, image.channels, image.data.data()))
        return fail("could not be encoded as Radiance HDR", path.string());
    return write_file_atomically(path, out.data(), out.size());
}

} // namespace mirolux
