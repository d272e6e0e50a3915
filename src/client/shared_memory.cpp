#include "client/shared_memory.h"
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace mirolux {

static tl::unexpected<Error> refused(const std::string& what, const char* step, int error) {
    return fail(std::string("shared memory could not be ") + step + ": " + std::strerror(error), what,
                "Free some memory.");
}

Result<SharedMemory> SharedMemory::make(std::size_t bytes) {
    const std::string what = std::to_string(bytes) + " bytes";
    const int fd = memfd_create("mirolux", MFD_CLOEXEC);
    if (fd < 0) return refused(what, "made", errno);
    // posix_fallocate and not ftruncate: memory that is not there is an error here, not a SIGBUS later.
    if (const int error = posix_fallocate(fd, 0, static_cast<off_t>(bytes)); error != 0) {
        ::close(fd);
        return refused(what, "reserved", error);
    }
    void* p = mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_SHARED, fd, 0);
    if (p == MAP_FAILED) {
        const int error = errno;
        ::close(fd);
        return refused(what, "mapped", error);
    }
    return SharedMemory(fd, static_cast<std::uint8_t*>(p), bytes);
}

Result<SharedMemory> SharedMemory::take(int pid, int fd, std::size_t bytes) {
    const std::string path = "/proc/" + std::to_string(pid) + "/fd/" + std::to_string(fd);
    const int own = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (own < 0) return refused(path, "opened", errno);
    struct stat info {};
    if (fstat(own, &info) != 0 || !S_ISREG(info.st_mode) || static_cast<std::size_t>(info.st_size) < bytes) {
        ::close(own);
        return fail("shared memory is smaller than announced", path);
    }
    void* p = mmap(nullptr, bytes, PROT_READ, MAP_SHARED, own, 0);
    const int error = errno;
    ::close(own);
    if (p == MAP_FAILED) return refused(path, "mapped", error);
    return SharedMemory(-1, static_cast<std::uint8_t*>(p), bytes);
}

SharedMemory::SharedMemory(SharedMemory&& other) noexcept
    : fd_(std::exchange(other.fd_, -1)), data_(std::exchange(other.data_, nullptr)),
      size_(std::exchange(other.size_, 0)) {}

SharedMemory::~SharedMemory() {
    if (data_) munmap(data_, size_);
    if (fd_ >= 0) ::close(fd_);
}

} // namespace mirolux
