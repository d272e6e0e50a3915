#include "core/sky/sky_picture.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/image/image_io.h"
#include "core/plan/settings.h"
#include <cmath>
#include <fmt/format.h>
#include <glm/gtc/constants.hpp>
#include <mutex>

namespace mirolux {

glm::dvec3 SkyPicture::radiance(const glm::dvec3& d) const {
    const double u = 0.5 + std::atan2(d.x, -d.z) / (2 * glm::pi<double>()),
                 v = std::acos(std::clamp(d.y, -1.0, 1.0)) / glm::pi<double>();
    const double x = u * image.width - 0.5, y = std::clamp(v * image.height - 0.5, 0.0, image.height - 1.0);
    const double left = std::floor(x), fx = x - left, top = std::floor(y), fy = y - top;
    const auto texel = [&](double column, double row) {
        const int w = image.width, c = ((static_cast<int>(column) % w) + w) % w;
        const float* p = image.pixel(c, std::min(static_cast<int>(row), image.height - 1));
        return glm::dvec3(p[0], p[1], p[2]);
    };
    return glm::mix(glm::mix(texel(left, top), texel(left + 1, top), fx),
                    glm::mix(texel(left, top + 1), texel(left + 1, top + 1), fx), fy);
}

/// Texels with a value that no light has become black there; how many.
static std::size_t clean(FloatImage& image) {
    std::size_t bad = 0;
    for (std::size_t at = 0; at < image.data.size(); at += 4) {
        bool good = true;
        for (std::size_t c = 0; c < 3; ++c) {
            float& v = image.data[at + c];
            good = good && std::isfinite(v) && v >= 0;
            v = std::isfinite(v) ? std::clamp(v, 0.0f, 1e9f) : 0.0f;
        }
        bad += good ? 0 : 1;
    }
    return bad;
}

/// Squares of part x part texels as one.
static FloatImage averaged(const FloatImage& image, int part) {
    FloatImage out{image.width / part, image.height / part, 4, {}};
    out.data.resize(std::size_t(4) * out.width * out.height);
    parallel_for(0, out.height, [&](int y) {
        for (int x = 0; x < out.width; ++x)
            for (int c = 0; c < 4; ++c) {
                double sum = 0;
                for (int j = 0; j < part; ++j)
                    for (int i = 0; i < part; ++i)
                        sum += image.pixel(x * part + i, y * part + j)[c];
                out.data[(std::size_t(y) * out.width + x) * 4 + static_cast<std::size_t>(c)] =
                    static_cast<float>(sum / (part * part));
            }
    });
    return out;
}

static Result<std::shared_ptr<const SkyPicture>> read_picture(const std::filesystem::path& file) {
    const std::string ending = file.extension().string();
    auto image = ending == ".exr" ? read_exr(file) : read_hdr(file);
    if (!image) return tl::unexpected(image.error());
    if (image->width != 2 * image->height)
        return fail("is " + std::to_string(image->width) + "x" + std::to_string(image->height) +
                        ", not twice as wide as high",
                    file.string(), "Use an equirectangular picture of the whole sky.");
    std::string remark;
    if (const std::size_t bad = clean(*image))
        remark = fmt::format("{} of its {} texels hold what is not finite or under 0; there they count as black. ", bad,
                             std::size_t(image->width) * image->height);
    if (const int part = (image->width + widest_sky - 1) / widest_sky; part > 1) {
        remark += fmt::format("Its {}x{} texels were averaged by {}x{}. ", image->width, image->height, part, part);
        *image = averaged(*image, part);
    }
    if (!remark.empty()) remark.pop_back();
    float brightest = 0;
    for (std::size_t at = 0; at < image->data.size(); ++at)
        if (at % 4 != 3) brightest = std::max(brightest, image->data[at]);
    Digest digest;
    digest.add(image->data.data(), image->data.size() * sizeof(float));
    return std::make_shared<const SkyPicture>(
        SkyPicture{std::move(*image), file.string(), brightest, remark, digest.hex()});
}

Result<std::shared_ptr<const SkyPicture>> sky_picture(const std::filesystem::path& file) {
    struct Kept {
        std::filesystem::path file;
        std::filesystem::file_time_type written;
        std::uintmax_t bytes;
        Result<std::shared_ptr<const SkyPicture>> picture;
    };
    static std::mutex mutex;
    static std::vector<Kept> kept; // the latest first
    std::error_code none;
    const auto written = std::filesystem::last_write_time(file, none);
    const auto bytes = none ? 0 : std::filesystem::file_size(file, none);
    if (none)
        return fail("cannot be read: " + none.message(), file.string(), "Name an .hdr or .exr file that is there.");
    const std::lock_guard lock(mutex);
    for (const Kept& k : kept)
        if (k.file == file && k.written == written && k.bytes == bytes) return k.picture;
    std::erase_if(kept, [&](const Kept& k) { return k.file == file; });
    kept.insert(kept.begin(), {file, written, bytes, read_picture(file)});
    if (kept.size() > 2) kept.pop_back();
    return kept.front().picture;
}

std::filesystem::path picture_file(const Scene& scene, const Setup& setup, const std::string& key) {
    const std::filesystem::path named = setup.choice(key);
    if (named.empty() || named.is_absolute()) return named;
    return std::filesystem::path(scene.asset->path).parent_path() / named;
}

} // namespace mirolux
