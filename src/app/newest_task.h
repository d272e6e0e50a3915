#pragma once
#include <atomic>
#include <condition_variable>
#include <functional>
#include <mutex>
#include <optional>
#include <thread>

namespace mirolux::app {

/// A thread that does the newest thing it was asked for; what came before it is told that it no longer counts.
class NewestTask {
public:
    using GoesOn = std::function<bool()>; // false: something newer was asked for, or it is to stop
    using Work = std::function<void(const GoesOn&)>;
    /// rested: called on the thread when nothing more is asked for.
    explicit NewestTask(std::function<void()> rested);
    ~NewestTask(); // waits for what is being done
    void ask(Work work);
    void stop();
    bool busy() const { return busy_; }

private:
    void run();

    std::function<void()> rested_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<Work> asked_;
    std::uint64_t number_ = 0; // of the newest
    bool ending_ = false;
    std::atomic<bool> busy_ = false;
    std::thread thread_;
};

} // namespace mirolux::app
