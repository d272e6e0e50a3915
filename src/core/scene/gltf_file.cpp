#include "core/scene/gltf_file.h"
#include "core/io/file.h"
#include "core/scene/gltf_packed.h"
#include <cstring>

namespace mirolux::gltf {

namespace {

std::uint32_t word_at(const Bytes& b, std::size_t offset) {
    std::uint32_t v;
    std::memcpy(&v, b.data() + offset, 4);
    return v;
}

Bytes decode_base64(std::string_view text, const JsonCursor& where) {
    Bytes out;
    out.reserve(text.size() * 3 / 4);
    std::uint32_t bits = 0;
    int held = 0;
    for (const char c : text) {
        int v;
        if (c >= 'A' && c <= 'Z')
            v = c - 'A';
        else if (c >= 'a' && c <= 'z')
            v = c - 'a' + 26;
        else if (c >= '0' && c <= '9')
            v = c - '0' + 52;
        else if (c == '+')
            v = 62;
        else if (c == '/')
            v = 63;
        else if (c == '=')
            break;
        else
            where.complain("data URI holds a character that is not base64");
        bits = bits << 6 | static_cast<std::uint32_t>(v);
        held += 6;
        if (held >= 8) {
            held -= 8;
            out.push_back(static_cast<std::uint8_t>(bits >> held));
        }
    }
    return out;
}

std::string percent_decoded(const std::string& text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] == '%' && i + 2 < text.size() && std::isxdigit(text[i + 1]) && std::isxdigit(text[i + 2])) {
            out += static_cast<char>(std::stoi(text.substr(i + 1, 2), nullptr, 16));
            i += 2;
        } else
            out += text[i];
    }
    return out;
}

int component_bytes(std::uint64_t type) {
    switch (type) {
    case 5120:
    case 5121:
        return 1;
    case 5122:
    case 5123:
        return 2;
    case 5125:
    case 5126:
        return 4;
    default:
        return 0;
    }
}

int component_count(const std::string& type) {
    static const std::pair<const char*, int> counts[] = {{"SCALAR", 1}, {"VEC2", 2}, {"VEC3", 3}, {"VEC4", 4},
                                                         {"MAT2", 4},   {"MAT3", 9}, {"MAT4", 16}};
    for (const auto& [name, n] : counts)
        if (type == name) return n;
    return 0;
}

} // namespace

struct File::Layout {
    std::uint64_t type = 0; // glTF componentType
    int bytes = 0, components = 0;
    bool normalized = false;
    std::size_t element() const { return static_cast<std::size_t>(bytes) * components; }
};

File::File(const std::filesystem::path& path, std::size_t memoryLimit) : path_(path), limit_(memoryLimit) {
    auto read = read_file(path);
    if (!read) throw ReadFailure{read.error().what, "", read.error().remedy};
    const Bytes& bytes = *read;
    digest_.add(bytes.data(), bytes.size());
    fileDigest_ = digest_.value;
    std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    if (bytes.size() >= 4 && std::memcmp(bytes.data(), "glTF", 4) == 0) {
        auto broken = [](const std::string& what) { throw ReadFailure{what, "", "Export the .glb again."}; };
        if (bytes.size() < 20) broken("ends inside the .glb header");
        if (word_at(bytes, 4) != 2)
            broken(".glb container version is " + std::to_string(word_at(bytes, 4)) + ", only 2 can be read");
        if (word_at(bytes, 8) > bytes.size())
            broken("is cut short: the header says " + std::to_string(word_at(bytes, 8)) + " bytes, the file has " +
                   std::to_string(bytes.size()));
        const std::size_t end = word_at(bytes, 8);
        const std::size_t jsonLength = word_at(bytes, 12);
        if (word_at(bytes, 16) != 0x4E4F534Au) broken("first .glb chunk is not JSON");
        if (jsonLength > end || 20 + jsonLength > end) broken("JSON chunk is longer than the file");
        text = text.substr(20, jsonLength);
        std::size_t at = 20 + jsonLength;
        if (at + 8 <= end && word_at(bytes, at + 4) == 0x004E4942u) {
            const std::size_t length = word_at(bytes, at);
            if (length > end - at - 8) broken("binary chunk is longer than the file");
            binary_.assign(bytes.begin() + at + 8, bytes.begin() + at + 8 + length);
            hasBinary_ = true;
        }
    } else {
        const auto first = text.find_first_not_of(" \t\r\n\xEF\xBB\xBF");
        if (first == std::string_view::npos || text[first] != '{')
            throw ReadFailure{"is neither glTF JSON nor .glb", "", "Open a glTF 2.0 file."};
    }
    try {
        json_ = nlohmann::json::parse(text);
    } catch (const nlohmann::json::exception& e) {
        throw ReadFailure{std::string("JSON cannot be parsed: ") + e.what(), "", "Export the file again."};
    }
    if (!json_.is_object()) throw ReadFailure{"JSON is not an object", "", "Open a glTF 2.0 file."};
    const std::size_t count = root().list("buffers").size();
    if (count > 65536) root()["buffers"].complain("has more than 65536 entries");
    buffers_.resize(count);
    loaded_.resize(count);
}

void File::warn(const std::string& pointer, const std::string& text) {
    if (warnings_.size() < 200) warnings_.push_back(path_.filename().string() + ": " + pointer + ": " + text);
}

void File::spend(std::size_t bytes, const JsonCursor& where) {
    if (bytes > limit_ - spent_)
        where.complain("asks for more memory than the limit of " + std::to_string(limit_ >> 20) + " MiB");
    spent_ += bytes;
}

Bytes File::resource(const JsonCursor& uri) {
    const std::string text = uri.text();
    if (text.rfind("data:", 0) == 0) {
        const auto comma = text.find(";base64,");
        if (comma == std::string::npos) uri.complain("data URI is not base64");
        spend(text.size(), uri);
        return decode_base64(std::string_view(text).substr(comma + 8), uri);
    }
    if (text.find("://") != std::string::npos)
        uri.complain("is a network address; only files can be read", "Put the file beside the scene.");
    const auto file = path_.parent_path() / percent_decoded(text);
    auto bytes = read_file(file);
    if (!bytes)
        uri.complain("names " + file.string() + ", which " + bytes.error().what, "Put the file beside the scene.");
    spend(bytes->size(), uri);
    digest_.add(bytes->data(), bytes->size());
    return std::move(*bytes);
}

/// The bytes that an object with "buffer", "byteOffset" and "byteLength" names.
std::span<const std::uint8_t> File::stretch(const JsonCursor& from) {
    const JsonCursor buffers = root().list("buffers");
    const int b = from.index("buffer", buffers.size());
    if (b < 0) from.complain("lacks \"buffer\"");
    if (!loaded_[b]) {
        const JsonCursor buffer = buffers.at(b);
        const std::uint64_t length = buffer["byteLength"].whole(1ull << 33);
        if (buffer.has("uri"))
            buffers_[b] = resource(buffer["uri"]);
        else if (b == 0 && hasBinary_)
            buffers_[b] = std::move(binary_);
        else
            buffer.complain("has no uri and there is no binary chunk for it");
        if (buffers_[b].size() < length)
            buffer["byteLength"].complain("is " + std::to_string(length) + " but only " +
                                              std::to_string(buffers_[b].size()) + " bytes exist",
                                          "Export the file again.");
        loaded_[b] = true;
    }
    const std::uint64_t offset = from.whole("byteOffset", 0, 1ull << 33);
    const std::uint64_t length = from["byteLength"].whole(1ull << 33);
    if (offset > buffers_[b].size() || length > buffers_[b].size() - offset)
        from.complain("reaches to byte " + std::to_string(offset + length) + " of a buffer of " +
                      std::to_string(buffers_[b].size()));
    return std::span(buffers_[b]).subspan(offset, length);
}

std::span<const std::uint8_t> File::view(int index) {
    const JsonCursor view = root().list("bufferViews").at(static_cast<std::size_t>(index));
    static const char* packed = "EXT_meshopt_compression";
    if (!view.has("extensions") || !view["extensions"].has(packed)) return stretch(view);
    const auto it = unpacked_.find(index);
    if (it != unpacked_.end()) return it->second;
    const JsonCursor extension = view["extensions"][packed];
    spend(unpacked_size(extension), extension);
    return unpacked_[index] = unpack_view(extension, stretch(extension));
}

JsonCursor File::accessor(const JsonCursor& reference) const {
    const JsonCursor accessors = root().list("accessors");
    const auto i = reference.whole(0x7FFFFFFF);
    if (i >= accessors.size())
        reference.complain("accessor " + std::to_string(i) + " does not exist: there are " +
                           std::to_string(accessors.size()));
    return accessors.at(i);
}

int File::components(const JsonCursor& reference) const {
    return component_count(accessor(reference).text("type", ""));
}

File::Layout File::layout(const JsonCursor& a) {
    Layout l;
    l.type = a["componentType"].whole(0xFFFF);
    l.bytes = component_bytes(l.type);
    if (l.bytes == 0) a["componentType"].complain("is not one of glTF's");
    l.components = component_count(a["type"].text());
    if (l.components == 0) a["type"].complain("is not one of glTF's");
    l.normalized = a.flag("normalized", false);
    return l;
}

void File::copy_elements(const Layout& l, std::span<const std::uint8_t> bytes, std::size_t stride, std::size_t count,
                         double* out) const {
    for (std::size_t i = 0; i < count; ++i) {
        const std::uint8_t* p = bytes.data() + i * stride;
        for (int c = 0; c < l.components; ++c, p += l.bytes) {
            double v = 0.0;
            switch (l.type) {
            case 5120: {
                std::int8_t x;
                std::memcpy(&x, p, 1);
                v = l.normalized ? std::max(x / 127.0, -1.0) : x;
                break;
            }
            case 5121:
                v = l.normalized ? *p / 255.0 : *p;
                break;
            case 5122: {
                std::int16_t x;
                std::memcpy(&x, p, 2);
                v = l.normalized ? std::max(x / 32767.0, -1.0) : x;
                break;
            }
            case 5123: {
                std::uint16_t x;
                std::memcpy(&x, p, 2);
                v = l.normalized ? x / 65535.0 : x;
                break;
            }
            case 5125: {
                std::uint32_t x;
                std::memcpy(&x, p, 4);
                v = x;
                break;
            }
            default: {
                float x;
                std::memcpy(&x, p, 4);
                v = x;
                break;
            }
            }
            *out++ = v;
        }
    }
}

std::vector<double> File::values(const JsonCursor& reference, std::size_t& count, int& components) {
    const JsonCursor a = accessor(reference);
    const Layout l = layout(a);
    components = l.components;
    count = a["count"].whole(1u << 28);
    if (count == 0) a["count"].complain("must be at least 1");
    if (const auto given = given_.find(reference.whole(0x7FFFFFFF)); given != given_.end()) {
        if (given->second.size() != count * static_cast<std::size_t>(l.components))
            a["count"].complain("is " + std::to_string(count) + " where another number of elements is packed");
        return std::exchange(given->second, {});
    }
    const JsonCursor views = root().list("bufferViews");

    // Every access is checked against the view before any memory is asked for.
    auto span_of = [&](const JsonCursor& from, const Layout& part, std::size_t n, bool mayStride) {
        const int v = from.index("bufferView", views.size());
        if (v < 0) from.complain("lacks \"bufferView\"");
        auto bytes = view(v);
        const std::uint64_t offset = from.whole("byteOffset", 0, 1ull << 33);
        std::size_t stride = part.element();
        if (mayStride && views.at(v).has("byteStride")) {
            stride = views.at(v)["byteStride"].whole(65536);
            if (stride < part.element()) views.at(v)["byteStride"].complain("is smaller than an element");
        }
        const std::uint64_t need = offset + std::uint64_t(stride) * (n - 1) + part.element();
        if (need > bytes.size())
            from.complain("reaches to byte " + std::to_string(need) + " of buffer view " + std::to_string(v) +
                          ", which has " + std::to_string(bytes.size()));
        return std::pair(bytes.subspan(offset), stride);
    };

    std::vector<double> out;
    if (a.has("bufferView")) {
        const auto [bytes, stride] = span_of(a, l, count, true);
        spend(count * l.components * sizeof(double), a);
        out.resize(count * l.components);
        copy_elements(l, bytes, stride, count, out.data());
    } else {
        spend(count * l.components * sizeof(double), a);
        if (count > (1u << 24)) a["count"].complain("is too large for an accessor without data");
        out.resize(count * l.components, 0.0);
    }
    if (a.has("sparse")) {
        const JsonCursor sparse = a["sparse"];
        const std::size_t n = sparse["count"].whole(count);
        if (n > 0) {
            Layout at;
            at.type = sparse["indices"]["componentType"].whole(0xFFFF);
            at.bytes = component_bytes(at.type);
            at.components = 1;
            if (at.type != 5121 && at.type != 5123 && at.type != 5125)
                sparse["indices"]["componentType"].complain("is not an index type");
            const auto [indexBytes, indexStride] = span_of(sparse["indices"], at, n, false);
            const auto [valueBytes, valueStride] = span_of(sparse["values"], l, n, false);
            std::vector<double> where(n), what(n * l.components);
            copy_elements(at, indexBytes, indexStride, n, where.data());
            copy_elements(l, valueBytes, valueStride, n, what.data());
            for (std::size_t i = 0; i < n; ++i) {
                const auto target = static_cast<std::size_t>(where[i]);
                if (target >= count)
                    sparse["indices"].complain("names element " + std::to_string(target) + " of " +
                                               std::to_string(count));
                std::copy_n(what.begin() + i * l.components, l.components, out.begin() + target * l.components);
            }
        }
    }
    return out;
}

void File::supply(const JsonCursor& reference, std::vector<double> values, int components, bool normalized) {
    const JsonCursor a = accessor(reference);
    const Layout l = layout(a);
    if (l.components != components)
        reference.complain("accessor has " + std::to_string(l.components) + " components where " +
                           std::to_string(components) + " are packed");
    if (l.normalized && !normalized) {
        const double most = l.type == 5120 ? 127 : l.type == 5121 ? 255 : l.type == 5122 ? 32767 : 65535;
        for (double& v : values)
            v = std::max(v / most, -1.0);
    }
    given_[reference.whole(0x7FFFFFFF)] = std::move(values);
}

std::vector<float> File::floats(const JsonCursor& reference, int wanted, std::size_t& count) {
    int have = 0;
    const std::vector<double> doubles = values(reference, count, have);
    if (have != wanted)
        reference.complain("accessor has " + std::to_string(have) + " components where " + std::to_string(wanted) +
                           " are needed");
    std::vector<float> out(doubles.size());
    for (std::size_t i = 0; i < doubles.size(); ++i) {
        if (!std::isfinite(doubles[i]))
            reference.complain("element " + std::to_string(i / wanted) + " is not a finite number");
        out[i] = static_cast<float>(doubles[i]);
    }
    return out;
}

std::vector<std::uint32_t> File::indices(const JsonCursor& reference) {
    const JsonCursor a = accessor(reference);
    const auto type = a["componentType"].whole(0xFFFF);
    if (type != 5121 && type != 5123 && type != 5125) a["componentType"].complain("is not an index type");
    std::size_t count = 0;
    int have = 0;
    const std::vector<double> doubles = values(reference, count, have);
    if (have != 1) reference.complain("indices must be scalars");
    return {doubles.begin(), doubles.end()};
}

} // namespace mirolux::gltf
