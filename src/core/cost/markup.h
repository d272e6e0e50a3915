#pragma once
#include <cstdint>
#include <string>
#include <vector>

// What reports are written with: text and pictures inside HTML and SVG.
namespace mirolux {

/// Text safe inside HTML and SVG, attributes too.
std::string escaped(const std::string& text);
std::string base64(const std::vector<std::uint8_t>& bytes);
/// printf into a string of at most 511 characters.
template <class... A>
std::string line(const char* format, A... arguments) {
    char buffer[512];
    std::snprintf(buffer, sizeof buffer, format, arguments...);
    return buffer;
}
/// The colour of a pass family as CSS has it.
std::string family_ink(const std::string& family);

} // namespace mirolux
