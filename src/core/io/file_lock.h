#pragma once
#include <filesystem>

namespace mirolux {

/// Says to other windows that a file is open here (flock on the file itself: nothing is left behind, however we end).
class FileLock {
public:
    FileLock() = default;
    FileLock(FileLock&& other) noexcept;
    FileLock& operator=(FileLock&& other) noexcept;
    ~FileLock();
    /// Takes it; false if another holder has it, or the file cannot be opened.
    bool take(const std::filesystem::path& path);
    void release();
    bool held() const { return fd_ >= 0; }

private:
    int fd_ = -1;
};

} // namespace mirolux
