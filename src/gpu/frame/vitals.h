#pragma once
#include <atomic>
#include <cstdint>
#include <mutex>
#include <string>
#include <vector>

namespace mirolux::gpu {

/// Signs of life of the rendering thread, for whoever watches it from another one. beat() inside timed work is one
/// atomic add; words are put down outside of it only.
class Vitals {
public:
    /// Work goes on.
    void beat() { beats_.fetch_add(1, std::memory_order_relaxed); }
    std::uint64_t beats() const { return beats_.load(std::memory_order_relaxed); }

    /// What begins now, in words; counts as a beat.
    void enter(const std::string& doing) {
        {
            const std::lock_guard lock(mutex_);
            doing_ = doing;
            place_.store(-1, std::memory_order_relaxed);
        }
        beat();
    }
    /// The steps of what begins now; at(i) then says by number which one runs.
    void enter(const std::string& doing, std::vector<std::string> steps) {
        enter(doing);
        const std::lock_guard lock(mutex_);
        steps_ = std::move(steps);
    }
    void at(int step) {
        place_.store(step, std::memory_order_relaxed);
        beat();
    }
    std::string doing() const {
        const std::lock_guard lock(mutex_);
        const int step = place_.load(std::memory_order_relaxed);
        return step >= 0 && step < static_cast<int>(steps_.size())
                   ? doing_ + ", pass " + steps_[static_cast<std::size_t>(step)]
                   : doing_;
    }

private:
    std::atomic<std::uint64_t> beats_{0};
    std::atomic<int> place_{-1};
    mutable std::mutex mutex_;
    std::string doing_;
    std::vector<std::string> steps_;
};

} // namespace mirolux::gpu
