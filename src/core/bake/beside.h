#pragma once
#include "core/base/error.h"
#include <algorithm>
#include <chrono>
#include <functional>
#include <future>
#include <memory>
#include <mutex>
#include <vector>

// What was baked, read from files: at once, or on a thread of its own while nobody waits.
namespace mirolux {

enum class Patience {
    asSet, // waits until it is read, unless read_maps_beside was called: then null until it is
    waits
};
/// From now on nobody in this process waits for what was baked: it is read on a thread, which calls `done` after each.
void read_maps_beside(std::function<void()> done);
/// What is called then; empty: everybody waits.
std::function<void()> after_reading();

/// Values that were read or are being read, those asked for last first.
template <class Key, class Value>
class Beside {
public:
    using Held = std::shared_ptr<const Result<Value>>;
    /// Null: it is being read, and nobody waits.
    Held of(const Key& key, Patience patience, std::function<Result<Value>()> read) {
        std::shared_future<Held> answer;
        const std::function<void()> done = after_reading();
        const bool waits = patience == Patience::waits || !done;
        {
            const std::lock_guard lock(mutex_);
            const auto it =
                std::find_if(all_.begin(), all_.end(), [&](const auto& entry) { return entry.first == key; });
            if (it != all_.end())
                std::rotate(all_.begin(), it, it + 1);
            else {
                auto make = [read = std::move(read), done] {
                    Held made = std::make_shared<const Result<Value>>(read());
                    if (done) done();
                    return made;
                };
                all_.insert(
                    all_.begin(),
                    {key, std::async(waits ? std::launch::deferred : std::launch::async, std::move(make)).share()});
                if (all_.size() > 3) all_.pop_back();
            }
            answer = all_.front().second;
        }
        if (!waits && answer.wait_for(std::chrono::seconds(0)) == std::future_status::timeout) return nullptr;
        return answer.get();
    }

private:
    std::mutex mutex_;
    std::vector<std::pair<Key, std::shared_future<Held>>> all_;
};

} // namespace mirolux
