#include "core/bake/bake.h"
#include "core/base/parallel.h"
#include <algorithm>
#include <chrono>

namespace mirolux {

void Bake::set_places(std::size_t all, std::size_t done, std::size_t together) {
    all_ = all;
    done_ = before_ = done;
    together_ = together;
}

bool Bake::work(double milliseconds, const std::atomic<bool>* stop) {
    const auto start = std::chrono::steady_clock::now();
    const auto passed = [&] {
        return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    };
    while (done_ < all_ && passed() < milliseconds && !(stop && *stop)) {
        const std::size_t first = done_, last = std::min(first + together_, all_);
        std::atomic<std::uint64_t> taken{0};
        parallel_for(0, static_cast<int>(last - first), [&](int i) {
            std::uint64_t own = 0;
            compute(first + static_cast<std::size_t>(i), own);
            taken += own;
        });
        rays_ += taken;
        done_ = last;
    }
    seconds_ += passed() / 1000;
    return done_ == all_;
}

BakeProgress Bake::progress() const {
    const std::size_t own = done_ - before_;
    return {done_, all_, seconds_, own > 0 ? seconds_ / double(own) * double(all_ - done_) : 0, rays_};
}

} // namespace mirolux
