#include "client/shared_memory.h"
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace mirolux {

static tl::unexpected<Error> refused(const std::string& name, const char* step) {
    return fail(std::string("shared memory could not be ") + step + ": " + std::strerror(errno), name,
                "Free memory or space in /dev/shm.");
}

Result<SharedMemory> SharedMemory::make(const std::string& name, std::size_t bytes) {
    const int fd = shm_open(name.c_str(), O_CREAT | O_EXCL | O_RDWR | O_CLOEXEC, 0600);
    if (fd < 0) return refused(name, "made");
    // posix_fallocate and not ftruncate: a full /dev/shm is an error here, not a SIGBUS later.
    const int reserved = posix_fallocate(fd, 0, static_cast<off_t>(bytes));
    if (reserved != 0) {
        errno = reserved;
        ::close(fd);
        shm_unlink(name.c_str());
        return refused(name, "reserved");
    }
    void* p = mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_SHARED, fd, 0);
    ::close(fd);
    if (p == MAP_FAILED) {
        shm_unlink(name.c_str());
        return refused(name, "mapped");
    }
    return SharedMemory(static_cast<std::uint8_t*>(p), bytes);
}

Result<SharedMemory> SharedMemory::take(const std::string& name, std::size_t bytes) {
    const int fd = shm_open(name.c_str(), O_RDONLY | O_CLOEXEC, 0);
    if (fd < 0) return refused(name, "opened");
    shm_unlink(name.c_str());
    struct stat info {};
    if (fstat(fd, &info) != 0 || static_cast<std::size_t>(info.st_size) < bytes) {
        ::close(fd);
        return fail("shared memory is smaller than announced", name);
    }
    void* p = mmap(nullptr, bytes, PROT_READ, MAP_SHARED, fd, 0);
    ::close(fd);
    if (p == MAP_FAILED) return refused(name, "mapped");
    return SharedMemory(static_cast<std::uint8_t*>(p), bytes);
}

void SharedMemory::forget(const std::string& name) {
    shm_unlink(name.c_str());
}

SharedMemory::SharedMemory(SharedMemory&& other) noexcept
    : data_(std::exchange(other.data_, nullptr)), size_(std::exchange(other.size_, 0)) {}

SharedMemory::~SharedMemory() {
    if (data_) munmap(data_, size_);
}

} // namespace mirolux
