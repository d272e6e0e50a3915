#include "core/blocks/volume.h"
#include <algorithm>
#include <cassert>
#include <cmath>

namespace mirolux::blocks {

Volume::Volume(const glm::ivec3& size)
    : size_(size), chunks_((size + (chunk_edge - 1)) / chunk_edge),
      chunkList_(static_cast<std::size_t>(chunks_.x) * static_cast<std::size_t>(chunks_.y) *
                 static_cast<std::size_t>(chunks_.z)) {
    assert(size.x > 0 && size.y > 0 && size.z > 0);
    assert(size.x <= largest_edge && size.y <= largest_edge && size.z <= largest_edge);
}

glm::ivec3 Volume::corner(std::size_t chunk) const {
    const int i = static_cast<int>(chunk);
    return chunk_edge * glm::ivec3(i % chunks_.x, i / (chunks_.x * chunks_.z), i / chunks_.x % chunks_.z);
}

void Volume::set(const glm::ivec3& cell, std::uint8_t material) {
    if (!holds(cell)) return;
    Chunk& c = chunkList_[chunk_of(cell)];
    const std::size_t at = place_in_chunk(cell.x, cell.y, cell.z);
    if ((c.cells ? (*c.cells)[at] : c.all) == material) return;
    std::shared_ptr<Cells> own;
    if (c.cells && c.cells.use_count() == 1)
        own = std::const_pointer_cast<Cells>(c.cells); // nobody else has it
    else {
        own = std::make_shared<Cells>();
        if (c.cells)
            *own = *c.cells;
        else
            own->fill(c.all);
    }
    (*own)[at] = material;
    c.cells = std::move(own);
}

void Volume::fill(const glm::ivec3& low, const glm::ivec3& high, std::uint8_t material) {
    const glm::ivec3 a = glm::max(low, glm::ivec3(0)), b = glm::min(high, size_);
    for (int y = a.y; y < b.y; ++y)
        for (int z = a.z; z < b.z; ++z)
            for (int x = a.x; x < b.x; ++x)
                set({x, y, z}, material);
}

void Volume::put(std::size_t chunk, const Cells& cells) {
    const glm::ivec3 inside = glm::min(size_ - corner(chunk), glm::ivec3(chunk_edge));
    auto own = std::make_shared<Cells>(cells);
    for (int y = 0; y < chunk_edge; ++y)
        for (int z = 0; z < chunk_edge; ++z)
            for (int x = 0; x < chunk_edge; ++x)
                if (x >= inside.x || y >= inside.y || z >= inside.z) (*own)[place_in_chunk(x, y, z)] = 0;
    chunkList_[chunk] = {std::move(own), 0};
    if (const auto all = even(chunk)) put(chunk, *all);
}

std::optional<std::uint8_t> Volume::even(std::size_t chunk) const {
    const Chunk& c = chunkList_[chunk];
    if (!c.cells) return c.all;
    const glm::ivec3 inside = glm::min(size_ - corner(chunk), glm::ivec3(chunk_edge));
    for (int y = 0; y < inside.y; ++y)
        for (int z = 0; z < inside.z; ++z)
            for (int x = 0; x < inside.x; ++x)
                if ((*c.cells)[place_in_chunk(x, y, z)] != (*c.cells)[0]) return std::nullopt;
    return (*c.cells)[0];
}

void Volume::put(std::size_t chunk, std::uint8_t all) {
    chunkList_[chunk] = {nullptr, all};
}

std::size_t Volume::dense_chunks() const {
    return static_cast<std::size_t>(
        std::count_if(chunkList_.begin(), chunkList_.end(), [](const Chunk& c) { return c.cells != nullptr; }));
}

std::uint64_t Volume::solid() const {
    std::uint64_t n = 0;
    for (std::size_t i = 0; i < chunkList_.size(); ++i) {
        const glm::ivec3 low = corner(i), inside = glm::min(size_ - low, glm::ivec3(chunk_edge));
        const Chunk& c = chunkList_[i];
        if (c.cells)
            n += chunk_cells - static_cast<std::uint64_t>(std::count(c.cells->begin(), c.cells->end(), 0));
        else if (c.all != 0)
            n += static_cast<std::uint64_t>(inside.x) * static_cast<std::uint64_t>(inside.y) *
                 static_cast<std::uint64_t>(inside.z);
    }
    return n;
}

bool Volume::operator==(const Volume& o) const {
    if (size_ != o.size_) return false;
    for (std::size_t i = 0; i < chunkList_.size(); ++i) {
        const Chunk &a = chunkList_[i], &b = o.chunkList_[i];
        if (a.cells == b.cells && (a.cells || a.all == b.all)) continue;
        const glm::ivec3 low = corner(i), inside = glm::min(size_ - low, glm::ivec3(chunk_edge));
        for (int y = 0; y < inside.y; ++y)
            for (int z = 0; z < inside.z; ++z)
                for (int x = 0; x < inside.x; ++x) {
                    const std::size_t at = place_in_chunk(x, y, z);
                    if ((a.cells ? (*a.cells)[at] : a.all) != (b.cells ? (*b.cells)[at] : b.all)) return false;
                }
    }
    return true;
}

double turn_at(const Prop& prop, double seconds) {
    return prop.turn + prop.rate * seconds;
}

glm::dvec3 out_of_prop(const glm::dvec3& d, double turn) {
    const double c = std::cos(turn), s = std::sin(turn);
    return {c * d.x + s * d.z, d.y, -s * d.x + c * d.z};
}

glm::dvec3 into_prop(const glm::dvec3& d, double turn) {
    return out_of_prop(d, -turn);
}

} // namespace mirolux::blocks
