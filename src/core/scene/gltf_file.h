#pragma once
#include "core/base/text.h"
#include "core/io/json_cursor.h"
#include <cstdint>
#include <filesystem>
#include <map>
#include <span>
#include <string>
#include <vector>

namespace mirolux::gltf {

using Bytes = std::vector<std::uint8_t>;

/// A glTF container taken apart: its JSON, its buffers, and checked access to buffer views and accessors.
/// All functions throw ReadFailure with the JSON pointer of what is wrong.
class File {
public:
    File(const std::filesystem::path& path, std::size_t memoryLimit);

    JsonCursor root() const { return JsonCursor(json_); }
    std::uint64_t digest() const { return digest_.value; }
    std::uint64_t file_digest() const { return fileDigest_; }
    void warn(const std::string& pointer, const std::string& text);
    const std::vector<std::string>& warnings() const { return warnings_; }

    /// The bytes of a buffer view.
    std::span<const std::uint8_t> view(int index);
    /// The accessor's elements as floats, `components` each, normalised integers mapped to -1..1 or 0..1; sparse values
    /// applied.
    std::vector<float> floats(const JsonCursor& reference, int components, std::size_t& count);
    /// The accessor's scalars as unsigned integers.
    std::vector<std::uint32_t> indices(const JsonCursor& reference);
    /// Number of components of the accessor that `reference` names.
    int components(const JsonCursor& reference) const;
    /// Bytes behind a uri: a data URI or a file beside the scene.
    Bytes resource(const JsonCursor& uri);
    /// Values that stand for an accessor's own, which are packed elsewhere: `components` for each of its elements.
    /// normalized: integers are mapped already.
    void supply(const JsonCursor& reference, std::vector<double> values, int components, bool normalized);
    /// Counts decoded bytes against the limit.
    void spend(std::size_t bytes, const JsonCursor& where);

private:
    struct Layout;
    Layout layout(const JsonCursor& accessor);
    void copy_elements(const Layout& l, std::span<const std::uint8_t> bytes, std::size_t stride, std::size_t count,
                       double* out) const;
    std::vector<double> values(const JsonCursor& reference, std::size_t& count, int& components);
    JsonCursor accessor(const JsonCursor& reference) const;
    std::span<const std::uint8_t> stretch(const JsonCursor& from);

    std::filesystem::path path_;
    nlohmann::json json_;
    Bytes binary_;
    bool hasBinary_ = false;
    std::vector<Bytes> buffers_;
    std::map<int, Bytes> unpacked_;                      // by buffer view
    std::map<std::uint64_t, std::vector<double>> given_; // by accessor: of the primitive that is read
    std::vector<bool> loaded_;
    std::vector<std::string> warnings_;
    Digest digest_;
    std::uint64_t fileDigest_ = 0;
    std::size_t spent_ = 0, limit_;
};

} // namespace mirolux::gltf
