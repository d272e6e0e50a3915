#pragma once
#include "core/base/error.h"
#include <cstddef>
#include <cstdint>
#include <string>

namespace mirolux {

/// Memory without a name that one process writes and another reads (memfd_create): it lives as long as someone holds
/// it, so that nothing is left behind, however either ends.
class SharedMemory {
public:
    static Result<SharedMemory> make(std::size_t bytes);
    /// What the process `pid` of the same user holds as its file descriptor `fd`.
    static Result<SharedMemory> take(int pid, int fd, std::size_t bytes);
    SharedMemory(SharedMemory&& other) noexcept;
    SharedMemory& operator=(SharedMemory&&) = delete;
    ~SharedMemory();
    std::uint8_t* data() const { return data_; }
    std::size_t size() const { return size_; }
    int fd() const { return fd_; }

private:
    SharedMemory(int fd, std::uint8_t* data, std::size_t size) : fd_(fd), data_(data), size_(size) {}
    int fd_;
    std::uint8_t* data_;
    std::size_t size_;
};

} // namespace mirolux
