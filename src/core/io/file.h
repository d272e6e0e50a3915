#pragma once
#include "core/base/error.h"
#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

namespace mirolux {

/// Bytes of memory that this machine has.
std::size_t machine_memory();

/// The whole file. Errors: missing, unreadable, over 4 GiB.
Result<std::vector<std::uint8_t>> read_file(const std::filesystem::path& path);

/// Writes beside the file, flushes to disk and renames over it: the old content stays whole until the new one is.
Result<void> write_file_atomically(const std::filesystem::path& path, const void* data, std::size_t bytes);
Result<void> write_file_atomically(const std::filesystem::path& path, const std::string& text);

} // namespace mirolux
