#include "core/visibility/baked_file.h"

namespace mirolux {

Result<nlohmann::json> read_document(const std::filesystem::path& file, const std::string& schema, int version,
                                     const std::string& what) {
    const auto data = read_file(file);
    if (!data) return tl::unexpected(data.error());
    const char* remedy = "Compute it again.";
    try { // it throws for sizes beyond any memory, whatever it is asked
        nlohmann::json j = nlohmann::json::from_cbor(*data, true, false);
        if (!j.is_object() || !j.contains("schema") || j["schema"] != schema || !j.contains("version") ||
            !j["version"].is_number_integer())
            return fail("this is no file of " + what + ", or it is damaged", file.string(), remedy);
        if (j["version"].get<int>() > version)
            return fail("the file of " + what + " is of a newer version", file.string(), "Compute it again.");
        return j;
    } catch (const nlohmann::json::exception&) {
        return fail("the file of " + what + " is damaged", file.string(), remedy);
    }
}

Result<void> write_document(const nlohmann::json& document, const std::filesystem::path& file) {
    const std::vector<std::uint8_t> data = nlohmann::json::to_cbor(document);
    return write_file_atomically(file, data.data(), data.size());
}

std::optional<FileState> state_of(const std::filesystem::path& file) {
    FileState state{file.string()};
    std::error_code error;
    state.time = std::filesystem::last_write_time(file, error);
    if (!error) state.bytes = std::filesystem::file_size(file, error);
    if (error) return std::nullopt;
    return state;
}

} // namespace mirolux
