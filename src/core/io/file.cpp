#include "core/io/file.h"
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <sys/stat.h>
#include <unistd.h>

namespace mirolux {

std::size_t machine_memory() {
    return static_cast<std::size_t>(sysconf(_SC_PHYS_PAGES)) * static_cast<std::size_t>(sysconf(_SC_PAGE_SIZE));
}

Result<std::vector<std::uint8_t>> read_file(const std::filesystem::path& path) {
    std::error_code ec;
    if (std::filesystem::is_directory(path, ec))
        return fail("this is a folder, not a file", path.string(), "Name a file in it.");
    if (std::filesystem::exists(path, ec) && !std::filesystem::is_regular_file(path, ec))
        return fail("this is not a plain file", path.string(),
                    "Pipes and devices have no size; copy it to a file first.");
    std::ifstream in(path, std::ios::binary | std::ios::ate);
    if (!in)
        return fail(std::string("cannot be opened: ") + std::strerror(errno), path.string(),
                    "Check the path and its permissions.");
    const std::streamoff size = in.tellg();
    if (size < 0 || size > (std::streamoff(1) << 32))
        return fail("has no usable size", path.string(), "Files up to 4 GiB are read.");
    std::vector<std::uint8_t> bytes(static_cast<std::size_t>(size));
    in.seekg(0);
    if (size > 0 && !in.read(reinterpret_cast<char*>(bytes.data()), size))
        return fail("could not be read to its end", path.string(), "Check the disk.");
    return bytes;
}

Result<void> write_file_atomically(const std::filesystem::path& path, const void* data, std::size_t bytes) {
    const std::string temporary = path.string() + ".part" + std::to_string(getpid());
    auto failed = [&](const char* step) {
        const std::string reason = std::strerror(errno);
        ::unlink(temporary.c_str());
        return fail(std::string("could not be ") + step + ": " + reason, path.string(),
                    "Nothing was changed. Free space or choose another place, then try again.");
    };
    const int fd = ::open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
    if (fd < 0) return failed("created");
    const auto* p = static_cast<const char*>(data);
    std::size_t left = bytes;
    while (left > 0) {
        const ssize_t n = ::write(fd, p, left);
        if (n < 0) {
            if (errno == EINTR) continue;
            const int reason = errno;
            ::close(fd);
            errno = reason;
            return failed("written");
        }
        p += n;
        left -= static_cast<std::size_t>(n);
    }
    if (::fsync(fd) != 0 && errno != EINVAL) {
        const int reason = errno;
        ::close(fd);
        errno = reason;
        return failed("flushed to disk");
    }
    if (::close(fd) != 0) return failed("closed");
    if (::rename(temporary.c_str(), path.c_str()) != 0) return failed("put in place");
    return {};
}

Result<void> write_file_atomically(const std::filesystem::path& path, const std::string& text) {
    return write_file_atomically(path, text.data(), text.size());
}

} // namespace mirolux
