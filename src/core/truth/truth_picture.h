#pragma once
#include "core/base/error.h"
#include "core/image/image.h"
#include "core/truth/path_tracer.h"
#include <filesystem>
#include <functional>

namespace mirolux::truth {

/// A picture of truth as far as it has come: sums over samples, so that it goes on where it stopped.
struct Picture {
    int width = 0, height = 0;
    std::vector<glm::dvec3> sum;      // rows from the top
    std::vector<double> squares;      // of luminance
    std::vector<std::uint32_t> count; // samples
    std::uint64_t rays = 0;
    double seconds = 0; // that it took

    Picture() = default;
    Picture(int width, int height);
    /// The mean, four channels; alpha holds the standard error of the luminance.
    FloatImage image() const;
    /// Standard error of a pixel's luminance, cd/m2; infinite before two samples.
    double error(std::size_t pixel) const;
    /// The mean of the pixels' standard errors over their mean luminance: what is asked for as an error.
    double relative_error() const;
    std::uint32_t fewest() const;
    bool operator==(const Picture& other) const; // all but how long it took
};

struct Goal {
    std::uint32_t samples = 64; // of each pixel
    double error = 0;           // over 0: stops when relative_error() is down to it, and goes where it is largest
};

/// Goes on until the goal is met or `more` says no; it is asked a few times a second (with the share that is done) and
/// may keep what there is. Few samples come for all pixels first. The same samples give the same bits, on any number of
/// threads and however often it is stopped.
void refine(const PathTracer& tracer, Picture& picture, const Goal& goal,
            const std::function<bool(double share)>& more);
/// The same of whatever gives samples: sample `number` of a pixel, the same to the bit for the same arguments, from any
/// thread. Adds the rays that it took.
using SampleOf = std::function<glm::dvec3(int x, int y, std::uint32_t number, std::uint64_t& rays)>;
void refine(const SampleOf& sample, Picture& picture, const Goal& goal, const std::function<bool(double share)>& more);

/// How fast rays are by themselves: those of a picture's paths, asked again one after the other on one thread.
struct RaySpeed {
    std::size_t nearest = 0, toLights = 0; // how many were asked
    // Medians of the rounds; perSecond: of both kinds.
    double nearestPerSecond = 0, toLightsPerSecond = 0, perSecond = 0;
    // Rays from what the eye sees toward a source of three degrees: one by one, and eight asked together.
    double sourcePerSecond = 0, togetherPerSecond = 0;
};
RaySpeed time_rays(const PathTracer& tracer, const RayScene& rays, int rounds = 5);

/// What a picture is of: everything that changes it.
std::string digest_of(const Scene& scene, const Setup& setup, const View& view, const Options& options);

/// Where a picture of this digest is kept for this user.
std::filesystem::path kept_path(const std::string& digest);
/// Writes and reads what there is (docs/truth-format.md). Reading fails for a file that is damaged, cut off, or of
/// something else.
Result<void> write_picture(const std::filesystem::path& path, const Picture& picture, const std::string& digest);
Result<Picture> read_picture(const std::filesystem::path& path, const std::string& digest);

/// What is kept of a digest in this size, or a picture without samples; a file that cannot be used is set aside (its
/// name ends in .damaged then), and why is told.
struct Resumed {
    Picture picture;
    std::optional<Error> trouble;
};
Resumed resumed(const std::string& digest, int width, int height);

/// The layer of the frame that a layer of truth is held against, and the other way round; empty and none: there is
/// none.
std::string frame_layer(Layer layer);
std::optional<Layer> truth_of(const std::string& frameLayer);

/// Values of a layer as a picture: light as the frame's finish shows it, shares from black to white, metres from near
/// white to far black (and black where there is nothing).
ByteImage shown(const FloatImage& values, Layer layer, const Setup& setup);

/// Of Layer::visibility, both of one size, the frame's with its alpha: black in both where the frame's light does not
/// fall, for there its shadow is none of what is asked. False: it falls nowhere.
bool hold_where_lit(FloatImage& frame, FloatImage& truth);

/// How far a picture is from the truth, over all pixels and channels; each over the truth's mean.
struct Distance {
    double mean = 0; // |a - t|
    double rms = 0;
    double p95 = 0;  // of |a - t|
    double bias = 0; // a - t
};
/// Both of one size; RGB.
Distance distance(const FloatImage& picture, const FloatImage& truth);

} // namespace mirolux::truth
