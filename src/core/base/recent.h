#pragma once
#include <algorithm>
#include <memory>
#include <mutex>
#include <vector>

namespace mirolux {

/// The few values asked for last, each made from its key at most once while it is kept. From any thread: whoever asks
/// for one that is being made waits for it.
template <class Key, class Value>
class Recent {
public:
    explicit Recent(std::size_t most) : most_(most) {}
    template <class Make>
    std::shared_ptr<const Value> of(const Key& key, Make make) {
        const std::lock_guard lock(mutex_);
        const auto it = std::find_if(kept_.begin(), kept_.end(), [&](const auto& entry) { return entry.first == key; });
        if (it != kept_.end()) {
            std::rotate(kept_.begin(), it, it + 1);
            return kept_.front().second;
        }
        kept_.insert(kept_.begin(), {key, std::make_shared<const Value>(make(key))});
        if (kept_.size() > most_) kept_.pop_back();
        return kept_.front().second;
    }

private:
    const std::size_t most_;
    std::mutex mutex_;
    std::vector<std::pair<Key, std::shared_ptr<const Value>>> kept_; // the latest first
};

} // namespace mirolux
