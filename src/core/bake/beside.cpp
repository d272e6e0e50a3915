#include "core/bake/beside.h"

namespace mirolux {

namespace {

struct Told {
    std::mutex mutex;
    std::function<void()> done;
};
Told& told() {
    static Told one;
    return one;
}

} // namespace

void read_maps_beside(std::function<void()> done) {
    const std::lock_guard lock(told().mutex);
    told().done = std::move(done);
}

std::function<void()> after_reading() {
    const std::lock_guard lock(told().mutex);
    return told().done;
}

} // namespace mirolux
