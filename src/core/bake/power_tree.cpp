#include "core/bake/power_tree.h"
#include <algorithm>
#include <bit>

namespace mirolux {

PowerTree::PowerTree(std::size_t count)
    : count_(count), leaves_(std::bit_ceil(std::max<std::size_t>(count, 2))), sums_(2 * leaves_, 0.0),
      most_(2 * leaves_, 0.0) {}

void PowerTree::join(std::size_t n) {
    sums_[n] = sums_[2 * n] + sums_[2 * n + 1];
    most_[n] = std::max(most_[2 * n], most_[2 * n + 1]);
}

void PowerTree::set(std::size_t i, double value) {
    std::size_t n = leaves_ + i;
    sums_[n] = most_[n] = value;
    while (n /= 2)
        join(n);
}

std::size_t PowerTree::largest() const {
    if (!(most_[1] > 0)) return count_;
    std::size_t n = 1;
    while (n < leaves_)
        n = most_[2 * n] == most_[n] ? 2 * n : 2 * n + 1;
    return n - leaves_;
}

} // namespace mirolux
