#include "app/newest_task.h"
#include <utility>

namespace mirolux::app {

NewestTask::NewestTask(std::function<void()> rested) : rested_(std::move(rested)) {
    thread_ = std::thread([this] { run(); });
}

NewestTask::~NewestTask() {
    {
        const std::lock_guard lock(mutex_);
        ending_ = true;
        asked_.reset();
        ++number_;
    }
    changed_.notify_all();
    thread_.join();
}

void NewestTask::ask(Work work) {
    {
        const std::lock_guard lock(mutex_);
        asked_ = std::move(work);
        ++number_;
        busy_ = true;
    }
    changed_.notify_all();
}

void NewestTask::stop() {
    const std::lock_guard lock(mutex_);
    if (asked_) asked_ = [](const GoesOn&) {}; // not begun yet: the thread still has to come to rest
    ++number_;
}

void NewestTask::run() {
    for (;;) {
        Work work;
        std::uint64_t number = 0;
        {
            std::unique_lock lock(mutex_);
            changed_.wait(lock, [&] { return ending_ || asked_; });
            if (ending_) return;
            work = std::move(*std::exchange(asked_, std::nullopt));
            number = number_;
        }
        work([&] {
            const std::lock_guard lock(mutex_);
            return number == number_;
        });
        {
            const std::lock_guard lock(mutex_);
            busy_ = asked_.has_value();
        }
        if (!busy_) rested_();
    }
}

} // namespace mirolux::app
