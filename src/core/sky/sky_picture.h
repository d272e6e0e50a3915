#pragma once
#include "core/base/error.h"
#include "core/image/image.h"
#include "core/scene/scene.h"
#include <filesystem>

namespace mirolux {

class Setup;

/// An equirectangular picture of all directions: its middle column is -Z, its left quarter -X, its upper edge +Y.
struct SkyPicture {
    FloatImage image; // RGBA; finite, none under 0; twice as wide as high
    std::string path;
    float brightest = 0;  // of its values
    std::string remark;   // what was done to take it in: a sentence; empty: nothing
    std::string digest{}; // of its values; empty: not known

    /// Linear between the four texels around the direction (unit).
    glm::dvec3 radiance(const glm::dvec3& direction) const;
};

/// The widest picture that is kept as it is; wider ones are averaged.
inline constexpr int widest_sky = 8192;

/// Reads .hdr (Radiance) or .exr (OpenEXR); what is not finite or under 0 counts as black, which the picture's remark
/// says. The two asked for last are
/// kept until their file changes, failures too. From any thread.
Result<std::shared_ptr<const SkyPicture>> sky_picture(const std::filesystem::path& file);

/// The file that a setup names by a key, beside the scene's file if it is not absolute.
std::filesystem::path picture_file(const Scene& scene, const Setup& setup, const std::string& key);

} // namespace mirolux
