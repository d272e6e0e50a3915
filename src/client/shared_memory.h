#pragma once
#include "core/base/error.h"
#include <cstddef>
#include <cstdint>
#include <string>

namespace mirolux {

/// One POSIX shared-memory segment, mapped whole. The maker writes and hands over the name; the taker unlinks it at
/// once, so that nothing is left behind when either ends.
class SharedMemory {
public:
    static Result<SharedMemory> make(const std::string& name, std::size_t bytes);
    static Result<SharedMemory> take(const std::string& name, std::size_t bytes);
    static void forget(const std::string& name);
    SharedMemory(SharedMemory&& other) noexcept;
    SharedMemory& operator=(SharedMemory&&) = delete;
    ~SharedMemory();
    std::uint8_t* data() const { return data_; }
    std::size_t size() const { return size_; }

private:
    SharedMemory(std::uint8_t* data, std::size_t size) : data_(data), size_(size) {}
    std::uint8_t* data_;
    std::size_t size_;
};

} // namespace mirolux
