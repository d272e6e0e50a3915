#pragma once
#include "core/base/error.h"
#include <atomic>
#include <cstdint>
#include <string>

// Long work that is done beforehand, in slices: stopped at any time, kept on disk, gone on with.
namespace mirolux {

struct BakeProgress {
    std::size_t done = 0, all = 0; // places: texels, probes, patches
    double seconds = 0, left = 0;  // of this run; to go, from its pace
    std::uint64_t rays = 0;        // of this run
};

/// Places that are computed in their order, on all cores: what is there already stays, and a bake that was stopped goes
/// on to the same bits as one that was not.
class Bake {
public:
    virtual ~Bake() = default;
    Bake(const Bake&) = delete;
    Bake& operator=(const Bake&) = delete;

    /// Works for about so long; true: nothing is left to do.
    virtual bool work(double milliseconds, const std::atomic<bool>* stop = nullptr);
    /// Writes what there is. Errors: the disk's; what was computed stays in memory.
    virtual Result<void> keep() = 0;
    virtual BakeProgress progress() const;
    virtual const char* places() const = 0; // what its places are called, many of them
    /// That a damaged file was set aside, say; empty: nothing to say.
    const std::string& remark() const { return remark_; }

protected:
    Bake() = default;
    /// A place; at once from several threads for different ones. Adds the rays that it took.
    virtual void compute(std::size_t place, std::uint64_t& rays) = 0;
    /// How many there are, and how many a run before has left behind.
    void set_places(std::size_t all, std::size_t done, std::size_t together);

    std::size_t done() const { return done_; }
    std::size_t all() const { return all_; }
    std::string remark_;

private:
    std::size_t all_ = 0, done_ = 0, before_ = 0, together_ = 64; // together: between two looks at the clock
    std::uint64_t rays_ = 0;
    double seconds_ = 0;
};

} // namespace mirolux
