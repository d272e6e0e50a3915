#pragma once
#include "core/cost/measure.h"

namespace mirolux {

struct SelftestOptions {
    int runs = 10;   // paired measurements of A against A, and as many with a slowdown
    int rounds = 30; // of each
    int overheadRounds = 60;
    double slowdown = 0.05; // share of the frame that is injected first; doubled until it is found
    bool gpuClock = false;
    std::uint32_t seed = 1;
    std::function<bool(const std::string& step, int done, int all)> progress; // false stops
};

/// Whether measurements of this device and scene can be trusted.
struct SelftestReport {
    ClockReport clock;
    int runs = 0, rounds = 0;
    Comparison clockOverhead; // whole unfenced frames with the GPU clock's queries in them over the same without, in
                              // paired rounds
    int falseAlarms = 0,
        allowedAlarms = 0; // A against A: verdicts other than "not shown"; the 99 % bound of a binomial with 5 %
    struct Injection {
        double asked = 0, injected = 0; // share of the frame: as asked, and as the known work measures
        int found = 0;                  // verdict "slower"
    };
    std::vector<Injection> injections;
    double smallestFound = 0; // share found in at least 95 of 100 runs; 0: none of those tried
    bool trusted() const { return falseAlarms <= allowedAlarms && smallestFound > 0; }
};

/// A against A must come out "not shown" at the nominal rate, and a slowdown of known size must be found: a pass doing
/// known work is added to B. Costs 2 x runs x rounds frame pairs for each size tried.
Result<SelftestReport> selftest(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                                const SelftestOptions& options);

/// What the clock costs the frames that it times: whole frames, unfenced, with queries and without, each round a pair
/// in seeded order.
Result<Comparison> clock_overhead(RenderSession& session, const Scene& scene, const Setup& setup, const View& view,
                                  int rounds, std::uint32_t seed);

/// Most successes of n trials of probability p that stay under the bound `level` of the binomial distribution.
int binomial_bound(int n, double p, double level);

} // namespace mirolux
