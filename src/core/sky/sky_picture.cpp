#include "core/sky/sky_picture.h"
#include "core/image/image_io.h"
#include "core/plan/settings.h"
#include <cmath>
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

static Result<std::shared_ptr<const SkyPicture>> read_picture(const std::filesystem::path& file) {
    const std::string ending = file.extension().string();
    auto image = ending == ".exr" ? read_exr(file) : read_hdr(file);
    if (!image) return tl::unexpected(image.error());
    if (image->width != 2 * image->height)
        return fail("is " + std::to_string(image->width) + "x" + std::to_string(image->height) +
                        ", not twice as wide as high",
                    file.string(), "Use an equirectangular picture of the whole sky.");
    for (float& v : image->data)
        v = std::isfinite(v) ? std::clamp(v, 0.0f, 1e9f) : 0.0f;
    return std::make_shared<const SkyPicture>(SkyPicture{std::move(*image), file.string()});
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

std::filesystem::path sky_file(const Scene& scene, const Setup& setup) {
    const std::filesystem::path named = setup.choice("sky.file");
    if (named.empty() || named.is_absolute()) return named;
    return std::filesystem::path(scene.asset->path).parent_path() / named;
}

} // namespace mirolux
