#include "core/io/file_lock.h"
#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>
#include <utility>

namespace mirolux {

FileLock::FileLock(FileLock&& other) noexcept : fd_(std::exchange(other.fd_, -1)) {}

FileLock& FileLock::operator=(FileLock&& other) noexcept {
    std::swap(fd_, other.fd_);
    return *this;
}

FileLock::~FileLock() {
    release();
}

bool FileLock::take(const std::filesystem::path& path) {
    release();
    const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (fd < 0) return false;
    if (::flock(fd, LOCK_EX | LOCK_NB) != 0) {
        ::close(fd);
        return false;
    }
    fd_ = fd;
    return true;
}

void FileLock::release() {
    if (fd_ >= 0) ::close(std::exchange(fd_, -1));
}

} // namespace mirolux
