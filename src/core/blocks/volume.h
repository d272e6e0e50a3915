#pragma once
#include <array>
#include <cstdint>
#include <glm/glm.hpp>
#include <memory>
#include <optional>
#include <string>
#include <vector>

// What a Blocks stage is made of. x goes east, y up, z south; a cell's number is that of its material, 0 is air.
namespace mirolux::blocks {

inline constexpr int chunk_edge = 32;
inline constexpr std::size_t chunk_cells = std::size_t(chunk_edge) * chunk_edge * chunk_edge;
inline constexpr int largest_edge = 1024; // cells, of a volume

/// A cell's place within its chunk: x fastest, then z, then y.
inline std::size_t place_in_chunk(int x, int y, int z) {
    return static_cast<std::size_t>((x & 31) | (z & 31) << 5 | (y & 31) << 10);
}

/// A grid of cells in chunks of 32, each either of one material or with a number for each cell. A value: copies share
/// their chunks until one of them is changed.
class Volume {
public:
    using Cells = std::array<std::uint8_t, chunk_cells>;

    Volume() = default;
    /// All air; edges from 1 to `largest_edge`.
    explicit Volume(const glm::ivec3& size);
    const glm::ivec3& size() const { return size_; }
    const glm::ivec3& chunks() const { return chunks_; } // along each axis
    std::size_t chunk_count() const { return chunkList_.size(); }
    bool holds(const glm::ivec3& cell) const {
        return cell.x >= 0 && cell.y >= 0 && cell.z >= 0 && cell.x < size_.x && cell.y < size_.y && cell.z < size_.z;
    }
    /// Number of a chunk in the list: x fastest, then z, then y.
    std::size_t chunk_of(const glm::ivec3& cell) const {
        return static_cast<std::size_t>((cell.x >> 5) + chunks_.x * ((cell.z >> 5) + chunks_.z * (cell.y >> 5)));
    }
    /// Of the chunk's first cell.
    glm::ivec3 corner(std::size_t chunk) const;
    /// Air outside.
    std::uint8_t at(const glm::ivec3& cell) const {
        if (!holds(cell)) return 0;
        const Chunk& c = chunkList_[chunk_of(cell)];
        return c.cells ? (*c.cells)[place_in_chunk(cell.x, cell.y, cell.z)] : c.all;
    }
    /// Nothing outside.
    void set(const glm::ivec3& cell, std::uint8_t material);
    void fill(const glm::ivec3& low, const glm::ivec3& high, std::uint8_t material); // high: beyond the last
    /// The numbers of a chunk, null where all are the same: then `all_of`.
    const Cells* cells_of(std::size_t chunk) const { return chunkList_[chunk].cells.get(); }
    std::uint8_t all_of(std::size_t chunk) const { return chunkList_[chunk].all; }
    /// Puts a whole chunk in; one whose cells are all the same is kept as such. Cells beyond the volume are made air.
    void put(std::size_t chunk, const Cells& cells);
    void put(std::size_t chunk, std::uint8_t all);
    /// The material of a chunk whose cells within the volume are all the same, however it is kept.
    std::optional<std::uint8_t> even(std::size_t chunk) const;
    /// Chunks whose cells are kept one by one.
    std::size_t dense_chunks() const;
    /// Cells that are not air.
    std::uint64_t solid() const;
    std::size_t bytes() const { return dense_chunks() * sizeof(Cells) + chunkList_.size() * sizeof(Chunk); }
    bool operator==(const Volume& other) const; // cell by cell

private:
    struct Chunk {
        std::shared_ptr<const Cells> cells;
        std::uint8_t all = 0;
    };
    glm::ivec3 size_{0}, chunks_{0};
    std::vector<Chunk> chunkList_;
};

/// A material of cells.
struct Material {
    std::string name;
    glm::vec3 color{0.5f}; // linear
    float roughness = 0.9f, metallic = 0.0f;
    float glow = 0.0f;    // cd/m2 of white, times its colour: what the cell itself shows
    glm::ivec3 light{0};  // levels that it gives, 0 to 63 a channel; a cell that gives any is a lamp
    float opacity = 1.0f; // under 1: light passes, and loses
    int loss = 0;         // levels more than a step takes, of light that passes

    bool stops_light() const { return opacity >= 1.0f; }
    bool shines() const { return light != glm::ivec3(0); }
    bool operator==(const Material&) const = default;
};
inline constexpr int most_light = 63;

/// A model of its own cells beside the still world, which may turn.
struct Prop {
    std::string name;
    Volume cells;
    glm::vec3 place{0.0f}; // cells of the world: where its pivot stands
    glm::vec3 pivot{0.0f}; // its own cells
    float turn = 0.0f;     // radians about y, from +x toward -z
    float rate = 0.0f;     // radians a second

    bool operator==(const Prop&) const = default;
};
/// Turn of a prop at a time.
double turn_at(const Prop& prop, double seconds);
/// A direction of the world in the prop's own frame, and back.
glm::dvec3 into_prop(const glm::dvec3& direction, double turn);
glm::dvec3 out_of_prop(const glm::dvec3& direction, double turn);

/// All of a Blocks scene but its lamps in the sky. Immutable where it is shared.
struct World {
    Volume still;
    std::vector<Material> palette{Material{"air", glm::vec3(0.0f), 1, 0, 0, glm::ivec3(0), 0, 0}}; // by number
    std::vector<Prop> props;
    float edge = 0.25f; // metres of a cell

    bool operator==(const World&) const = default;
    const Material& material(std::uint8_t number) const {
        return palette[number < palette.size() ? number : 0]; // a number without a material is air
    }
};
using WorldPtr = std::shared_ptr<const World>;

} // namespace mirolux::blocks
