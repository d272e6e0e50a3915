#include "core/blocks/levels.h"
#include <algorithm>

namespace mirolux::blocks {

Levels& Levels::operator=(const Levels& o) {
    if (this == &o) return *this;
    chunks_ = o.chunks_;
    all_ = o.all_;
    cells_.clear();
    for (const auto& c : o.cells_)
        cells_.push_back(c ? std::make_unique<Cells>(*c) : nullptr);
    return *this;
}

std::size_t Levels::bytes() const {
    return static_cast<std::size_t>(
               std::count_if(cells_.begin(), cells_.end(), [](const auto& c) { return c != nullptr; })) *
               sizeof(Cells) +
           all_.size();
}

Neighbours::Neighbours(const Volume& v)
    : size_(v.size()), chunks_(v.chunks()), whole_(v.size() == chunk_edge * v.chunks()) {}

glm::ivec3 Neighbours::cell(std::uint32_t place) const {
    const int chunk = static_cast<int>(place / chunk_cells);
    return chunk_edge * glm::ivec3(chunk % chunks_.x, chunk / (chunks_.x * chunks_.z), chunk / chunks_.x % chunks_.z) +
           glm::ivec3(place & 31, place >> 10 & 31, place >> 5 & 31);
}

std::uint32_t Neighbours::across(std::uint32_t wrapped, std::uint32_t from, int direction) const {
    const glm::ivec3 to = cell(from) + directions[direction];
    if (to.x < 0 || to.y < 0 || to.z < 0 || to.x >= size_.x || to.y >= size_.y || to.z >= size_.z) return none;
    const int strides[count] = {1, -1, chunks_.x * chunks_.z, -chunks_.x * chunks_.z, chunks_.x, -chunks_.x};
    return wrapped + static_cast<std::uint32_t>(strides[direction] * static_cast<int>(chunk_cells));
}

} // namespace mirolux::blocks
