#pragma once
#include "core/cost/frame_history.h"
#include "core/cost/frame_record.h"
#include "core/cost/statistics.h"
#include <functional>

namespace mirolux {

struct MeasureProgress {
    int round = 0, rounds = 0; // 0 while warming up
    double estimateMs = 0;     // running median of A's frame
    Interval ratio;            // paired: B over A so far; median 0 before there is one
    Interval frame;            // A's frame so far, ms
};

/// One kept frame: what a logbook holds of a measurement under way.
struct RoundSample {
    struct Pass {
        std::string name, family;
        double ms = 0;
    };
    std::vector<Pass> passes;
    double wholeMs = 0; // unfenced
    std::string clock;
};

struct MeasureOptions {
    int rounds = 15;
    bool gpuClock = false;
    std::uint32_t seed = 1;
    double precision =
        0; // ends early once the 95 % interval's half width, relative to its median, is no more than this; 0: never
    bool untilClear = false; // paired: ends early once a 99.8 % interval leaves 1 out and the sign test holds at 0.8 %;
                             // looked at every fourth round from the eighth on
    int injectedInB = 0;     // rounds of known work added to B's frames (self-test)
    std::function<void(const RoundSample&)> kept; // called after each kept frame of A, before the next one
    std::function<bool(const MeasureProgress&)>
        progress; // called between rounds; false stops and keeps what was measured
};

struct PassFigure {
    std::string name, family;
    Interval ms;
    Work work;
};

/// The measured cost of one setup.
struct Measurement {
    std::vector<PassFigure> passes;
    Interval frame;                          // sum of the passes, ms
    Interval whole;                          // unfenced frame, ms
    double p95 = 0, p99 = 0, worst = 0;      // of the sums, ms
    std::vector<double> frameMs;             // the sums, one a round
    std::vector<std::vector<double>> passMs; // parallel to passes, one a round
    int rounds = 0, width = 0, height = 0;
    std::uint64_t droppedLights = 0;
    int droppedObjects = 0, lightsInView = 0, lightsInScene = 0;
    std::string clock;
    double ev100 = 0; // that the frame was shown at
    bool stopped = false;
    ByteImage thumbnail;
};

/// What a tape shows of a measurement: each pass's median and the middle half of its rounds.
FrameHistory medians_of(const Measurement& measurement);

struct PassComparison {
    std::string name;
    Comparison comparison;
};

struct PairedMeasurement {
    Measurement a, b;
    Comparison frame;
    std::vector<PassComparison> passes; // of the passes that both have
};

/// What rounds alone tell: times and their intervals, without work counters and picture.
Measurement measurement_of(const std::vector<RoundSample>& rounds, std::uint32_t seed);

/// Warm-up until two successive medians of three agree within 10 % (at most 8 tries), then up to `rounds` frames, then
/// one counted frame.
Result<Measurement> measure(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                            const MeasureOptions& options);

/// The same for two setups in turn: each round a pair, its order seeded and then mirrored in the next round (AB BA).
/// Since many passes are looked at, one of them is called faster or slower only if its sign test also holds after
/// Holm's correction over all of them.
Result<PairedMeasurement> measure_paired(RenderSession& session, const Scene& scene, const Setup& a, const Setup& b,
                                         const View& view, const MeasureOptions& options);

/// The same for two states of a scene.
Result<PairedMeasurement> measure_paired(RenderSession& session, const Scene& sceneA, const Setup& a,
                                         const Scene& sceneB, const Setup& b, const View& view,
                                         const MeasureOptions& options);

} // namespace mirolux
