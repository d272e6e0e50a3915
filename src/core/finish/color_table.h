#pragma once
#include "core/base/error.h"
#include <filesystem>
#include <glm/glm.hpp>
#include <memory>
#include <string>
#include <vector>

namespace mirolux {

/// A table of colours by colours, of what a display is sent: read from a .cube file.
struct ColorTable {
    int size = 0;                   // entries along each axis
    glm::dvec3 low{0.0}, high{1.0}; // colours of the first and the last entry
    std::vector<glm::vec3> entries; // size^3, red fastest
    std::string digest;             // of the entries
    /// Between the entries, by all eight around; outside, as at the edge.
    glm::dvec3 at(const glm::dvec3& coded) const;
};

/// Reads the text of a .cube file with a table of three dimensions: LUT_3D_SIZE of 2 to 128, DOMAIN_MIN, DOMAIN_MAX,
/// comments, and rows of three numbers. Errors name the line.
Result<ColorTable> parse_color_table(const std::string& text, const std::string& name);
/// The same from a file; kept while the file stays as it is.
Result<std::shared_ptr<const ColorTable>> color_table(const std::filesystem::path& file);

} // namespace mirolux
