#pragma once
#include "core/base/error.h"
#include "core/scene/project.h"
#include "core/visibility/visibility.h"
#include <atomic>
#include <chrono>
#include <filesystem>

// Visibility beforehand: space is cut into cells where the eye may be; for each the objects that any eye in it sees are
// found by rays, and kept in a file beside the project.
namespace mirolux {

/// A cell's place: times the edge, its lowest corner in the world.
struct CellPlace {
    int x = 0, y = 0, z = 0;
    auto operator<=>(const CellPlace&) const = default;
};

/// The sets of objects that are seen from cells. A scene that differs in what stands still, or another way to find
/// them, has another digest.
struct VisibleSets {
    std::string digest;
    float edge = 2.0f;                            // metres
    std::size_t objects = 0;                      // of the scene
    std::vector<CellPlace> cells;                 // ascending
    std::vector<std::vector<std::uint64_t>> seen; // parallel to cells: a bit for each object
    double seconds = 0;                           // that rays took, over all runs
    std::uint64_t rays = 0;

    /// Into cells; -1: the point lies in none.
    int cell_at(const glm::vec3& point) const;
    /// A bit for each object that is seen from the point's cell or one at most `growth` cells from it; empty: the point
    /// lies in no cell.
    std::vector<std::uint64_t> seen_from(const glm::vec3& point, int growth) const;
    /// Takes a cell in, or its set anew.
    void put(const CellPlace& place, std::vector<std::uint64_t> bits);
    std::size_t bytes() const { return cells.size() * (sizeof(CellPlace) + (objects + 63) / 64 * 8); }
    struct Count {
        double mean = 0;
        std::size_t most = 0;
    };
    Count count() const; // objects of a cell
};
inline bool has_bit(const std::vector<std::uint64_t>& bits, std::size_t i) {
    return (bits[i / 64] >> (i % 64) & 1) != 0;
}
CellPlace cell_place(const glm::vec3& point, float edge);

/// Digest of what stands still, and of what of that hides.
std::string still_digest(const Scene& scene, const Setup& setup);
/// Digest of all that the sets depend on: what stands still and how, and the settings that say how rays look.
std::string cells_digest(const Scene& scene, const Setup& setup);

/// The file of sets with this digest.
std::filesystem::path cells_file(const std::filesystem::path& bakes, const std::string& digest);
/// CBOR (RFC 8949); docs/baked-format.md describes it.
Result<void> write_cells(const VisibleSets& sets, const std::filesystem::path& file);
/// Errors name the file: it is damaged, of a newer version, or of something else.
Result<VisibleSets> read_cells(const std::filesystem::path& file);
/// The sets that hold for the scene as it stands, from its folder of bakes; null where there are none. `remark`: why
/// not, a sentence. The few asked for last are kept until their file changes. From any thread.
std::shared_ptr<const VisibleSets> cells_of(const Scene& scene, const Setup& setup, std::string* remark = nullptr);

/// Where cells are wanted.
enum class Cover { walk, floor, box };
Cover cover_of(const Setup& setup);
/// Cells along the project's walks and around its cameras; all that a person of 1.7 m gets to from there, over steps of
/// up to 0.6 m; or all of the scene's box. Errors: none, or too many (over 200,000).
Result<std::vector<CellPlace>> wanted_cells(const Project& project, const Scene& scene, const Setup& setup);

/// How many rays a cell takes: uniform over all directions, so many that an object is found with the confidence asked
/// for if it shows a patch of `visibility.patch` degrees square, on the mean over the eyes in the cell:
/// ln(1 - confidence) / ln(1 - patch / 4 pi). After them `visibility.aimed` rays go to random points of each object
/// that was not found: one of whose surface the share p is seen is found with 1 - (1 - p)^n.
std::uint64_t rays_of_cell(const Setup& setup);

/// Finds the sets of cells by rays, cell by cell, on all cores. What is there already stays: a bake that was stopped
/// goes on. Keeps what it has in the file every few seconds, and at its end.
class CellBake {
public:
    struct Progress {
        std::size_t done = 0, all = 0; // cells
        double seconds = 0, left = 0;  // of this run; to go, from its pace
    };
    /// Errors: the folder cannot be made; the file there is damaged (it is set aside under another name first).
    static Result<std::unique_ptr<CellBake>> begin(const Scene& scene, const Setup& setup,
                                                   std::vector<CellPlace> wanted);
    ~CellBake();
    /// Works for at least one cell and about so long; true: nothing is left to do. Errors: the file cannot be written;
    /// what was found stays in memory.
    Result<bool> work(double milliseconds, const std::atomic<bool>* stop = nullptr);
    /// Writes what there is.
    Result<void> keep();
    Progress progress() const;
    const VisibleSets& sets() const;
    const std::filesystem::path& file() const;
    const std::string& remark() const; // that a damaged file was set aside, say; empty: nothing to say

private:
    struct State;
    explicit CellBake(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

} // namespace mirolux
