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

    /// Linear between the four texels around the direction (unit).
    glm::dvec3 radiance(const glm::dvec3& direction) const;
};

/// Reads .hdr (Radiance) or .exr (OpenEXR); what is not finite or under 0 counts as black. The two asked for last are
/// kept until their file changes, failures too. From any thread.
Result<std::shared_ptr<const SkyPicture>> sky_picture(const std::filesystem::path& file);

/// The file that a setup names (`sky.file`), beside the scene's file if it is not absolute.
std::filesystem::path sky_file(const Scene& scene, const Setup& setup);

} // namespace mirolux
