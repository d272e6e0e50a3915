#include "core/cost/markup.h"
#include "core/technique/technique.h"
#include <fmt/format.h>

namespace mirolux {

namespace {

void append_escaped(std::string& out, std::string_view text) {
    for (const char c : text)
        switch (c) {
        case '<':
            out += "&lt;";
            break;
        case '>':
            out += "&gt;";
            break;
        case '&':
            out += "&amp;";
            break;
        case '"':
            out += "&quot;";
            break;
        default:
            out += c;
        }
}

} // namespace

Attribute::Attribute(std::string_view name, double value) : name(name), value(fmt::format("{:.1f}", value)) {}

void Markup::begin(std::string_view name, const Attributes& attributes) {
    (out_ += '<') += name;
    for (const Attribute& a : attributes) {
        ((out_ += ' ') += a.name) += "=\"";
        append_escaped(out_, a.value);
        out_ += '"';
    }
}

Markup::Scope Markup::open(std::string_view name, const Attributes& attributes) {
    begin(name, attributes);
    out_ += '>';
    return {*this, name};
}

Markup& Markup::put(std::string_view name, std::string_view text, const Attributes& attributes) {
    const Scope element = open(name, attributes);
    append_escaped(out_, text);
    return *this;
}

Markup& Markup::mark(std::string_view name, const Attributes& attributes) {
    begin(name, attributes);
    out_ += "/>";
    return *this;
}

Markup& Markup::text(std::string_view text) {
    append_escaped(out_, text);
    return *this;
}

Markup& Markup::list(const std::vector<std::string>& points) {
    if (points.empty()) return *this;
    const Scope ul = open("ul");
    for (const std::string& point : points)
        put("li", point);
    return *this;
}

Markup& Markup::add(const Markup& other) {
    out_ += other.out_;
    return *this;
}

Markup& Markup::row(std::string_view cell, const std::vector<std::string>& texts) {
    const Scope tr = open("tr");
    for (const std::string& text : texts)
        put(cell, text);
    return *this;
}

std::string data_address(const std::vector<std::uint8_t>& bytes) {
    static const char* digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out = "data:image/png;base64,";
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

std::string family_ink(const std::string& family) {
    return fmt::format("#{:06x}", family_color_of(family));
}

} // namespace mirolux
