#include "core/cost/markup.h"
#include <map>

namespace mirolux {

std::string escaped(const std::string& text) {
    std::string out;
    for (const char c : text)
        out += c == '<' ? "&lt;" : c == '>' ? "&gt;" : c == '&' ? "&amp;" : std::string(1, c);
    return out;
}

std::string base64(const std::vector<std::uint8_t>& bytes) {
    static const char* digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        const std::uint32_t v =
            bytes[i] << 16 | (i + 1 < bytes.size() ? bytes[i + 1] << 8 : 0) | (i + 2 < bytes.size() ? bytes[i + 2] : 0);
        out += digits[v >> 18];
        out += digits[v >> 12 & 63];
        out += i + 1 < bytes.size() ? digits[v >> 6 & 63] : '=';
        out += i + 2 < bytes.size() ? digits[v & 63] : '=';
    }
    return out;
}

const char* family_ink(const std::string& family) {
    static const std::map<std::string, const char*> colors = {
        {"depth", "#7f8a99"}, {"opaque", "#3f8fc4"},      {"lights", "#d9a441"}, {"culling", "#b05484"},
        {"sky", "#8a6fb0"},   {"transparent", "#4fae9a"}, {"finish", "#c4694f"}};
    const auto it = colors.find(family);
    return it == colors.end() ? "#888" : it->second;
}

} // namespace mirolux
