#pragma once
#include "core/base/error.h"
#include "core/base/recent.h"
#include "core/io/file.h"
#include "core/visibility/cells.h"
#include <nlohmann/json.hpp>

// Files of what was computed beforehand: CBOR (RFC 8949) with a schema's name and version.
namespace mirolux {

/// A document of this schema. Errors name the file: it is damaged, of something else, or of a newer version. `what`: of
/// what the file is.
Result<nlohmann::json> read_document(const std::filesystem::path& file, const std::string& schema, int version,
                                     const std::string& what);
Result<void> write_document(const nlohmann::json& document, const std::filesystem::path& file);

/// A file as it was when it was read.
struct FileState {
    std::string path;
    std::filesystem::file_time_type time{};
    std::uintmax_t bytes = 0;
    bool operator==(const FileState&) const = default;
};
/// None where there is no such file.
std::optional<FileState> state_of(const std::filesystem::path& file);

/// What a file holds, read once while it stays as it is; null where it is missing or damaged, with the reason.
template <class Value, class Read>
std::shared_ptr<const Value> kept_file(const std::filesystem::path& file, const Read& read, const std::string& missing,
                                       std::string* remark) {
    static Recent<FileState, Result<Value>> kept(4);
    const auto state = state_of(file);
    if (!state) {
        if (remark) *remark = missing;
        return nullptr;
    }
    const std::shared_ptr<const Result<Value>> held = kept.of(*state, [&](const FileState&) { return read(file); });
    if (!*held) {
        if (remark)
            *remark = held->error().what + " (" + held->error().where + "): all that the frustum touches is drawn.";
        return nullptr;
    }
    return {held, &**held};
}

} // namespace mirolux
